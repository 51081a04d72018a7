import { type CounterKind, onlyGrows, type Tags } from "../counters/counter.ts";
import { fiveMinutesMs, hourMs } from "../series/rollup.ts";
import { rateUnit } from "../units/rate-unit.ts";
import { bucketSentence } from "./buckets.ts";
import { groupLines } from "./combine.ts";
import type { As, Combine, OfEvery, ReadingDocument, Sentence } from "./document.ts";
import { rollupsAnswer } from "./reduce.ts";
import { quantiles } from "./steps.ts";
import { autoStepMs, type Grid, gridOf, roundStepMs, spanMs } from "./step.ts";

const usualPoints = 600;
/** An answer holds at most this many values, and is worked out from at most this many samples; else its step is made coarser. */
export const mostValues = 2_000_000;
export const mostSamples = 50_000_000;
/** What is assumed of a series that has been silent for hours. */
const assumedIntervalMs = 5000;

/** A series that a sentence's conditions found. */
export interface SeriesInfo {
  readonly tags: Tags;
  readonly unit: string;
  readonly kind: CounterKind;
  /** How far apart its samples come at present, in ms; NaN where that is not known. */
  readonly intervalMs?: number;
  /** Of a distribution: the unit of what was counted into the buckets. */
  readonly boundUnit?: string;
}

/** What the store has, in ms; what is older than `rawFromMs` is there as buckets only, older than `fiveMinutesFromMs` by the hour only. */
export interface StoreReach {
  readonly rawFromMs: number;
  readonly fiveMinutesFromMs: number;
  /** Before these, the buckets of a tier are complete; from there on they are worked out from what is finer. */
  readonly fiveMinutesUntilMs: number;
  readonly hoursUntilMs: number;
}

export type Tier = "raw" | "5m" | "1h";

/** How one sentence is read. Everything in it can be sent to a worker thread. */
export interface SentencePlan {
  readonly name: string;
  readonly grid: Grid;
  /** What is read, `[fromMs, toMs)`: the window where it lies earlier, and a margin for rates and held values. */
  readonly fromMs: number;
  readonly toMs: number;
  readonly tier: Tier;
  /** Samples are first made into means of 5 min: what is asked for cannot be had from all of them. */
  readonly overBuckets: boolean;
  /** 1 for a series that is a total, 0 for others. */
  readonly totals: Uint8Array;
  readonly as: As | undefined;
  readonly ofEvery: OfEvery | undefined;
  /** The line of each series. */
  readonly lineOf: Int32Array;
  readonly lineCount: number;
  readonly combine: Combine;
  /** Whether the least and the most of each step are wanted as well. */
  readonly extremes: boolean;
  /** The lines are buckets of distributions, of which this quantile is wanted. */
  readonly bucketQuantile?: number;
}

export interface ReadingPlan {
  readonly grid: Grid;
  readonly tier: Tier;
  readonly sentences: readonly SentencePlan[];
  /** The tags of each sentence's lines. */
  readonly lineTags: Readonly<Record<string, readonly Tags[]>>;
  readonly units: Readonly<Record<string, string>>;
  /** How many samples are to be read, about. */
  readonly samples: number;
  readonly notes: readonly string[];
}

const everything: StoreReach = { rawFromMs: Number.NEGATIVE_INFINITY, fiveMinutesFromMs: Number.NEGATIVE_INFINITY, fiveMinutesUntilMs: Number.NEGATIVE_INFINITY, hoursUntilMs: Number.NEGATIVE_INFINITY };

