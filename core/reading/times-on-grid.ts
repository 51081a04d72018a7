import { isTogether, reachMs } from "../series/interval.ts";
import type { Grid } from "./step.ts";

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

/** Samples `from`, `from + 1` … (`count` of them) are the steps `step`, `step + 1` … */
export interface Run {
  readonly from: number;
  readonly step: number;
  readonly count: number;
}

/**
 * Where an array of times falls on a grid, within `[clipFromMs, clipToMs)`. Series of one source share the array, so this is worked
 * out once for all of them.
 */
export class TimesOnGrid {
  readonly timeMs: Float64Array;
  readonly grid: Grid;
  readonly clipFromMs: number;
  readonly clipToMs: number;
  #reach: number | undefined;
  #steps: Int32Array | undefined;
  #single = true;
  #run: Run | "none" | undefined;
  #spans: Int32Array | undefined;
  #held: Held[] | undefined;
  #pairs: Int32Array | undefined;

  constructor(timeMs: Float64Array, grid: Grid, clipFromMs: number, clipToMs: number) {
    this.timeMs = timeMs;
    this.grid = grid;
    this.clipFromMs = Math.max(grid.fromMs, clipFromMs);
    this.clipToMs = Math.min(grid.fromMs + grid.count * grid.stepMs, clipToMs);
  }

  /** How far apart two samples may be and still belong together, ms. */
  get reach(): number {
    if (this.#reach === undefined) this.#reach = reachMs(this.timeMs);
    return this.#reach;
  }

  /** The step of each sample; −1 outside. */
  get steps(): Int32Array {
    if (this.#steps) return this.#steps;
    const { timeMs, grid, clipFromMs, clipToMs } = this;
    const steps = new Int32Array(timeMs.length);
    let before = -1;
    for (let i = 0; i < steps.length; i++) {
      const time = timeMs[i] as number;
      const step = time >= clipFromMs && time < clipToMs ? Math.floor((time - grid.fromMs) / grid.stepMs) : -1;
      if (step >= 0 && step === before) this.#single = false;
      steps[i] = before = step;
    }
    this.#steps = steps;
    return steps;
  }

  /** For each step that has samples, one after the other: the step, its first sample, and the one after its last. */
  get spans(): Int32Array {
    if (this.#spans) return this.#spans;
    const { steps } = this;
    const spans: number[] = [];
    for (let i = 0; i < steps.length; ) {
      const step = steps[i] as number;
      let end = i + 1;
      while (end < steps.length && steps[end] === step) end++;
      if (step >= 0) spans.push(step, i, end);
      i = end;
    }
    this.#spans = Int32Array.from(spans);
    return this.#spans;
  }

  /** Whether every step has one sample or none, and none holds an earlier value: then a step is its sample, however it is reduced. */
  get isPlain(): boolean {
    return this.run !== undefined || (this.steps.length > 0 && this.#single && this.held.length === 0);
  }

  /** Where the samples' steps follow one another without a gap, which is plain: the first sample inside, its step, and how many there are. */
  get run(): Run | undefined {
    if (this.#run === undefined) this.#run = this.#findRun() ?? "none";
    return this.#run === "none" ? undefined : this.#run;
  }

  #findRun(): Run | undefined {
    const { steps } = this;
    let from = 0;
    while (from < steps.length && steps[from] === -1) from++;
    let count = 0;
    while (from + count < steps.length && steps[from + count] === (steps[from] as number) + count) count++;
    for (let i = from + count; i < steps.length; i++) if (steps[i] !== -1) return undefined;
    return count > 0 ? { from, step: steps[from] as number, count } : undefined;
  }

  /** Steps between two samples that belong together and have none of their own, in ascending order. */
  get held(): readonly Held[] {
    if (this.#held) return this.#held;
    const { timeMs, grid, clipFromMs, clipToMs, reach } = this;
    const held: Held[] = [];
    const firstStep = Math.ceil((clipFromMs - grid.fromMs) / grid.stepMs);
    const endStep = Math.floor((clipToMs - grid.fromMs) / grid.stepMs);
    for (let i = 0; i + 1 < timeMs.length; i++) {
      const time = timeMs[i] as number;
      const next = timeMs[i + 1] as number;
      if (!isTogether(timeMs, i + 1, reach)) continue;
      const fromStep = Math.max(firstStep, Math.floor((time - grid.fromMs) / grid.stepMs) + 1);
      const toStep = Math.min(endStep, Math.floor((next - grid.fromMs) / grid.stepMs));
      if (fromStep < toStep) held.push({ index: i, fromStep, toStep });
    }
    this.#held = held;
    return held;
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
      const step = Math.floor((from - grid.fromMs) / grid.stepMs);
      pairs[i] = from >= clipFromMs && to <= clipToMs && to <= grid.fromMs + (step + 1) * grid.stepMs ? step : pairSpans;
    }
    this.#pairs = pairs;
    return pairs;
  }
}
