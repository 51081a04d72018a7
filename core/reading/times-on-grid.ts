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
 * How long each sample holds within each step. Span k is of the step `step[k]`: the samples from `from[k]` up to
 * `to[k]` each hold until the next, but for the first, which
 * holds `first[k]` ms of the step, and the last, which holds `last[k]` (where it is the only one, `first[k]` alone
 * counts). Together they are `covered[k]`. Where a sample
 * holds no longer than its reach, a span ends. What the last sample of all holds is not among them.
 */
export interface HeldSpans {
  readonly step: Int32Array;
  readonly from: Int32Array;
  readonly to: Int32Array;
  readonly first: Float64Array;
  readonly last: Float64Array;
  readonly covered: Float64Array;
}

const noSpans: HeldSpans = {
  step: new Int32Array(0),
  from: new Int32Array(0),
  to: new Int32Array(0),
  first: new Float64Array(0),
  last: new Float64Array(0),
  covered: new Float64Array(0),
};

/**
 * Where an array of times falls on a grid, within `[clipFromMs, clipToMs)`. Series of one source share the array, so
 * this is worked
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
  #distances: Float64Array | undefined;

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
    this.#lastHoldsUntilMs ??=
      last < 0
        ? Number.NEGATIVE_INFINITY
        : this.timeMs[last] + Math.max(leastHoldMs, holdMs(this.timeMs, last, this.reach));
    return this.#lastHoldsUntilMs;
  }

  /** The step of each sample; −1 outside. */
  get steps(): Int32Array {
    if (this.#steps) return this.#steps;
    const { timeMs, grid, clipFromMs, clipToMs } = this;
    const steps = new Int32Array(timeMs.length);
    for (let i = 0; i < steps.length; i++) {
      const time = timeMs[i];
      steps[i] = time >= clipFromMs && time < clipToMs ? stepAt(grid, time) : -1;
    }
    this.#steps = steps;
    return steps;
  }

  /** How far each sample but the last stands before the next, ms. */
  get distances(): Float64Array {
    if (this.#distances) return this.#distances;
    const { timeMs } = this;
    const distances = new Float64Array(Math.max(0, timeMs.length - 1));
    for (let i = 0; i < distances.length; i++) distances[i] = timeMs[i + 1] - timeMs[i];
    this.#distances = distances;
    return distances;
  }

  /** What each sample but the last holds of each step. */
  get heldSpans(): HeldSpans {
    this.#heldSpans ??= this.#findHeldSpans();
    return this.#heldSpans;
  }

  #findHeldSpans(): HeldSpans {
    const { timeMs, grid, clipFromMs, clipToMs, reach } = this;
    const end = timeMs.length - 1;
    if (end < 1) return noSpans;
    // A span ends with a step or where a sample holds no longer.
    const most =
      end + Math.max(0, Math.min(grid.count, stepAt(grid, timeMs[end]) + 1) - Math.max(0, stepAt(grid, timeMs[0]))) + 1;
    const [step, from, to] = [new Int32Array(most), new Int32Array(most), new Int32Array(most)];
    const [first, last, covered] = [new Float64Array(most), new Float64Array(most), new Float64Array(most)];
    let count = 0;
    // The open span: its step, its first sample, and where it began.
    let now = -1;
    let begin = 0;
    let beganMs = 0;
    let stepEndMs = Number.NEGATIVE_INFINITY;
    let limitMs = Number.NEGATIVE_INFINITY;
    const close = (i: number, lastFromMs: number, untilMs: number) => {
      if (untilMs <= beganMs) return;
      step[count] = now;
      from[count] = begin;
      to[count] = i + 1;
      first[count] = i === begin ? untilMs - beganMs : timeMs[begin + 1] - beganMs;
      last[count] = i === begin ? 0 : untilMs - lastFromMs;
      covered[count++] = untilMs - beganMs;
    };
    let isOpen = false;
    for (let i = 0; i < end; i++) {
      const time = timeMs[i];
      const next = timeMs[i + 1];
      const together = next - time <= reach;
      if (isOpen && together && next < limitMs) continue; // most samples: whole within the open span
      const until = Math.min(clipToMs, together ? next : time + holdMs(timeMs, i, reach));
      const at = Math.max(time, clipFromMs);
      if (until <= at) {
        if (isOpen) close(i - 1, timeMs[i - 1], Math.min(time, until));
        isOpen = false;
        continue;
      }
      if (!isOpen) {
        now = stepAt(grid, at);
        stepEndMs = stepStart(grid, now + 1);
        begin = i;
        beganMs = at;
        isOpen = true;
      }
      while (until >= stepEndMs) {
        close(i, at, stepEndMs);
        now++;
        begin = i;
        beganMs = stepEndMs;
        stepEndMs = stepStart(grid, now + 1);
      }
      limitMs = Math.min(stepEndMs, clipToMs);
      if (until < next) {
        close(i, at, until);
        isOpen = false;
      } else if (beganMs >= next) isOpen = false; // the step begins with the next sample
    }
    if (isOpen) close(end - 1, timeMs[end - 1], timeMs[end]);
    return {
      step: step.subarray(0, count),
      from: from.subarray(0, count),
      to: to.subarray(0, count),
      first: first.subarray(0, count),
      last: last.subarray(0, count),
      covered: covered.subarray(0, count),
    };
  }

  /**
   * Steps that have no sample of their own and hold that of a sample before them, in ascending order; what the last one
   * holds is not among them.
   */
  get held(): readonly Held[] {
    if (this.#held) return this.#held;
    const { timeMs, grid, reach } = this;
    const held: Held[] = [];
    for (let i = 0; i + 1 < timeMs.length; i++) {
      const time = timeMs[i];
      const one = this.heldBetween(i, time + holdMs(timeMs, i, reach), stepAt(grid, timeMs[i + 1]));
      if (one) held.push(one);
    }
    this.#held = held;
    return held;
  }

  /** The steps after that of sample `i` that begin before `untilMs`, up to the step `endStep`. */
  heldBetween(i: number, untilMs: number, endStep: number): Held | undefined {
    const { timeMs, grid, clipFromMs, clipToMs } = this;
    const limit = Math.min(untilMs, clipToMs);
    const fromStep = Math.max(0, stepAt(grid, Math.max(timeMs[i], clipFromMs - 1)) + 1);
    let toStep = Math.min(endStep, grid.count, stepAt(grid, limit) + 1);
    if (toStep > fromStep && stepStart(grid, toStep - 1) >= limit) toStep--;
    return fromStep < toStep ? { index: i, fromStep, toStep } : undefined;
  }

  /**
   * For each pair of neighbours (the later one at the index): its step where it lies in one, else `pairSpans` or
   * `pairSkipped`.
   */
  get pairs(): Int32Array {
    if (this.#pairs) return this.#pairs;
    const { timeMs, grid, clipFromMs, clipToMs, reach } = this;
    const pairs = new Int32Array(timeMs.length).fill(pairSkipped);
    for (let i = 1; i < timeMs.length; i++) {
      const from = timeMs[i - 1];
      const to = timeMs[i];
      if (to <= clipFromMs || from >= clipToMs || !isTogether(timeMs, i, reach)) continue;
      const step = stepAt(grid, from);
      pairs[i] = from >= clipFromMs && to <= clipToMs && to <= stepStart(grid, step + 1) ? step : pairSpans;
    }
    this.#pairs = pairs;
    return pairs;
  }
}