/** Decides the step, the tier, and what is read for each sentence. `intervalsMs` may say how far apart the samples of each series come, where the series do not. */
export function planReading(document: ReadingDocument, found: Readonly<Record<string, readonly SeriesInfo[]>>, reach: StoreReach = everything, intervalsMs: Readonly<Record<string, Float64Array>> = {}): ReadingPlan {
  const { from, to } = document.window;
  const sentences = Object.entries(document.sentences).map(([name, said]) => {
    const series = found[name] ?? [];
    const bucketQuantile = series[0]?.kind === "distribution" && said.of_every ? quantiles[said.of_every] : undefined;
    const sentence = bucketQuantile === undefined ? said : bucketSentence(said);
    return { name, sentence, bucketQuantile, series, intervals: intervalsMs[name] ?? Float64Array.from(series, ({ intervalMs }) => intervalMs ?? Number.NaN) };
  });
  const lines = sentences.map(({ sentence, series }) => groupLines(series.map(({ tags }) => tags), sentence.lines ?? "each"));
  const notes = sentences.filter(({ series }) => series.length === 0).map(({ name, sentence }) => nothingReports(name, sentence));

  let stepMs = typeof document.step === "number" ? document.step * 1000 : autoStepMs(from, to, document.points ?? usualPoints, Math.min(...sentences.map(({ intervals }) => finestInterval(intervals))));
  const coarsen = (leastMs: number, why: string) => {
    if (stepMs >= leastMs && stepMs % leastMs === 0) return;
    stepMs = leastMs === fiveMinutesMs || leastMs === hourMs ? Math.ceil(stepMs / leastMs) * leastMs : roundStepMs(leastMs);
    notes.push(`${why} The step is ${stepWords(stepMs)}.`);
  };
  const values = lines.reduce((sum, { count }) => sum + count, 0) * ((to - from) / stepMs);
  if (values > mostValues) coarsen(((to - from) * lines.reduce((sum, { count }) => sum + count, 0)) / mostValues, `An answer holds ${mostValues.toLocaleString("en")} values at most.`);
  const oldest = Math.min(...sentences.map(({ sentence }) => from - shiftMs(sentence)));
  if (oldest < reach.fiveMinutesFromMs) coarsen(hourMs, "Part of this window is kept by the hour only.");
  else if (oldest < reach.rawFromMs) coarsen(fiveMinutesMs, "Part of this window is kept in buckets of 5 min only.");
  const estimate = () => sentences.reduce((sum, { sentence, series, intervals }) => sum + samplesOf(sentence, series, intervals, document, stepMs, reach), 0);
  let samples = estimate();
  const tooMany = samples > mostSamples;
  if (tooMany) {
    coarsen(fiveMinutesMs, `This would be worked out from more than ${mostSamples / 1e6} million samples.`);
    samples = estimate();
  }

  const grid = gridOf(from, to, stepMs);
  const plans = sentences.map(({ name, sentence, series, bucketQuantile }, i): SentencePlan => {
    const shift = shiftMs(sentence);
    const margin = Math.max(stepMs * 2, 60_000);
    const answered = kindsOf(series).every((kind) => isAnswered(sentence, kind));
    const overBuckets = !answered && (tooMany || from - shift < reach.rawFromMs) && tierOf(stepMs, shift) !== "raw";
    if (overBuckets) notes.push(`${name}: worked out over means of 5 min, for ${tooMany ? "there are too many samples" : "samples are not kept as long as this window reaches back"}.`);
    return {
      name,
      grid: shift === 0 ? grid : { ...grid, fromMs: grid.fromMs - shift },
      fromMs: grid.fromMs - shift - margin,
      toMs: to - shift + margin,
      tier: overBuckets ? "5m" : answered ? tierOf(stepMs, shift) : "raw",
      overBuckets,
      totals: totalsAmong(series),
      as: sentence.as,
      ofEvery: sentence.of_every,
      lineOf: (lines[i] as (typeof lines)[0]).lineOf,
      lineCount: (lines[i] as (typeof lines)[0]).count,
      combine: sentence.combine ?? (series[0] && onlyGrows(series[0].kind) ? "sum" : "mean"),
      extremes: document.extremes === true && (lines[i] as (typeof lines)[0]).count === series.length && document.figure === undefined && !overBuckets && bucketQuantile === undefined && (sentence.of_every ?? "mean") === "mean" && sentence.as !== "increase",
      ...(bucketQuantile !== undefined && { bucketQuantile }),
    };
  });
  return {
    grid,
    tier: plans.map(({ tier }) => tier).reduce((a, b) => (a === "raw" || b === "raw" ? "raw" : a === "5m" ? a : b)),
    sentences: plans,
    lineTags: Object.fromEntries(sentences.map(({ name }, i) => [name, (lines[i] as (typeof lines)[0]).tags])),
    units: Object.fromEntries(sentences.map(({ name, sentence, series, bucketQuantile }) => [name, series[0] ? (bucketQuantile === undefined ? unitReading(sentence, series[0]) : (series[0].boundUnit ?? "1")) : "1"])),
    samples,
    notes,
  };
}

