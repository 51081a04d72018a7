import type { Falls } from "../counters/counter.ts";
import type { Column } from "../series/batch.ts";
import { growthBetween, increases } from "../series/increase.ts";
import { firstAtOrAfter } from "../series/merge-columns.ts";
import { bucketReaches, type LevelRollup, type Rollup, type TotalRollup } from "../series/rollup.ts";
import type { As, OfEvery } from "./document.ts";
import { type Grid, gridEnd, stepAt, stepStart } from "./step.ts";
import { Steps, type Values } from "./steps.ts";
import { pairSkipped, pairSpans, TimesOnGrid } from "./times-on-grid.ts";

/** A stretch of what was read of one series: samples, or buckets that lie each within one step. */
export type Piece = Column | Rollup;

/** What is known of a series beside its samples. */
export interface SeriesTraits {
  readonly falls: Falls;
  /** The present interval of its source in ms; NaN where only its times tell it. */
  readonly intervalMs: number;
}

/** One series on the grid. */
export interface Reduced {
  readonly values: Values;
  /** The least and the most of its samples (of a rate: of its stretches) inside the clip; NaN where there are none. */
  readonly least: number;
  readonly most: number;
  /** The newest sample inside the clip and until when it holds, ms; NaN where there is none, and of rates. */
  readonly newest: number;
  readonly newestUntilMs: number;
  /** The mean of all that is known; NaN where it is none of a mean. */
  readonly mean: number;
}

/** When a series was heard last, among what was read, and until when that holds, ms. */
export interface LastHeard {
  readonly atMs: number;
  readonly holdsUntilMs: number;
}

const usualTraits: SeriesTraits = { falls: "restart", intervalMs: Number.NaN };

/** Brings one series of samples onto the grid: `as` says what is read from them, `ofEvery` what is kept of each step. */
export function reduceSeries(column: Column, grid: Grid, as: As, ofEvery: OfEvery, traits: SeriesTraits = usualTraits): Values {
  return new SeriesReducer(grid).reduce([column], as, ofEvery, traits).values;
}

/** Whether rollups hold what is asked for; where they do not, samples must be read. */
export function rollupsAnswer(kind: Rollup["kind"], as: As, ofEvery: OfEvery): boolean {
  if (kind === "level") return as === "value" && ["mean", "min", "max", "sum", "count", "last"].includes(ofEvery);
  if (as === "rate") return ["mean", "min", "max"].includes(ofEvery);
  return as === "increase" ? ofEvery === "sum" : ofEvery === "last" || ofEvery === "count";
}

/** Brings series after series onto one grid; what depends on times only is worked out once for series that share them. */
export class SeriesReducer {
  readonly #grid: Grid;
  readonly #clipFromMs: number;
  readonly #clipToMs: number;
  readonly #onGrid = new WeakMap<Float64Array, TimesOnGrid>();
  readonly #onClip = new WeakMap<TimesOnGrid, TimesOnGrid>();
  /** Series of one source mostly come together. */
  #last: TimesOnGrid | undefined;
  /** Infinite samples that were left out. */
  #infinite = 0;

  /** What is summed, and the least and most of samples, are of `[clipFromMs, clipToMs)`; all else fills its steps. */
  constructor(grid: Grid, clipFromMs = Number.NEGATIVE_INFINITY, clipToMs = Number.POSITIVE_INFINITY) {
    this.#grid = grid;
    this.#clipFromMs = Math.max(grid.fromMs, clipFromMs);
    this.#clipToMs = Math.min(gridEnd(grid), clipToMs);
  }

  get infinite(): number {
    return this.#infinite;
  }

