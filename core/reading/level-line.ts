import type { Column } from "../series/batch.ts";
import { firstAtOrAfter } from "../series/merge-columns.ts";
import type { LevelRollup, Rollup } from "../series/rollup.ts";
import { PiecedLine } from "./pieced-line.ts";
import { type Grid, stepAt, stepStart } from "./step.ts";
import type { Steps } from "./steps.ts";
import { TimesOnGrid } from "./times-on-grid.ts";

/** Samples that each hold until the next, for their reach at most. */
export class LevelLine extends PiecedLine {
  readonly #clippedOf: (times: TimesOnGrid) => TimesOnGrid;
  #times: TimesOnGrid | undefined;
  #lastMs = Number.NaN;
  #lastValue = Number.NaN;
  #lastReach = 0;

  constructor(
    steps: Steps,
    grid: Grid,
    clipFromMs: number,
    clipToMs: number,
    clippedOf: (times: TimesOnGrid) => TimesOnGrid,
  ) {
    super(steps, grid, clipFromMs, clipToMs);
    this.#clippedOf = clippedOf;
  }

  addSamples(times: TimesOnGrid, { timeMs, value }: Column): void {
    this.#closeAt(timeMs[0]);
    const { ofEvery } = this.steps;
    if (ofEvery === "mean" || ofEvery === "sum") this.#addHeld(times, value);
    else this.#addEach(times, value);
    if (this.withExtremes) {
      this.#seeSamples(timeMs, value);
      this.#seeNewest(timeMs, value, times.reach, times.lastHoldsUntilMs);
    }
    const last = timeMs.length - 1;
    this.#hold(timeMs[last], value[last], times.lastHoldsUntilMs - timeMs[last], times);
  }

  addBuckets(rollup: Rollup, reaches: Float64Array): void {
    const { startMs, firstMs, lastMs, last } = rollup;
    const { ofEvery } = this.steps;
    if (rollup.kind === "level" && ofEvery === "mean" && startMs.length > 0) {
      this.#addMeans(rollup, reaches);
      return;
    }
    for (let i = 0; i < startMs.length; i++) {
      this.#closeAt(firstMs[i]);
      const step = stepAt(this.grid, firstMs[i]);
      if (step >= 0 && step < this.grid.count) {
        if (rollup.kind === "level") this.#addBucket(step, rollup, i);
        else if (ofEvery === "count") this.steps.addSum(step, rollup.count[i], 0);
        else this.steps.add(step, last[i], 1);
      }
      this.infinite += rollup.infinite.length > 0 ? rollup.infinite[i] : 0;
      if (this.withExtremes && lastMs[i] < this.clipToMs) {
        this.newest = last[i];
        this.newestUntilMs = lastMs[i] + reaches[i];
      }
      this.#hold(lastMs[i], last[i], reaches[i], undefined);
    }
  }

