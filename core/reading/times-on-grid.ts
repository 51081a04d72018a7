import { holdMs, isTogether, leastHoldMs, reachMs } from "../series/interval.ts";
import { type Grid, gridEnd, stepAt, stepStart } from "./step.ts";

/** A pair of neighbouring samples over which no rate is taken. */
export const pairSkipped = -1;
/** A pair that more than one step has a part of. */
export const pairSpans = -2;

/** A stretch of steps without a sample of their own, which hold the value of sample `index`. */
export interface Held {
  readonly index: number;
  readonly fromStep: number;
  readonly toStep: number;
}

/**
 * How long each sample holds within each step, ms: the samples `from[k]` up to `to[k]` have parts of the step `step[k]`, as long as `weights` says one
 * after the other, all spans in one list; together they are `covered[k]`. The last sample holds for its reach, or until whatever `nextMs` says.
 */
export interface HeldSpans {
  readonly step: Int32Array;
  readonly from: Int32Array;
  readonly to: Int32Array;
  readonly weights: Float64Array;
  readonly covered: Float64Array;
}

/**
 * Where an array of times falls on a grid, within `[clipFromMs, clipToMs)`. Series of one source share the array, so this is worked
 * out once for all of them. `intervalMs` is the present interval of the source, NaN where only the times tell it.
 */
export class TimesOnGrid {
  readonly timeMs: Float64Array;
  readonly grid: Grid;
  readonly clipFromMs: number;
  readonly clipToMs: number;
  readonly intervalMs: number;
  #lastHoldsUntilMs: number | undefined;
  #reach: number | undefined;
  #steps: Int32Array | undefined;
  #held: Held[] | undefined;
  #heldSpans: HeldSpans | undefined;
  #pairs: Int32Array | undefined;

  constructor(timeMs: Float64Array, grid: Grid, clipFromMs: number, clipToMs: number, intervalMs = Number.NaN) {
    this.timeMs = timeMs;
    this.grid = grid;
    this.clipFromMs = Math.max(grid.fromMs, clipFromMs);
    this.clipToMs = Math.min(gridEnd(grid), clipToMs);
    this.intervalMs = intervalMs;
  }

  /** How far apart two samples may be and still belong together, ms. */
  get reach(): number {
    if (this.#reach === undefined) this.#reach = reachMs(this.timeMs, this.intervalMs);
    return this.#reach;
  }

  /** Until when the newest sample holds where no other follows, ms. */
  get lastHoldsUntilMs(): number {
    const last = this.timeMs.length - 1;
    this.#lastHoldsUntilMs ??= last < 0 ? Number.NEGATIVE_INFINITY : (this.timeMs[last] as number) + Math.max(leastHoldMs, holdMs(this.timeMs, last, this.reach));
    return this.#lastHoldsUntilMs;
  }

  /** The step of each sample; −1 outside. */
  get steps(): Int32Array {
    if (this.#steps) return this.#steps;
    const { timeMs, grid, clipFromMs, clipToMs } = this;
    const steps = new Int32Array(timeMs.length);
    for (let i = 0; i < steps.length; i++) {
      const time = timeMs[i] as number;
      steps[i] = time >= clipFromMs && time < clipToMs ? stepAt(grid, time) : -1;
    }
    this.#steps = steps;
    return steps;
  }

  /** What each sample but the last holds of each step. */
  get heldSpans(): HeldSpans {
    if (this.#heldSpans) return this.#heldSpans;
    const { timeMs, grid, clipFromMs, clipToMs, reach } = this;
    const steps: number[] = [];
    const from: number[] = [];
    const to: number[] = [];
    const weights: number[] = [];
    const covered: number[] = [];
    let step = -1;
    let endMs = Number.NEGATIVE_INFINITY;
    for (let i = 0; i + 1 < timeMs.length; i++) {
      const time = timeMs[i] as number;
      const next = timeMs[i + 1] as number;
      let until = next - time <= reach ? next : time + holdMs(timeMs, i, reach);
      if (until > clipToMs) until = clipToMs;
      let at = Math.max(time, clipFromMs);
      if (until <= at) continue;
      if (at >= endMs) {
        step = stepAt(grid, at);
        endMs = stepStart(grid, step + 1);
      }
      for (;;) {
        const end = Math.min(endMs, until);
        const last = steps.length - 1;
        if (last >= 0 && steps[last] === step) {
          to[last] = i + 1;
          (covered[last] as number) += end - at;
        } else {
          steps.push(step);
          from.push(i);
          to.push(i + 1);
          covered.push(end - at);
        }
        weights.push(end - at);
        if (end >= until) break;
        at = end;
        endMs = stepStart(grid, ++step + 1);
      }
    }
    this.#heldSpans = { step: Int32Array.from(steps), from: Int32Array.from(from), to: Int32Array.from(to), weights: Float64Array.from(weights), covered: Float64Array.from(covered) };
    return this.#heldSpans;
  }

  /** Steps that have no sample of their own and hold that of a sample before them, in ascending order; what the last one holds is not among them. */
  get held(): readonly Held[] {
    if (this.#held) return this.#held;
    const { timeMs, grid, reach } = this;
    const held: Held[] = [];
    for (let i = 0; i + 1 < timeMs.length; i++) {
      const time = timeMs[i] as number;
      const one = this.heldBetween(i, time + holdMs(timeMs, i, reach), stepAt(grid, timeMs[i + 1] as number));
      if (one) held.push(one);
    }
    this.#held = held;
    return held;
  }

  /** The steps after that of sample `i` that begin before `untilMs`, up to the step `endStep`. */
  heldBetween(i: number, untilMs: number, endStep: number): Held | undefined {
    const { timeMs, grid, clipFromMs, clipToMs } = this;
    const limit = Math.min(untilMs, clipToMs);
    const fromStep = Math.max(0, stepAt(grid, Math.max(timeMs[i] as number, clipFromMs - 1)) + 1);
    let toStep = Math.min(endStep, grid.count, stepAt(grid, limit) + 1);
    if (toStep > fromStep && stepStart(grid, toStep - 1) >= limit) toStep--;
    return fromStep < toStep ? { index: i, fromStep, toStep } : undefined;
  }

  /** For each pair of neighbours (the later one at the index): its step where it lies in one, else `pairSpans` or `pairSkipped`. */
  get pairs(): Int32Array {
    if (this.#pairs) return this.#pairs;
    const { timeMs, grid, clipFromMs, clipToMs, reach } = this;
    const pairs = new Int32Array(timeMs.length).fill(pairSkipped);
    for (let i = 1; i < timeMs.length; i++) {
      const from = timeMs[i - 1] as number;
      const to = timeMs[i] as number;
      if (to <= clipFromMs || from >= clipToMs || !isTogether(timeMs, i, reach)) continue;
      const step = stepAt(grid, from);
      pairs[i] = from >= clipFromMs && to <= clipToMs && to <= stepStart(grid, step + 1) ? step : pairSpans;
    }
    this.#pairs = pairs;
    return pairs;
  }
}