  /** Where the samples fall, worked out once for all that share the array. */
  timesOf(timeMs: Float64Array, intervalMs: number): TimesOnGrid {
    if (this.#last?.timeMs === timeMs) return this.#last;
    let times = this.#onGrid.get(timeMs);
    if (!times) this.#onGrid.set(timeMs, (times = new TimesOnGrid(timeMs, this.#grid, Number.NEGATIVE_INFINITY, Number.POSITIVE_INFINITY, intervalMs)));
    this.#last = times;
    return times;
  }

  /** The same times within the clip, for what is summed. */
  #clipped(times: TimesOnGrid): TimesOnGrid {
    if (this.#clipFromMs <= times.clipFromMs && this.#clipToMs >= times.clipToMs) return times;
    let clipped = this.#onClip.get(times);
    if (!clipped) this.#onClip.set(times, (clipped = new TimesOnGrid(times.timeMs, this.#grid, this.#clipFromMs, this.#clipToMs, times.intervalMs)));
    return clipped;
  }

  lastHeard(pieces: readonly Piece[], { intervalMs }: SeriesTraits): LastHeard | undefined {
    for (let k = pieces.length - 1; k >= 0; k--) {
      const piece = pieces[k] as Piece;
      if (lengthOf(piece) === 0) continue;
      if (!isRollup(piece)) return { atMs: piece.timeMs[piece.timeMs.length - 1] as number, holdsUntilMs: this.timesOf(piece.timeMs, intervalMs).lastHoldsUntilMs };
      const last = piece.lastMs[piece.lastMs.length - 1] as number;
      return { atMs: last, holdsUntilMs: last + (bucketReaches(piece, intervalMs).at(-1) as number) };
    }
    return undefined;
  }

  /** `pieces` ascend in time. `withExtremes` has the least and the most looked for as well. */
  reduce(pieces: readonly Piece[], as: As, ofEvery: OfEvery, traits: SeriesTraits = usualTraits, withExtremes = false): Reduced {
    const steps = new Steps(this.#grid.count, ofEvery);
    const line = as === "value" ? new LevelLine(steps, this.#grid, this.#clipFromMs, this.#clipToMs, (times) => this.#clipped(times)) : new GrowthLine(steps, this.#grid, as, this.#clipFromMs, this.#clipToMs, traits.falls);
    line.withExtremes = withExtremes;
    for (const piece of pieces) {
      if (lengthOf(piece) === 0) continue;
      if (!isRollup(piece)) line.addSamples(this.timesOf(piece.timeMs, traits.intervalMs), piece);
      else line.addBuckets(piece, bucketReaches(piece, traits.intervalMs));
    }
    line.end();
    this.#infinite += line.infinite;
    const mean = ofEvery === "mean" ? steps.meanOfAll : Number.NaN;
    return { values: steps.finish(), least: line.least, most: line.most, newest: line.newest, newestUntilMs: line.newestUntilMs, mean };
  }
}

function isRollup(piece: Piece): piece is Rollup {
  return "kind" in piece;
}

function lengthOf(piece: Piece): number {
  return isRollup(piece) ? piece.startMs.length : piece.timeMs.length;
}

/** What both kinds of lines have. */
abstract class PiecedLine {
  withExtremes = false;
  infinite = 0;
  least = Number.NaN;
  most = Number.NaN;
  newest = Number.NaN;
  newestUntilMs = Number.NaN;
  protected readonly steps: Steps;
  protected readonly grid: Grid;
  protected readonly clipFromMs: number;
  protected readonly clipToMs: number;

  constructor(steps: Steps, grid: Grid, clipFromMs: number, clipToMs: number) {
    this.steps = steps;
    this.grid = grid;
    this.clipFromMs = clipFromMs;
    this.clipToMs = clipToMs;
  }

  protected see(least: number, most: number): void {
    if (!(this.least <= least)) this.least = least;
    if (!(this.most >= most)) this.most = most;
  }

  /** Calls `take` for each step that has a part of `[fromMs, toMs)`, with how long that is. */
  protected spread(fromMs: number, toMs: number, take: (step: number, ms: number) => void): void {
    const from = Math.max(fromMs, this.grid.fromMs);
    const to = Math.min(toMs, gridEnd(this.grid));
    for (let k = from < to ? stepAt(this.grid, from) : this.grid.count; k < this.grid.count; k++) {
      const start = stepStart(this.grid, k);
      if (start >= to) break;
      const ms = Math.min(to, stepStart(this.grid, k + 1)) - Math.max(from, start);
      if (ms > 0) take(k, ms);
    }
  }
}

/** Samples that each hold until the next, for their reach at most. */
class LevelLine extends PiecedLine {
  readonly #clippedOf: (times: TimesOnGrid) => TimesOnGrid;
  #times: TimesOnGrid | undefined;
  #lastMs = Number.NaN;
  #lastValue = Number.NaN;
  #lastReach = 0;

  constructor(steps: Steps, grid: Grid, clipFromMs: number, clipToMs: number, clippedOf: (times: TimesOnGrid) => TimesOnGrid) {
    super(steps, grid, clipFromMs, clipToMs);
    this.#clippedOf = clippedOf;
  }

  addSamples(times: TimesOnGrid, { timeMs, value }: Column): void {
    this.#closeAt(timeMs[0] as number);
    const { ofEvery } = this.steps;
    if (ofEvery === "mean" || ofEvery === "sum") this.#addHeld(times, value);
    else this.#addEach(times, value);
    if (this.withExtremes) {
      this.#seeSamples(timeMs, value);
      this.#seeNewest(timeMs, value, times.reach, times.lastHoldsUntilMs);
    }
    const last = timeMs.length - 1;
    this.#hold(timeMs[last] as number, value[last] as number, times.lastHoldsUntilMs - (timeMs[last] as number), times);
  }

  addBuckets(rollup: Rollup, reaches: Float64Array): void {
    const { startMs, firstMs, lastMs, last } = rollup;
    const { ofEvery } = this.steps;
    if (rollup.kind === "level" && ofEvery === "mean" && startMs.length > 0) {
      this.#addMeans(rollup, reaches);
      return;
    }
    for (let i = 0; i < startMs.length; i++) {
      this.#closeAt(firstMs[i] as number);
      const step = stepAt(this.grid, firstMs[i] as number);
      if (step >= 0 && step < this.grid.count) {
        if (rollup.kind === "level") this.#addBucket(step, rollup, i);
        else if (ofEvery === "count") this.steps.addSum(step, rollup.count[i] as number, 0);
        else this.steps.add(step, last[i] as number, 1);
      }
      this.infinite += rollup.infinite.length > 0 ? (rollup.infinite[i] as number) : 0;
      if (this.withExtremes && (lastMs[i] as number) < this.clipToMs) {
        this.newest = last[i] as number;
        this.newestUntilMs = (lastMs[i] as number) + (reaches[i] as number);
      }
      this.#hold(lastMs[i] as number, last[i] as number, reaches[i] as number, undefined);
    }
  }

  /** The most frequent case in a loop of its own: each bucket, and what its last sample holds until the next bucket begins. */
  #addMeans(rollup: LevelRollup, reaches: Float64Array): void {
    const { firstMs, lastMs, last, integral, coveredMs, infinite } = rollup;
    const { steps, grid } = this;
    const { kept, weight } = steps;
    const n = firstMs.length;
    this.#closeAt(firstMs[0] as number);
    let step = -1;
    let startMs = Number.POSITIVE_INFINITY;
    let endMs = Number.NEGATIVE_INFINITY;
    for (let i = 0; i < n; i++) {
      const from = firstMs[i] as number;
      const to = lastMs[i] as number;
      if (!(from >= startMs && from < endMs)) {
        step = stepAt(grid, from);
        startMs = stepStart(grid, step);
        endMs = stepStart(grid, step + 1);
      }
      let sum = integral[i] as number;
      let covered = coveredMs[i] as number;
      if (i + 1 < n) {
        const until = Math.min(firstMs[i + 1] as number, to + (reaches[i] as number));
        const here = Math.min(until, endMs);
        if (here > to) {
          sum += (last[i] as number) * (here - to);
          covered += here - to;
        }
        if (until > endMs) {
          const value = last[i] as number;
          this.spread(Math.max(to, endMs), until, (k, ms) => steps.add(k, value, ms));
        }
      }
      if (step >= 0 && step < kept.length) {
        kept[step] = (weight[step] as number) === 0 ? sum : (kept[step] as number) + sum;
        (weight[step] as number) += covered;
      }
      if (infinite.length > 0) this.infinite += infinite[i] as number;
    }
    if (this.withExtremes) this.#seeBuckets(rollup, reaches);
    this.#hold(lastMs[n - 1] as number, last[n - 1] as number, reaches[n - 1] as number, undefined);
  }

  /** The least, the most and the newest of buckets that lie in the clip. */
  #seeBuckets({ firstMs, lastMs, last, min, max }: LevelRollup, reaches: Float64Array): void {
    if (min.length === 0) return;
    for (let i = 0; i < firstMs.length; i++) {
      if ((lastMs[i] as number) < this.clipFromMs || (firstMs[i] as number) >= this.clipToMs) continue;
      if (!(this.least <= (min[i] as number))) this.least = min[i] as number;
      if (!(this.most >= (max[i] as number))) this.most = max[i] as number;
      if ((lastMs[i] as number) >= this.clipToMs) continue;
      this.newest = last[i] as number;
      this.newestUntilMs = (lastMs[i] as number) + (reaches[i] as number);
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
    else if (ofEvery === "sum") this.spread(Math.max(from, this.clipFromMs), Math.min(until, this.clipToMs), (step, ms) => this.steps.add(step, value, ms));
    else if (ofEvery !== "count") this.#holdSteps(from, until, nextMs, value);
  }

  /** Steps that have no sample of their own hold the one before. */
  #holdSteps(fromMs: number, untilMs: number, nextMs: number, value: number): void {
    const times = this.#times ?? new TimesOnGrid(Float64Array.of(fromMs), this.grid, Number.NEGATIVE_INFINITY, Number.POSITIVE_INFINITY);
    const held = times.heldBetween(times.timeMs.length - 1, untilMs, nextMs === Number.POSITIVE_INFINITY ? this.grid.count : stepAt(this.grid, nextMs));
    for (let k = held?.fromStep ?? 0; k < (held?.toStep ?? 0); k++) this.steps.add(k, value, 1);
  }

  /** What each sample held of each step, in a loop a step. A sum that is a number has no NaN in it. */
  #addHeld(times: TimesOnGrid, value: Float64Array): void {
    const { heldSpans, timeMs } = this.steps.ofEvery === "sum" ? this.#clippedOf(times) : times;
    const { step, from, to, first, last, covered } = heldSpans;
    for (let k = 0; k < step.length; k++) {
      const begin = from[k] as number;
      const end = (to[k] as number) - 1;
      let sum = (value[begin] as number) * (first[k] as number);
      for (let i = begin + 1; i < end; i++) sum += (value[i] as number) * ((timeMs[i + 1] as number) - (timeMs[i] as number));
      if (end > begin) sum += (value[end] as number) * (last[k] as number);
      if (sum - sum === 0) this.steps.addSum(step[k] as number, sum, covered[k] as number);
      else for (let i = begin; i <= end; i++) this.#addFinite(step[k] as number, value[i] as number, i === begin ? (first[k] as number) : i === end ? (last[k] as number) : (timeMs[i + 1] as number) - (timeMs[i] as number));
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
      const step = at[i] as number;
      const v = value[i] as number;
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
    const end = firstAtOrAfter(timeMs, this.clipToMs);
    let least = Number.POSITIVE_INFINITY;
    let most = Number.NEGATIVE_INFINITY;
    for (let i = firstAtOrAfter(timeMs, this.clipFromMs); i < end; i++) {
      const v = value[i] as number;
      if (v < least && v !== Number.NEGATIVE_INFINITY) least = v;
      if (v > most && v !== Number.POSITIVE_INFINITY) most = v;
    }
    if (least <= most) this.see(least, most);
  }

  /** The newest sample that stands before the end of the clip; `untilMs` of the last one says how long it holds. */
  #seeNewest(timeMs: Float64Array, value: Float64Array, reachMs: number, untilMs: number): void {
    for (let i = timeMs.length - 1; i >= 0; i--) {
      const v = value[i] as number;
      if ((timeMs[i] as number) >= this.clipToMs || v - v !== 0) continue;
      this.newest = v;
      this.newestUntilMs = i === timeMs.length - 1 ? untilMs : Math.min(timeMs[i + 1] as number, (timeMs[i] as number) + reachMs);
      return;
    }
  }

