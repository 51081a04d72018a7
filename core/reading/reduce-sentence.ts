import { fiveMinutesMs } from "../series/rollup.ts";
import type { Column } from "../series/batch.ts";
import { allFinite, LineCombiner } from "./combine.ts";
import { greater, lesser, type LineValues } from "./line-values.ts";
import { asOf, ofEveryOf, type SentencePlan } from "./plan.ts";
import { type Piece, SeriesReducer, type SeriesTraits } from "./reduce.ts";
import type { Values } from "./steps.ts";
import type { TimesOnGrid } from "./times-on-grid.ts";

/** Samples of several series of one line at the same times, added up before they are brought onto the grid. */
interface SummedSamples {
  readonly times: TimesOnGrid;
  readonly sum: Float64Array;
  of: number;
}

/**
 * Works out a sentence's lines from its series, given one after the other, so that not all of them need be in memory.
 */
export class SentenceReducer {
  readonly #plan: SentencePlan;
  readonly #reducer: SeriesReducer;
  readonly #lines: LineCombiner;
  readonly #lows: Values[] = [];
  readonly #highs: Values[] = [];
  readonly #least: Float64Array;
  readonly #most: Float64Array;
  readonly #mean: Float64Array;
  readonly #newest: Float64Array;
  readonly #newestUntilMs: Float64Array;
  readonly #toldUntilMs: Float64Array;
  readonly #infinite: Float64Array;
  readonly #sums: Float64Array;
  readonly #whole: SeriesReducer;
  readonly #summed = new Map<number, Map<TimesOnGrid, SummedSamples>>();

  constructor(plan: SentencePlan) {
    this.#plan = plan;
    this.#reducer = new SeriesReducer(plan.grid, plan.clipFromMs, plan.clipToMs);
    this.#lines = new LineCombiner(plan.combine, plan.lineCount, plan.grid.count);
    const unknown = () => new Float64Array(plan.lineCount).fill(Number.NaN);
    this.#least = unknown();
    this.#most = unknown();
    this.#mean = unknown();
    this.#newest = unknown();
    this.#newestUntilMs = unknown();
    this.#toldUntilMs = new Float64Array(plan.lineCount).fill(Number.POSITIVE_INFINITY);
    this.#infinite = new Float64Array(plan.lineCount);
    this.#sums = unknown();
    this.#whole = new SeriesReducer({ fromMs: plan.clipFromMs, stepMs: plan.clipToMs - plan.clipFromMs, count: 1 });
  }