  /**
   * The most frequent case in a loop of its own: each bucket, and what its last sample holds until the next bucket
   * begins.
   */
  #addMeans(rollup: LevelRollup, reaches: Float64Array): void {
    const { firstMs, lastMs, last, integral, coveredMs, infinite } = rollup;
    const { steps, grid } = this;
    const { kept, weight } = steps;
    const n = firstMs.length;
    this.#closeAt(firstMs[0]);
    let step = -1;
    let startMs = Number.POSITIVE_INFINITY;
    let endMs = Number.NEGATIVE_INFINITY;
    for (let i = 0; i < n; i++) {
      const from = firstMs[i];
      const to = lastMs[i];
      if (!(from >= startMs && from < endMs)) {
        step = stepAt(grid, from);
        startMs = stepStart(grid, step);
        endMs = stepStart(grid, step + 1);
      }
      let sum = integral[i];
      let covered = coveredMs[i];
      if (i + 1 < n) {
        const until = Math.min(firstMs[i + 1], to + reaches[i]);
        const here = Math.min(until, endMs);
        if (here > to) {
          sum += last[i] * (here - to);
          covered += here - to;
        }
        if (until > endMs) {
          const value = last[i];
          const begin = Math.max(to, endMs);
          const next = step + 1;
          // Nearly always no farther than the next step.
          if (step >= 0 && next < kept.length && until <= stepStart(grid, next + 1)) {
            const held = value * (until - begin);
            kept[next] = weight[next] === 0 ? held : kept[next] + held;
            weight[next] += until - begin;
          } else this.spread(begin, until, (k, ms) => steps.add(k, value, ms));
        }
      }
      if (step >= 0 && step < kept.length) {
        kept[step] = weight[step] === 0 ? sum : kept[step] + sum;
        weight[step] += covered;
      }
      if (infinite.length > 0) this.infinite += infinite[i];
    }
    if (this.withExtremes) this.#seeBuckets(rollup, reaches);
    this.#hold(lastMs[n - 1], last[n - 1], reaches[n - 1], undefined);
  }

  /** The least, the most and the newest of buckets that lie in the clip. */
  #seeBuckets({ firstMs, lastMs, last, min, max }: LevelRollup, reaches: Float64Array): void {
    if (min.length === 0) return;
    for (let i = 0; i < firstMs.length; i++) {
      if (lastMs[i] < this.clipFromMs || firstMs[i] >= this.clipToMs) continue;
      if (!(this.least <= min[i])) this.least = min[i];
      if (!(this.most >= max[i])) this.most = max[i];
      if (lastMs[i] >= this.clipToMs) continue;
      this.newest = last[i];
      this.newestUntilMs = lastMs[i] + reaches[i];
    }
  }

  /** The last of all holds for its reach. */
  end(): void {
    this.#closeAt(Number.POSITIVE_INFINITY);
  }

  #hold(atMs: number, value: number, reachMs: number, times: TimesOnGrid | undefined): void {
    this.#lastMs = atMs;
    this.#lastValue = value;
    this.#lastReach = reachMs;
    this.#times = times;
  }

  #closeAt(nextMs: number): void {
    const value = this.#lastValue;
    const from = this.#lastMs;
    this.#lastValue = Number.NaN;
    if (value - value !== 0) return;
    const until = Math.min(nextMs, from + this.#lastReach);
    const { ofEvery } = this.steps;
    if (ofEvery === "mean") this.spread(from, until, (step, ms) => this.steps.add(step, value, ms));
    else if (ofEvery === "sum")
      this.spread(Math.max(from, this.clipFromMs), Math.min(until, this.clipToMs), (step, ms) =>
        this.steps.add(step, value, ms),
      );
    else if (ofEvery !== "count") this.#holdSteps(from, until, nextMs, value);
  }

  /** Steps that have no sample of their own hold the one before. */
  #holdSteps(fromMs: number, untilMs: number, nextMs: number, value: number): void {
    const times =
      this.#times ??
      new TimesOnGrid(Float64Array.of(fromMs), this.grid, Number.NEGATIVE_INFINITY, Number.POSITIVE_INFINITY);
    const held = times.heldBetween(
      times.timeMs.length - 1,
      untilMs,
      nextMs === Number.POSITIVE_INFINITY ? this.grid.count : stepAt(this.grid, nextMs),
    );
    for (let k = held?.fromStep ?? 0; k < (held?.toStep ?? 0); k++) this.steps.add(k, value, 1);
  }

  /** What each sample held of each step, in a loop a step. A sum that is a number has no NaN in it. */
  #addHeld(times: TimesOnGrid, value: Float64Array): void {
    const isMean = this.steps.ofEvery === "mean";
    const { heldSpans } = isMean ? times : this.#clippedOf(times);
    const { step, from, to, first, last, covered } = heldSpans;
    const { distances } = times;
    const { kept, weight } = this.steps;
    for (let k = 0; k < step.length; k++) {
      const begin = from[k];
      const end = to[k] - 1;
      let sum = value[begin] * first[k];
      for (let i = begin + 1; i < end; i++) sum += value[i] * distances[i];
      if (end > begin) sum += value[end] * last[k];
      if (sum - sum === 0) {
        const at = step[k];
        const before = kept[at];
        kept[at] = Number.isNaN(before) ? sum : before + sum;
        if (isMean) weight[at] += covered[k];
      } else
        for (let i = begin; i <= end; i++)
          this.#addFinite(step[k], value[i], i === begin ? first[k] : i === end ? last[k] : distances[i]);
    }
  }

  #addFinite(step: number, v: number, ms: number): void {
    if (v - v === 0) this.steps.add(step, v, ms);
    else if (!Number.isNaN(v)) this.infinite++;
  }

  #addEach(times: TimesOnGrid, value: Float64Array): void {
    const at = times.steps;
    const held = this.steps.ofEvery === "count" ? [] : times.held;
    let next = 0;
    for (let i = 0; i < at.length; i++) {
      const step = at[i];
      const v = value[i];
      const isNumber = v - v === 0;
      if (step >= 0 && isNumber) this.steps.add(step, v, 1);
      else if (step >= 0 && !Number.isNaN(v)) this.infinite++;
      for (; next < held.length && held[next]?.index === i; next++) {
        const { fromStep, toStep } = held[next] as (typeof held)[0];
        if (isNumber) for (let k = fromStep; k < toStep; k++) this.steps.add(k, v, 1);
      }
    }
  }

  #seeSamples(timeMs: Float64Array, value: Float64Array): void {
    const from = firstAtOrAfter(timeMs, this.clipFromMs);
    const end = firstAtOrAfter(timeMs, this.clipToMs);
    let least = Number.POSITIVE_INFINITY;
    let most = Number.NEGATIVE_INFINITY;
    for (let i = from; i < end; i++) {
      const v = value[i];
      if (v < least) least = v;
      if (v > most) most = v;
    }
    if (least === Number.NEGATIVE_INFINITY || most === Number.POSITIVE_INFINITY)
      [least, most] = finiteEnds(value, from, end);
    if (least <= most) this.see(least, most);
  }

  /** The newest sample that stands before the end of the clip; `untilMs` of the last one says how long it holds. */
  #seeNewest(timeMs: Float64Array, value: Float64Array, reachMs: number, untilMs: number): void {
    for (let i = timeMs.length - 1; i >= 0; i--) {
      const v = value[i];
      if (timeMs[i] >= this.clipToMs || v - v !== 0) continue;
      this.newest = v;
      this.newestUntilMs = i === timeMs.length - 1 ? untilMs : Math.min(timeMs[i + 1], timeMs[i] + reachMs);
      return;
    }
  }

  /**
   * Which share of a bucket's time lies in the clip: all or nothing, but for windows that begin or end inside a bucket
   * whose samples are not kept any more.
   */
  #shareInside({ firstMs, lastMs }: LevelRollup, i: number): number {
    const [from, to] = [firstMs[i], lastMs[i]];
    const inside = Math.min(to, this.clipToMs) - Math.max(from, this.clipFromMs);
    return to > from ? Math.max(0, inside) / (to - from) : 0;
  }

  #addBucket(step: number, rollup: LevelRollup, i: number): void {
    const { steps } = this;
    switch (steps.ofEvery) {
      case "mean":
        steps.addSum(step, rollup.integral[i], rollup.coveredMs[i]);
        break;
      case "sum":
        if (this.#shareInside(rollup, i) > 0) steps.addSum(step, rollup.integral[i] * this.#shareInside(rollup, i), 0);
        break;
      case "count":
        if (rollup.firstMs[i] >= this.clipFromMs && rollup.firstMs[i] < this.clipToMs)
          steps.addSum(step, rollup.count[i], 0);
        break;
      case "min":
      case "max":
        steps.add(step, rollup[steps.ofEvery][i], 1);
        break;
      default:
        steps.add(step, rollup.last[i], 1);
    }
    if (
      this.withExtremes &&
      rollup.min.length > 0 &&
      rollup.lastMs[i] >= this.clipFromMs &&
      rollup.firstMs[i] < this.clipToMs
    )
      this.see(rollup.min[i], rollup.max[i]);
  }
}

/** The least and the most of `value[from..end)` that are finite; infinite where none is. */
function finiteEnds(value: Float64Array, from: number, end: number): [least: number, most: number] {
  let least = Number.POSITIVE_INFINITY;
  let most = Number.NEGATIVE_INFINITY;
  for (let i = from; i < end; i++) {
    const v = value[i];
    if (v - v !== 0) continue;
    if (v < least) least = v;
    if (v > most) most = v;
  }
  return [least, most];
}