export function nothingReports(name: string, sentence: Sentence): string {
  return `${name}: nothing here reports "${sentence.counter}" with these tags in this window.`;
}

/** Totals default to their rate, levels to their value. */
export function asOf(as: As | undefined, isTotal: boolean): As {
  return as ?? (isTotal ? "rate" : "value");
}

/** What is kept of a step where the sentence does not say. */
export function ofEveryOf(ofEvery: OfEvery | undefined, as: As): OfEvery {
  return ofEvery ?? (as === "increase" ? "sum" : "mean");
}

export function shiftMs(sentence: Sentence): number {
  return sentence.earlier === undefined ? 0 : (spanMs(sentence.earlier) ?? 0);
}

function unitReading(sentence: Sentence, series: SeriesInfo): string {
  if (sentence.of_every === "count" || sentence.combine === "count") return "1";
  return asOf(sentence.as, onlyGrows(series.kind)) === "rate" ? rateUnit(series.unit) : series.unit;
}

function isAnswered(sentence: Sentence, kind: CounterKind): boolean {
  const as = asOf(sentence.as, onlyGrows(kind));
  return rollupsAnswer(onlyGrows(kind) ? "total" : "level", as, ofEveryOf(sentence.of_every, as));
}

function totalsAmong(series: readonly SeriesInfo[]): Uint8Array {
  const totals = new Uint8Array(series.length);
  for (let i = 0; i < totals.length; i++) if (onlyGrows((series[i] as SeriesInfo).kind)) totals[i] = 1;
  return totals;
}

/** The kinds among series: one, mostly. */
function kindsOf(series: readonly SeriesInfo[]): readonly CounterKind[] {
  const kinds: CounterKind[] = [];
  for (const { kind } of series) if (!kinds.includes(kind)) kinds.push(kind);
  return kinds;
}

/** The coarsest tier whose buckets fall whole into steps. */
function tierOf(stepMs: number, shift: number): Tier {
  if (stepMs % hourMs === 0 && shift % hourMs === 0) return "1h";
  return stepMs % fiveMinutesMs === 0 && shift % fiveMinutesMs === 0 ? "5m" : "raw";
}

/** About how many samples must be read for a sentence. */
function samplesOf(sentence: Sentence, series: readonly SeriesInfo[], intervals: Float64Array, document: ReadingDocument, stepMs: number, reach: StoreReach): number {
  const shift = shiftMs(sentence);
  const until = document.window.to - shift;
  const from = Math.max(document.window.from - shift, reach.rawFromMs);
  const rolled = tierOf(stepMs, shift) === "raw" ? Number.NEGATIVE_INFINITY : reach.fiveMinutesUntilMs;
  const since = kindsOf(series).every((kind) => isAnswered(sentence, kind)) ? Math.max(from, rolled) : from;
  let samples = 0;
  for (let i = 0; i < intervals.length && until > since; i++) samples += (until - since) / ((intervals[i] as number) > 0 ? (intervals[i] as number) : assumedIntervalMs);
  return samples;
}

/** Held values and spread rates fill the steps of slower series, so the fastest one decides. Infinity where none is known. */
function finestInterval(intervals: Float64Array): number {
  let finest = Number.POSITIVE_INFINITY;
  for (let i = 0; i < intervals.length; i++) if ((intervals[i] as number) > 0 && (intervals[i] as number) < finest) finest = intervals[i] as number;
  return finest;
}

function stepWords(stepMs: number): string {
  if (stepMs % hourMs === 0) return `${stepMs / hourMs} h`;
  return stepMs % 60_000 === 0 ? `${stepMs / 60_000} min` : `${stepMs / 1000} s`;
}
