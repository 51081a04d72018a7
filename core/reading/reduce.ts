import type { Column } from "../series/batch.ts";
import { increases } from "../series/increase.ts";
import { isTogether, reachMs } from "../series/interval.ts";
import type { LevelRollup, Rollup, TotalRollup } from "../series/rollup.ts";
import type { As, OfEvery } from "./document.ts";
import type { Grid } from "./step.ts";
import { Steps, type Values } from "./steps.ts";
import { pairSkipped, pairSpans, TimesOnGrid } from "./times-on-grid.ts";

/** What was read of one series: buckets of rollups for the past, samples from `rawFromMs` on (and some before it, for rates and held values). */
export interface SeriesParts {
  readonly rollups: readonly RollupPart[];
  readonly rawFromMs: number;
  readonly raw: Column;
}

/** Buckets in `[fromMs, toMs)`. Parts do not overlap and ascend. */
export interface RollupPart {
  readonly resolutionMs: number;
  readonly fromMs: number;
  readonly toMs: number;
  readonly rollup: Rollup;
}

/** Brings one series of samples onto the grid: `as` says what is read from them, `ofEvery` what is kept of each step. */
export function reduceSeries(column: Column, grid: Grid, as: As, ofEvery: OfEvery): Values {
  return new SeriesReducer(grid).reduce({ rollups: [], rawFromMs: Number.NEGATIVE_INFINITY, raw: column }, as, ofEvery);
}

/** Whether rollups hold what is asked for; where they do not, samples must be read. */
export function rollupsAnswer(kind: Rollup["kind"], as: As, ofEvery: OfEvery): boolean {
  if (kind === "level") return as === "value" && ["mean", "min", "max", "sum", "count", "last"].includes(ofEvery);
  if (as === "rate") return ["mean", "min", "max"].includes(ofEvery);
  return as === "increase" ? ofEvery === "sum" : ofEvery === "last" || ofEvery === "count";
}

/** What gives the sample itself where there is one. */
const ofOneSample: ReadonlySet<OfEvery> = new Set(["mean", "min", "max", "sum", "first", "last"]);

export function givesOneSample(ofEvery: OfEvery): boolean {
  return ofOneSample.has(ofEvery);
}

/** Brings series after series onto one grid; what depends on times only is worked out once for series that share them. */
export class SeriesReducer {
  readonly #grid: Grid;
  readonly #onGrid = new WeakMap<Float64Array, TimesOnGrid>();
  /** Series of one source mostly come together. */
  #last: TimesOnGrid | undefined;

  constructor(grid: Grid) {
    this.#grid = grid;
  }

  /** Where the samples fall, if a step is its one sample whatever is kept of it; undefined where there is more to it. */
  plainTimes({ rollups, rawFromMs, raw }: SeriesParts, as: As, ofEvery: OfEvery): TimesOnGrid | undefined {
    if (as !== "value" || rollups.length > 0 || !ofOneSample.has(ofEvery)) return undefined;
    const times = this.#timesOf(raw.timeMs, rawFromMs);
    return times.isPlain ? times : undefined;
  }