  /** Which share of a bucket's time lies in the clip: all or nothing, but for windows that begin or end inside a bucket whose samples are not kept any more. */
  #shareInside({ firstMs, lastMs }: LevelRollup, i: number): number {
    const [from, to] = [firstMs[i] as number, lastMs[i] as number];
    const inside = Math.min(to, this.clipToMs) - Math.max(from, this.clipFromMs);
    return to > from ? Math.max(0, inside) / (to - from) : 0;
  }

  #addBucket(step: number, rollup: LevelRollup, i: number): void {
    const { steps } = this;
    switch (steps.ofEvery) {
      case "mean":
        steps.addSum(step, rollup.integral[i] as number, rollup.coveredMs[i] as number);
        break;
      case "sum":
        if (this.#shareInside(rollup, i) > 0) steps.addSum(step, (rollup.integral[i] as number) * this.#shareInside(rollup, i), 0);
        break;
      case "count":
        if ((rollup.firstMs[i] as number) >= this.clipFromMs && (rollup.firstMs[i] as number) < this.clipToMs) steps.addSum(step, rollup.count[i] as number, 0);
        break;
      case "min":
      case "max":
        steps.add(step, rollup[steps.ofEvery][i] as number, 1);
        break;
      default:
        steps.add(step, rollup.last[i] as number, 1);
    }
    if (this.withExtremes && rollup.min.length > 0 && (rollup.lastMs[i] as number) >= this.clipFromMs && (rollup.firstMs[i] as number) < this.clipToMs) this.see(rollup.min[i] as number, rollup.max[i] as number);
  }
}