  /** `index` is the place of the series in the sentence; its pieces ascend in time. */
  add(index: number, pieces: readonly Piece[]): void {
    const { totals, lineOf, combine, overBuckets } = this.#plan;
    const isTotal = totals[index] === 1;
    const as = asOf(this.#plan.as, isTotal, this.#plan.ofEvery);
    const ofEvery = ofEveryOf(this.#plan.ofEvery, as);
    const line = lineOf[index];
    const alone = this.#plan.sharing[line] === 1;
    const traits: SeriesTraits = {
      falls: this.#plan.falls[index] ?? "restart",
      intervalMs: this.#plan.intervalsMs[index] ?? Number.NaN,
    };
    // A line is told until its series that still reports and was silent for longest was heard.
    this.#toldUntilMs[line] = Math.min(
      this.#toldUntilMs[line],
      this.#reducer.toldUntilMs(pieces, traits, this.#plan.nowMs - (this.#plan.latesMs[index] ?? 0)),
    );
    if (this.#plan.sums && (alone || combine === "sum" || combine === "mean")) {
      const [sum] = this.#whole.reduce(pieces, isTotal ? "increase" : "value", "sum", traits).values;
      const share = !alone && combine === "mean" ? this.#plan.sharing[line] : 1;
      if (sum !== undefined && !Number.isNaN(sum))
        this.#sums[line] = (Number.isNaN(this.#sums[line]) ? 0 : this.#sums[line]) + sum / share;
    }
    const only =
      pieces.length === 1 && !overBuckets && as === "value" && !("kind" in (pieces[0] as Piece))
        ? (pieces[0] as Column)
        : undefined;
    if (only && !alone && ofEvery === "mean" && (combine === "sum" || combine === "mean") && allFinite(only.value)) {
      this.#sum(line, only, traits);
      return;
    }
    if (this.#plan.extremes) {
      this.#lows[line] = this.#reducer.reduce(pieces, as, "min", traits).values;
      this.#highs[line] = this.#reducer.reduce(pieces, as, "max", traits).values;
    }
    const read = overBuckets ? [fiveMinuteMeans(pieces, isTotal, this.#plan, traits)] : pieces;
    const before = this.#reducer.infinite;
    const { values, least, most, newest, newestUntilMs, mean } = this.#reducer.reduce(
      read,
      overBuckets ? "value" : as,
      ofEvery,
      traits,
      !overBuckets && this.#seesExtremes(ofEvery, alone),
    );
    this.#infinite[line] += this.#reducer.infinite - before;
    this.#least[line] = lesser(this.#least[line], least);
    this.#most[line] = greater(this.#most[line], most);
    if (alone) {
      this.#mean[line] = mean;
      this.#newest[line] = newest;
      this.#newestUntilMs[line] = newestUntilMs;
    }
    this.#lines.add(line, values, alone);
  }

  /** The lines, in their order. */
  finish(): readonly LineValues[] {
    for (const [line, groups] of this.#summed) {
      for (const { times, sum, of } of groups.values()) {
        const { values } = this.#reducer.reduce([{ timeMs: times.timeMs, value: sum }], "value", "mean", {
          falls: "restart",
          intervalMs: times.intervalMs,
        });
        this.#lines.add(line, values, false, of);
      }
    }
    return this.#lines.finish().map((values, line): LineValues => {
      const members = this.#lines.membersOf(line);
      const [lows, highs] = [this.#lows[line], this.#highs[line]];
      return {
        values,
        ...(lows && { lows }),
        ...(highs && { highs }),
        ...(members && { members }),
        least: this.#least[line],
        most: this.#most[line],
        mean: this.#mean[line],
        newest: this.#newest[line],
        newestUntilMs: this.#newestUntilMs[line],
        toldUntilMs: this.#toldUntilMs[line],
        sum: this.#sums[line],
        infinite: this.#infinite[line],
      };
    });
  }

  /** Least and most are of samples where the line shows samples: of one series, or the greatest (least) of several. */
  #seesExtremes(ofEvery: string, alone: boolean): boolean {
    return (
      (ofEvery === "mean" || ofEvery === "first" || ofEvery === "last") &&
      (alone || this.#plan.combine === "min" || this.#plan.combine === "max")
    );
  }

  #sum(line: number, { timeMs, value }: Column, { intervalMs }: SeriesTraits): void {
    let groups = this.#summed.get(line);
    if (!groups) this.#summed.set(line, (groups = new Map()));
    const times = this.#reducer.timesOf(timeMs, intervalMs);
    const known = groups.get(times);
    if (!known) {
      groups.set(times, { times, sum: new Float64Array(value), of: 1 });
      return;
    }
    const { sum } = known;
    for (let i = 0; i < sum.length; i++) sum[i] += value[i];
    known.of++;
  }
}

/** The means of every 5 min of a series, as if they were its samples. */
function fiveMinuteMeans(
  pieces: readonly Piece[],
  isTotal: boolean,
  { fromMs, toMs }: SentencePlan,
  traits: SeriesTraits,
): Column {
  const start = Math.floor(fromMs / fiveMinutesMs) * fiveMinutesMs;
  const grid = { fromMs: start, stepMs: fiveMinutesMs, count: Math.ceil((toMs - start) / fiveMinutesMs) };
  const { values } = new SeriesReducer(grid).reduce(pieces, isTotal ? "rate" : "value", "mean", traits);
  const known = Int32Array.from(values.keys()).filter((i) => !Number.isNaN(values[i]));
  return {
    timeMs: Float64Array.from(known, (i) => start + i * fiveMinutesMs),
    value: Float64Array.from(known, (i) => values[i]),
  };
}
