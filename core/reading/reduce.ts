import type { OfEvery } from "../series/of-every.ts";
import type { Falls } from "../counters/counter.ts";
import type { Column } from "../series/batch.ts";
import { bucketReaches, type Rollup } from "../series/rollup.ts";
import type { As } from "./document.ts";
import { GrowthLine } from "./growth-line.ts";
import { LevelLine } from "./level-line.ts";
import { type Grid, gridEnd } from "./step.ts";
import { Steps, type Values } from "./steps.ts";
import { TimesOnGrid } from "./times-on-grid.ts";

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

const defaultTraits: SeriesTraits = { falls: "restart", intervalMs: Number.NaN };

/**
 * Brings one series of samples onto the grid: `as` says what is read from them, `ofEvery` what is kept of each step.
 */
export function reduceSeries(
  column: Column,
  grid: Grid,
  as: As,
  ofEvery: OfEvery,
  traits: SeriesTraits = defaultTraits,
): Values {
  return new SeriesReducer(grid).reduce([column], as, ofEvery, traits).values;
}

/** Whether rollups hold what is asked for; where they do not, samples must be read. */
export function rollupsAnswer(kind: Rollup["kind"], as: As, ofEvery: OfEvery): boolean {
  if (kind === "level") return as === "value" && ["mean", "min", "max", "sum", "count", "last"].includes(ofEvery);
  if (as === "rate") return ["mean", "min", "max"].includes(ofEvery);
  return as === "increase" ? ofEvery === "sum" : ofEvery === "last" || ofEvery === "count";
}

/**
 * Brings series after series onto one grid; what depends on times only is worked out once for series that share them.
 */
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
    if (!times)
      this.#onGrid.set(
        timeMs,
        (times = new TimesOnGrid(timeMs, this.#grid, Number.NEGATIVE_INFINITY, Number.POSITIVE_INFINITY, intervalMs)),
      );
    this.#last = times;
    return times;
  }

  /** The same times within the clip, for what is summed. */
  #clipped(times: TimesOnGrid): TimesOnGrid {
    if (this.#clipFromMs <= times.clipFromMs && this.#clipToMs >= times.clipToMs) return times;
    let clipped = this.#onClip.get(times);
    if (!clipped)
      this.#onClip.set(
        times,
        (clipped = new TimesOnGrid(times.timeMs, this.#grid, this.#clipFromMs, this.#clipToMs, times.intervalMs)),
      );
    return clipped;
  }

  /**
   * Until when a series that still reports at `nowMs` (earlier where its samples come late) has told: its newest
   * sample; infinite where it is silent for longer than that holds, for then nothing is waited for.
   */
  toldUntilMs(pieces: readonly Piece[], { intervalMs }: SeriesTraits, nowMs: number): number {
    if (nowMs === Number.POSITIVE_INFINITY) return nowMs;
    const piece = pieces.findLast((one) => lengthOf(one) > 0);
    if (!piece) return Number.POSITIVE_INFINITY;
    const [atMs, holdsUntilMs] = isRollup(piece)
      ? [
          piece.lastMs.at(-1) as number,
          (piece.lastMs.at(-1) as number) + (bucketReaches(piece, intervalMs).at(-1) as number),
        ]
      : [piece.timeMs.at(-1) as number, this.timesOf(piece.timeMs, intervalMs).lastHoldsUntilMs];
    return holdsUntilMs > nowMs ? atMs : Number.POSITIVE_INFINITY;
  }

  /** `pieces` ascend in time. `withExtremes` has the least and the most looked for as well. */
  reduce(
    pieces: readonly Piece[],
    as: As,
    ofEvery: OfEvery,
    traits: SeriesTraits = defaultTraits,
    withExtremes = false,
  ): Reduced {
    const steps = new Steps(this.#grid.count, ofEvery);
    const line =
      as === "value"
        ? new LevelLine(steps, this.#grid, this.#clipFromMs, this.#clipToMs, (times) => this.#clipped(times))
        : new GrowthLine(steps, this.#grid, as, this.#clipFromMs, this.#clipToMs, traits.falls);
    line.withExtremes = withExtremes;
    for (const piece of pieces) {
      if (lengthOf(piece) === 0) continue;
      if (!isRollup(piece)) line.addSamples(this.timesOf(piece.timeMs, traits.intervalMs), piece);
      else line.addBuckets(piece, bucketReaches(piece, traits.intervalMs));
    }
    line.end();
    this.#infinite += line.infinite;
    return {
      values: steps.finish(),
      least: line.least,
      most: line.most,
      newest: line.newest,
      newestUntilMs: line.newestUntilMs,
      mean: steps.meanOfAll,
    };
  }
}

function isRollup(piece: Piece): piece is Rollup {
  return "kind" in piece;
}

function lengthOf(piece: Piece): number {
  return isRollup(piece) ? piece.startMs.length : piece.timeMs.length;
}