/**
 * Growth is spread evenly over the time between its two readings. Rates leave silences out; increases do not, for what was counted meanwhile did
 * happen: the increases of steps add up to the growth of the window, whatever the steps.
 */
class GrowthLine extends PiecedLine {
  readonly #isRate: boolean;
  readonly #falls: Falls;
  #lastMs = Number.NaN;
  #lastValue = Number.NaN;
  #lastReach = 0;
  #fastestPerMs = 0;

  constructor(steps: Steps, grid: Grid, as: As, clipFromMs: number, clipToMs: number, falls: Falls) {
    super(steps, grid, clipFromMs, clipToMs);
    this.#isRate = as === "rate";
    this.#falls = falls;
  }

  addSamples(times: TimesOnGrid, column: Column): void {
    const { timeMs, value } = column;
    const grown = increases(column, this.#falls);
    if (typeof this.#falls === "number") for (let i = 0; i < grown.length; i++) this.#fastestPerMs = Math.max(this.#fastestPerMs, (grown[i] as number) / ((timeMs[i + 1] as number) - (timeMs[i] as number)) || 0);
    this.#join(timeMs[0] as number, value[0] as number, times.reach);
    if (this.#isRate) this.#addRates(times, grown);
    else for (let i = 1; i < timeMs.length; i++) this.#addIncrease(timeMs[i - 1] as number, timeMs[i] as number, grown[i - 1] as number);
    for (const v of value) if (v - v !== 0 && !Number.isNaN(v)) this.infinite++;
    this.#stand(timeMs[timeMs.length - 1] as number, value[value.length - 1] as number, times.reach);
  }

  addBuckets(rollup: Rollup, reaches: Float64Array): void {
    if (rollup.kind === "total") this.#addTotals(rollup, reaches);
  }

  end(): void {}

  #addTotals(rollup: TotalRollup, reaches: Float64Array): void {
    const { startMs, firstMs, lastMs, first, last, grown, gapMs, gapGrown, slowest, fastest, infinite } = rollup;
    const ofExtremes = this.steps.ofEvery === "min" ? slowest : fastest;
    for (let i = 0; i < startMs.length; i++) {
      const from = firstMs[i] as number;
      const to = lastMs[i] as number;
      if (typeof this.#falls === "number" && fastest.length > 0) this.#fastestPerMs = Math.max(this.#fastestPerMs, (fastest[i] as number) / 1000 || 0);
      this.#join(from, first[i] as number, reaches[i] as number);
      this.infinite += infinite.length > 0 ? (infinite[i] as number) : 0;
      const step = stepAt(this.grid, from);
      if (to > from && step >= 0 && step < this.grid.count) {
        const covered = to - from - (gapMs[i] as number);
        if (!this.#isRate) this.#addIncrease(from, to, grown[i] as number);
        else if (this.steps.ofEvery === "mean") {
          if (covered > 0) this.steps.addSum(step, ((grown[i] as number) - (gapGrown[i] as number)) * 1000, covered);
        } else if (!Number.isNaN(ofExtremes[i])) this.steps.add(step, ofExtremes[i] as number, covered);
        if (this.withExtremes && to > this.clipFromMs && from < this.clipToMs && slowest.length > 0 && !Number.isNaN(slowest[i])) this.see(slowest[i] as number, fastest[i] as number);
      }
      this.#stand(to, last[i] as number, reaches[i] as number);
    }
  }

  #stand(atMs: number, value: number, reachMs: number): void {
    this.#lastMs = atMs;
    this.#lastValue = value;
    this.#lastReach = reachMs;
  }

  /** What grew from the end of the piece before to the beginning of this one. */
  #join(atMs: number, value: number, reachMs: number): void {
    const elapsed = atMs - this.#lastMs;
    if (!(elapsed > 0)) return;
    const grown = growthBetween(this.#lastValue, value, this.#falls, elapsed, this.#fastestPerMs);
    if (Number.isNaN(grown)) return;
    if (!this.#isRate) this.#addIncrease(this.#lastMs, atMs, grown);
    else if (elapsed <= Math.max(reachMs, this.#lastReach)) this.#addRate(this.#lastMs, atMs, (grown * 1000) / elapsed);
  }

  #addRate(fromMs: number, toMs: number, perSecond: number): void {
    this.spread(fromMs, toMs, (step, ms) => this.steps.add(step, perSecond, ms));
    if (this.withExtremes && toMs > this.clipFromMs && fromMs < this.clipToMs) this.see(perSecond, perSecond);
  }

  #addIncrease(fromMs: number, toMs: number, grown: number): void {
    if (Number.isNaN(grown) || toMs <= this.clipFromMs || fromMs >= this.clipToMs) return;
    if (this.steps.ofEvery !== "sum") {
      const step = stepAt(this.grid, toMs);
      if (step >= 0 && step < this.grid.count) this.steps.add(step, grown, 1);
      return;
    }
    const perMs = grown / (toMs - fromMs);
    this.spread(Math.max(fromMs, this.clipFromMs), Math.min(toMs, this.clipToMs), (step, ms) => this.steps.addSum(step, ms === toMs - fromMs ? grown : perMs * ms, 0));
  }

  #addRates(times: TimesOnGrid, grown: Float64Array): void {
    const { timeMs, pairs } = times;
    const { kept, weight } = this.steps;
    const isMean = this.steps.ofEvery === "mean";
    if (this.withExtremes) this.#seeRates(times, grown);
    for (let i = 1; i < pairs.length; i++) {
      const pair = pairs[i] as number;
      const step = grown[i - 1] as number;
      if (pair === pairSkipped || Number.isNaN(step)) continue;
      const from = timeMs[i - 1] as number;
      const to = timeMs[i] as number;
      if (pair === pairSpans) this.#addAcross(from, to, (step * 1000) / (to - from));
      else if (isMean) {
        const w = weight[pair] as number;
        kept[pair] = w === 0 ? step * 1000 : (kept[pair] as number) + step * 1000;
        weight[pair] = w + to - from;
      } else this.steps.add(pair, (step * 1000) / (to - from), to - from);
    }
  }

  /** As `spread`, in a loop of its own: where samples are as far apart as steps are long, every stretch lies across two. */
  #addAcross(fromMs: number, toMs: number, perSecond: number): void {
    const { grid, steps } = this;
    const from = Math.max(fromMs, grid.fromMs);
    for (let k = stepAt(grid, from); k < grid.count; k++) {
      const start = stepStart(grid, k);
      if (start >= toMs) break;
      const ms = Math.min(toMs, stepStart(grid, k + 1)) - Math.max(from, start);
      if (ms > 0) steps.add(k, perSecond, ms);
    }
  }

  #seeRates({ timeMs, pairs }: TimesOnGrid, grown: Float64Array): void {
    for (let i = 1; i < pairs.length; i++) {
      const step = grown[i - 1] as number;
      const from = timeMs[i - 1] as number;
      const to = timeMs[i] as number;
      if (pairs[i] === pairSkipped || Number.isNaN(step) || to <= this.clipFromMs || from >= this.clipToMs) continue;
      this.see((step * 1000) / (to - from), (step * 1000) / (to - from));
    }
  }
}