  reduce({ rollups, rawFromMs, raw }: SeriesParts, as: As, ofEvery: OfEvery): Values {
    const steps = new Steps(this.#grid.count, ofEvery);
    for (const part of rollups) {
      if (part.rollup.kind === "level") addLevelBuckets(steps, this.#grid, part.rollup, part);
      else addTotalBuckets(steps, this.#grid, part.rollup, as);
    }
    if (raw.timeMs.length > 0) {
      const times = this.#timesOf(raw.timeMs, rawFromMs);
      if (as === "value") addLevels(steps, times, raw.value);
      else if (as === "rate") addRates(steps, times, raw);
      else addIncreases(steps, times, raw);
    }
    return steps.finish();
  }

  #timesOf(timeMs: Float64Array, rawFromMs: number): TimesOnGrid {
    if (this.#last?.timeMs === timeMs) return this.#last;
    let times = this.#onGrid.get(timeMs);
    if (!times) this.#onGrid.set(timeMs, (times = new TimesOnGrid(timeMs, this.#grid, rawFromMs, Number.POSITIVE_INFINITY)));
    this.#last = times;
    return times;
  }
}

/** Samples fall into the step that holds their time; a step between two samples that belong together holds the earlier one's value. */
function addLevels(steps: Steps, times: TimesOnGrid, value: Float64Array): void {
  const { ofEvery } = steps;
  const at = times.steps;
  const held = ofEvery === "count" || ofEvery === "sum" ? [] : times.held;
  if (held.length === 0 && ofEvery === "mean") {
    addMeans(steps, times, value);
    return;
  }
  let next = 0;
  for (let i = 0; i < at.length; i++) {
    const step = at[i] as number;
    const v = value[i] as number;
    if (step >= 0 && !Number.isNaN(v)) steps.add(step, v, 1);
    for (; next < held.length && held[next]?.index === i; next++) {
      const { fromStep, toStep } = held[next] as (typeof held)[0];
      if (!Number.isNaN(v)) for (let k = fromStep; k < toStep; k++) steps.add(k, v, 1);
    }
  }
}

/** The most frequent case in a loop a step: four times as fast. A sum that is a number has no NaN in it. */
function addMeans(steps: Steps, times: TimesOnGrid, value: Float64Array): void {
  const { kept, weight } = steps;
  const { spans } = times;
  for (let k = 0; k < spans.length; k += 3) {
    const step = spans[k] as number;
    const start = spans[k + 1] as number;
    const end = spans[k + 2] as number;
    let sum = 0;
    for (let i = start; i < end; i++) sum += value[i] as number;
    if (!Number.isNaN(sum) && Number.isNaN(kept[step])) {
      kept[step] = sum;
      weight[step] = end - start;
    } else for (let i = start; i < end; i++) if (!Number.isNaN(value[i])) steps.add(step, value[i] as number, 1);
  }
}

/** An increase is spread evenly over the time between its two samples; no rate is taken over a gap. The mean is weighted by time. */
function addRates(steps: Steps, times: TimesOnGrid, raw: Column): void {
  const { grid, timeMs, clipFromMs, clipToMs, pairs } = times;
  const { kept, weight } = steps;
  const grown = increases(raw);
  const mean = steps.ofEvery === "mean";
  for (let i = 1; i < pairs.length; i++) {
    const pair = pairs[i] as number;
    const step = grown[i - 1] as number;
    if (pair === pairSkipped || Number.isNaN(step)) continue;
    const from = timeMs[i - 1] as number;
    const to = timeMs[i] as number;
    if (pair !== pairSpans) {
      if (mean) {
        const w = weight[pair] as number;
        kept[pair] = w === 0 ? step * 1000 : (kept[pair] as number) + step * 1000;
        weight[pair] = w + to - from;
      } else steps.add(pair, (step * 1000) / (to - from), to - from);
      continue;
    }
    const perSecond = (step * 1000) / (to - from);
    const end = Math.min(to, clipToMs);
    const first = Math.max(0, Math.floor((Math.max(from, clipFromMs) - grid.fromMs) / grid.stepMs));
    for (let k = first; k < grid.count; k++) {
      const start = grid.fromMs + k * grid.stepMs;
      if (start >= end) break;
      const overlap = Math.min(end, start + grid.stepMs) - Math.max(from, start, clipFromMs);
      if (overlap > 0) steps.add(k, perSecond, overlap);
    }
  }
}

/** An increase counts whole in the step that holds its later sample, gaps included: what was counted meanwhile did happen. */
function addIncreases(steps: Steps, times: TimesOnGrid, raw: Column): void {
  const at = times.steps;
  const grown = increases(raw);
  for (let i = 1; i < at.length; i++) {
    const step = at[i] as number;
    const v = grown[i - 1] as number;
    if (step >= 0 && !Number.isNaN(v)) steps.add(step, v, 1);
  }
}

function addLevelBuckets(steps: Steps, grid: Grid, rollup: LevelRollup, { resolutionMs }: RollupPart): void {
  const { startMs } = rollup;
  const plane = levelPlane(rollup, steps.ofEvery);
  const adds = steps.ofEvery === "mean" || steps.ofEvery === "sum" || steps.ofEvery === "count";
  for (let i = 0; i < startMs.length; i++) {
    const step = Math.floor(((startMs[i] as number) - grid.fromMs) / grid.stepMs);
    if (!(step >= 0 && step < grid.count)) continue;
    if (adds) steps.addSum(step, plane[i] as number, rollup.count[i] as number);
    else steps.add(step, plane[i] as number, 1);
  }
  if (steps.ofEvery === "sum" || steps.ofEvery === "count" || startMs.length < 2) return;
  const reach = Math.max(reachMs(startMs), resolutionMs);
  if (reach <= grid.stepMs) return;
  for (let i = 0; i + 1 < startMs.length; i++) {
    const start = startMs[i] as number;
    const next = startMs[i + 1] as number;
    if (!isTogether(startMs, i + 1, reach)) continue;
    const until = Math.min(grid.count, Math.floor((next - grid.fromMs) / grid.stepMs));
    // Buckets that are further apart than they are long hold one sample: whatever is kept of it is what is held.
    const value = steps.ofEvery === "mean" ? (rollup.sum[i] as number) / (rollup.count[i] as number) : (plane[i] as number);
    for (let held = Math.max(0, Math.floor((start - grid.fromMs) / grid.stepMs) + 1); held < until; held++) steps.add(held, value, 1);
  }
}

function levelPlane(rollup: LevelRollup, ofEvery: OfEvery): Float64Array {
  switch (ofEvery) {
    case "mean":
    case "sum":
      return rollup.sum;
    case "count":
    case "min":
    case "max":
      return rollup[ofEvery];
    default:
      return rollup.last;
  }
}

function addTotalBuckets(steps: Steps, grid: Grid, rollup: TotalRollup, as: As): void {
  for (let i = 0; i < rollup.startMs.length; i++) {
    const step = Math.floor(((rollup.startMs[i] as number) - grid.fromMs) / grid.stepMs);
    if (!(step >= 0 && step < grid.count)) continue;
    if (as === "rate") {
      const covered = rollup.coveredMs[i] as number;
      if (covered === 0) continue;
      if (steps.ofEvery === "mean") steps.addSum(step, (rollup.grown[i] as number) * 1000, covered);
      else steps.add(step, (steps.ofEvery === "min" ? rollup.slowest[i] : rollup.fastest[i]) as number, 1);
    } else if ((rollup.count[i] as number) > 0) {
      if (as === "increase") steps.addSum(step, rollup.increase[i] as number, 0);
      else if (steps.ofEvery === "count") steps.addSum(step, rollup.count[i] as number, 0);
      else steps.add(step, rollup.last[i] as number, 1);
    }
  }
}
