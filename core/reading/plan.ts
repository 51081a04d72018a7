import type { OfEvery } from "../series/of-every.ts";
import { type CounterKind, type Falls, onlyGrows, type Tags } from "../counters/counter.ts";
import { reachFactor } from "../series/interval.ts";
import { fiveMinutesMs, hourMs } from "../series/rollup.ts";
import { rateUnit } from "../units/rate-unit.ts";
import { bucketSentence } from "./buckets.ts";
import { groupLines, type LineGroups } from "./combine.ts";
import type { As, Combine, ReadingDocument, Sentence } from "./document.ts";
import { rollupsAnswer } from "./reduce.ts";
import { quantiles } from "./steps.ts";
import { calendarGrid, calendarStepMs, daysEarlier, isCalendarStep } from "./calendar.ts";
import { autoStepMs, type Grid, gridEnd, gridOf, roundStepMs, spanDays, spanMs } from "./step.ts";

const defaultPoints = 600;
/**
 * An answer holds at most this many values, and is worked out from at most this many samples; else its step is made
 * coarser.
 */
export const mostValues = 2_000_000;
export const mostSamples = 50_000_000;
/** What is assumed of a series that has been silent for hours. */
const assumedIntervalMs = 5000;
const leastMarginMs = 60_000;
/** What comes more seldom than this is looked for beyond the margin. */
const mostMarginMs = 8 * 3_600_000;
const dayMs = 86_400_000;

/** A series that a sentence's conditions found. */
export interface SeriesInfo {
  readonly tags: Tags;
  readonly unit: string;
  readonly kind: CounterKind;
  /** What it means that it falls, of a total; a restart where nothing is said. */
  readonly falls?: Falls;
  /** How far apart its samples come at present, in ms; NaN where that is not known. */
  readonly intervalMs?: number;
  /** How late its samples may come, ms; 0 where nothing is said. */
  readonly lateMs?: number;
  /** Of a distribution: the unit of what was counted into the buckets. */
  readonly boundUnit?: string;
}

/**
 * What the store has, in ms; what is older than `rawFromMs` is there as buckets only, older than `fiveMinutesFromMs` by
 * the hour only.
 */
export interface StoreReach {
  readonly rawFromMs: number;
  readonly fiveMinutesFromMs: number;
  /** Before these, the buckets of a tier are complete; from there on they are worked out from what is finer. */
  readonly fiveMinutesUntilMs: number;
  readonly hoursUntilMs: number;
}

type Tier = "raw" | "5m" | "1h";

/** Until when a line must be told for a step to be whole: its beginning, a moment inside it, or its end. */
export type StepEnd = "beginning" | "inside" | "end";

/** How one sentence is read. Everything in it can be sent to a worker thread. */
export interface SentencePlan {
  readonly name: string;
  readonly grid: Grid;
  /** What is read, `[fromMs, toMs)`: the window where it lies earlier, and a margin for rates and held values. */
  readonly fromMs: number;
  readonly toMs: number;
  /** The window itself, `[clipFromMs, clipToMs)`: sums and extremes are of it alone. */
  readonly clipFromMs: number;
  readonly clipToMs: number;
  /** The present; infinite where nothing is waited for. */
  readonly nowMs: number;
  readonly tier: Tier;
  /** Samples are first made into means of 5 min: what is asked for cannot be had from all of them. */
  readonly overBuckets: boolean;
  /** 1 for a series that is a total, 0 for others. */
  readonly totals: Uint8Array;
  /** Of each series: what it means that it falls, and how far apart its samples come (NaN: unknown). */
  readonly falls: readonly Falls[];
  readonly intervalsMs: Float64Array;
  /** Of each series: how late its samples may come, ms. */
  readonly latesMs: Float64Array;
  /**
   * Whether growth is added up, so that the reading before the window and the one after it are needed however far they
   * are.
   */
  readonly addsGrowth: boolean;
  readonly as: As | undefined;
  readonly ofEvery: OfEvery | undefined;
  /** What the lines' values are multiplied by. */
  readonly scale: number;
  readonly waitsForEnd: StepEnd;
  /** The line of each series. */
  readonly lineOf: Int32Array;
  readonly lineCount: number;
  /** How many series share each line. */
  readonly sharing: Int32Array;
  readonly combine: Combine;
  /** Whether the least and the most of each step are wanted as well. */
  readonly extremes: boolean;
  /** Whether each line's sum over the window is wanted as well. */
  readonly sums: boolean;
  /** The lines are buckets of distributions, of which this quantile is wanted. */
  readonly bucketQuantile?: number;
}

export interface ReadingPlan {
  readonly grid: Grid;
  readonly nowMs: number;
  readonly tier: Tier;
  readonly sentences: readonly SentencePlan[];
  /** The tags of each sentence's lines. */
  readonly lineTags: Readonly<Record<string, readonly Tags[]>>;
  readonly units: Readonly<Record<string, string>>;
  /** The units of their sums over the window, and what the sums are multiplied by. */
  readonly sums: Readonly<Record<string, { readonly unit: string; readonly scale: number }>>;
  /** How many samples are to be read, about. */
  readonly samples: number;
  readonly notes: readonly string[];
}

const everything: StoreReach = {
  rawFromMs: Number.NEGATIVE_INFINITY,
  fiveMinutesFromMs: Number.NEGATIVE_INFINITY,
  fiveMinutesUntilMs: Number.NEGATIVE_INFINITY,
  hoursUntilMs: Number.NEGATIVE_INFINITY,
};

export interface PlanSurroundings {
  readonly reach?: StoreReach;
  /** How far apart the samples of each sentence's series come, where the series do not say. */
  readonly intervalsMs?: Readonly<Record<string, Float64Array>>;
  /** How late each sentence's series may come, ms; where nothing is said, what the series say. */
  readonly latesMs?: Readonly<Record<string, Float64Array>>;
  /** The present, for what may still be told; infinite where nothing is. */
  readonly nowMs?: number;
  /** Until when lines must be told for a step to be whole, where it is not as charts have it. */
  readonly waitsForEnd?: StepEnd;
}

/** A sentence with the series that it is of. */
interface FoundSentence {
  readonly name: string;
  readonly sentence: Sentence;
  readonly bucketQuantile: number | undefined;
  readonly series: readonly SeriesInfo[];
  readonly intervals: Float64Array;
  readonly lates: Float64Array;
}

type Grouped = ReturnType<typeof groupLines>;

/** The step of a window, and what a person should know of how it was chosen. */
function chooseStep(
  document: ReadingDocument,
  sentences: readonly FoundSentence[],
  lineCount: number,
  reach: StoreReach,
): { readonly stepMs: number; readonly samples: number; readonly tooMany: boolean; readonly notes: readonly string[] } {
  const { from, to } = document.window;
  const notes: string[] = [];
  let stepMs = isCalendarStep(document.step)
    ? calendarStepMs[document.step]
    : typeof document.step === "number"
      ? document.step * 1000
      : autoStepMs(
          from,
          to,
          document.points ?? defaultPoints,
          Math.min(...sentences.map(({ intervals }) => finestInterval(intervals))),
        );
  const coarsen = (leastMs: number, why: string) => {
    if (stepMs >= leastMs && stepMs % leastMs === 0) return;
    stepMs =
      leastMs === fiveMinutesMs || leastMs === hourMs ? Math.ceil(stepMs / leastMs) * leastMs : roundStepMs(leastMs);
    notes.push(`${why} The step is ${stepWords(stepMs)}.`);
  };
  const values = lineCount * ((to - from) / stepMs);
  if (values > mostValues)
    coarsen(
      ((to - from) * lineCount) / mostValues,
      `An answer holds ${mostValues.toLocaleString("en")} values at most.`,
    );
  const oldest = Math.min(...sentences.map(({ sentence }) => from - shiftMs(sentence)));
  if (oldest < reach.fiveMinutesFromMs) coarsen(hourMs, "Part of this window is kept by the hour only.");
  else if (oldest < reach.rawFromMs) coarsen(fiveMinutesMs, "Part of this window is kept in buckets of 5 min only.");
  const estimate = () =>
    sentences.reduce(
      (sum, { sentence, series, intervals }) => sum + samplesOf(sentence, series, intervals, document, stepMs, reach),
      0,
    );
  let samples = estimate();
  const tooMany = samples > mostSamples;
  if (tooMany) {
    coarsen(fiveMinutesMs, `This would be worked out from more than ${mostSamples / 1e6} million samples.`);
    samples = estimate();
  }
  return { stepMs, samples, tooMany, notes };
}

interface PlanContext {
  readonly document: ReadingDocument;
  readonly grid: Grid;
  readonly zone: string;
  readonly stepMs: number;
  readonly tooMany: boolean;
  readonly reach: StoreReach;
  readonly nowMs: number;
  readonly waitsForEnd: StepEnd | undefined;
}

/** What is read for one sentence, and how. */
function planSentence(
  { name, sentence, series, bucketQuantile, intervals, lates }: FoundSentence,
  lines: Grouped,
  { document, grid, zone, stepMs, tooMany, reach, nowMs, waitsForEnd }: PlanContext,
): SentencePlan {
  const { from, to } = document.window;
  const shift = shiftMs(sentence);
  const shifted = shiftedGrid(grid, sentence, zone);
  const intervalsOf = series.length === intervals.length ? intervals : new Float64Array(series.length).fill(Number.NaN);
  // As far back as a value may hold, and beyond: for the reading before the window, which may be the last one of a
  // whole bucket.
  const margin = Math.max(
    (grid.edgesMs ? hourMs : stepMs) * 2,
    leastMarginMs,
    (reachFactor + 1) * slowestInterval(intervalsOf),
  );
  const answered = kindsOf(series).every((kind) => isAnswered(sentence, kind));
  const finest = tierOf(shifted, stepMs, shift);
  const overBuckets = !answered && (tooMany || from - shift < reach.rawFromMs) && finest !== "raw";
  const isTotal = series.some(({ kind }) => onlyGrows(kind));
  const as = asOf(sentence.as, isTotal, sentence.of_every);
  const isSum = as === "increase" || ofEveryOf(sentence.of_every, as) === "sum" || sentence.of_every === "count";
  const isPlain = document.figure === undefined && bucketQuantile === undefined;
  return {
    name,
    grid: shifted,
    fromMs: shifted.fromMs - margin,
    // Of a level nothing that comes after the window changes what is in it.
    toMs: Math.max(to - shift, gridEnd(shifted)) + (isTotal ? margin : 0),
    clipFromMs: earlierMoment(from, sentence, zone),
    clipToMs: earlierMoment(to, sentence, zone),
    nowMs: shift === 0 ? nowMs : Number.POSITIVE_INFINITY,
    tier: overBuckets ? "5m" : answered ? finest : "raw",
    overBuckets,
    totals: totalsAmong(series),
    falls: series.map(({ falls }) => falls ?? "restart"),
    intervalsMs: intervalsOf,
    latesMs: series.length === lates.length ? lates : new Float64Array(series.length),
    addsGrowth: as === "increase" || (isTotal && document.sums === true),
    scale:
      !isTotal && ofEveryOf(sentence.of_every, as) === "sum" && as === "value"
        ? integralOf(series[0]?.unit ?? "1").scale
        : 1,
    waitsForEnd: waitsForEnd ?? (isSum ? "end" : as === "rate" ? "inside" : "beginning"),
    as: sentence.as,
    ofEvery: sentence.of_every,
    lineOf: lines.lineOf,
    lineCount: lines.count,
    sharing: sharesOf(lines),
    combine: sentence.combine ?? (series[0] && onlyGrows(series[0].kind) ? "sum" : "mean"),
    extremes:
      isPlain && document.extremes === true && !overBuckets && lines.count === series.length && hasExtremes(sentence),
    sums: isPlain && document.sums === true,
    ...(bucketQuantile !== undefined && { bucketQuantile }),
  };
}

/** Whether what a step's values hide can be told: of means of values. */
const hasExtremes = ({ of_every, as }: Sentence): boolean => (of_every ?? "mean") === "mean" && as !== "increase";

/** Decides the step, the tier, and what is read for each sentence. */
// biome-ignore lint/complexity/noExcessiveLinesPerFunction: one pass over the lines
export function planReading(
  document: ReadingDocument,
  found: Readonly<Record<string, readonly SeriesInfo[]>>,
  {
    reach = everything,
    intervalsMs = {},
    latesMs = {},
    nowMs = Number.POSITIVE_INFINITY,
    waitsForEnd,
  }: PlanSurroundings = {},
): ReadingPlan {
  const zone = document.zone ?? "UTC";
  const sentences = Object.entries(document.sentences).map(([name, said]) => {
    const series = found[name] ?? [];
    const bucketQuantile = series[0]?.kind === "distribution" && said.of_every ? quantiles[said.of_every] : undefined;
    const sentence = bucketQuantile === undefined ? said : bucketSentence(said);
    return {
      name,
      sentence,
      bucketQuantile,
      series,
      intervals: intervalsMs[name] ?? Float64Array.from(series, ({ intervalMs }) => intervalMs ?? Number.NaN),
      lates: latesMs[name] ?? Float64Array.from(series, ({ lateMs }) => lateMs ?? 0),
    };
  });
  const lines = sentences.map(({ sentence, series }) =>
    groupLines(
      series.map(({ tags }) => tags),
      sentence.lines ?? "each",
    ),
  );
  const notes = sentences
    .filter(({ series }) => series.length === 0)
    .map(({ name, sentence }) => nothingReports(name, sentence));

  const lineCount = lines.reduce((sum, { count }) => sum + count, 0);
  const { stepMs, samples, tooMany, notes: ofStep } = chooseStep(document, sentences, lineCount, reach);
  notes.push(...ofStep);
  const grid = gridIn(document, stepMs, zone);
  const plans = sentences.map((found, i) => {
    const plan = planSentence(found, lines[i] as Grouped, {
      document,
      grid,
      zone,
      stepMs,
      tooMany,
      reach,
      nowMs,
      waitsForEnd,
    });
    if (plan.overBuckets)
      notes.push(
        `${found.name}: worked out over means of 5 min, for ${tooMany ? "there are too many samples" : "samples are not kept as long as this window reaches back"}.`,
      );
    return plan;
  });
  return {
    grid,
    nowMs,
    tier: plans.map(({ tier }) => tier).reduce((a, b) => (a === "raw" || b === "raw" ? "raw" : a === "5m" ? a : b)),
    sentences: plans,
    lineTags: Object.fromEntries(sentences.map(({ name }, i) => [name, (lines[i] as (typeof lines)[0]).tags])),
    units: Object.fromEntries(
      sentences.map(({ name, sentence, series, bucketQuantile }) => [
        name,
        series[0]
          ? bucketQuantile === undefined
            ? unitReading(sentence, series[0])
            : (series[0].boundUnit ?? "1")
          : "1",
      ]),
    ),
    sums: Object.fromEntries(
      sentences.map(({ name, series: [first] }) => [
        name,
        first && onlyGrows(first.kind) ? { unit: first.unit, scale: 1 } : integralOf(first?.unit ?? "1"),
      ]),
    ),
    samples,
    notes,
  };
}

export function nothingReports(name: string, sentence: Sentence): string {
  return `${name}: nothing here reports "${sentence.counter}" with these tags in this window.`;
}

/** The steps of a document: of days, weeks and months by the clock of its zone. */
function gridIn({ window: { from, to }, step }: ReadingDocument, stepMs: number, zone: string): Grid {
  if (isCalendarStep(step)) return calendarGrid(from, to, step, zone);
  if (zone === "UTC" || stepMs % dayMs !== 0) return gridOf(from, to, stepMs);
  return stepMs === 7 * dayMs
    ? calendarGrid(from, to, "week", zone)
    : calendarGrid(from, to, "day", zone, stepMs / dayMs);
}

/** The grid as much earlier as a sentence says: by whole days at the same clock time, else by that many ms. */
function shiftedGrid(grid: Grid, sentence: Sentence, zone: string): Grid {
  if (sentence.earlier === undefined) return grid;
  const edges = Float64Array.from({ length: grid.count + 1 }, (_, k) =>
    earlierMoment(grid.edgesMs ? grid.edgesMs[k] : grid.fromMs + k * grid.stepMs, sentence, zone),
  );
  const isEven = !grid.edgesMs && edges.every((edge, k) => edge === edges[0] + k * grid.stepMs);
  return isEven
    ? { fromMs: edges[0], stepMs: grid.stepMs, count: grid.count }
    : { fromMs: edges[0], stepMs: grid.stepMs, count: grid.count, edgesMs: edges };
}

function earlierMoment(ms: number, { earlier }: Sentence, zone: string): number {
  if (earlier === undefined) return ms;
  const days = spanDays(earlier);
  return days === undefined || zone === "UTC" ? ms - (spanMs(earlier) ?? 0) : daysEarlier(ms, days, zone);
}

/** Totals default to their rate, levels to their value. What is added up of a total is its growth. */
export function asOf(as: As | undefined, isTotal: boolean, ofEvery?: OfEvery): As {
  if (isTotal && ofEvery === "sum") return "increase";
  return as ?? (isTotal ? "rate" : "value");
}

/**
 * The unit of a level's integral over time, and what its integral in ms is multiplied by: a level a second adds up to
 * what it is of (By/s to By), all
 * else to itself times hours (W to W.h).
 */
export function integralOf(unit: string): { readonly unit: string; readonly scale: number } {
  if (unit.endsWith("/s")) return { unit: unit.slice(0, -2), scale: 1 / 1000 };
  return { unit: unit === "1" ? "h" : `${unit}.h`, scale: 1 / 3_600_000 };
}

/** What is kept of a step where the sentence does not say. */
export function ofEveryOf(ofEvery: OfEvery | undefined, as: As): OfEvery {
  return ofEvery ?? (as === "increase" ? "sum" : "mean");
}

function shiftMs(sentence: Sentence): number {
  return sentence.earlier === undefined ? 0 : (spanMs(sentence.earlier) ?? 0);
}

function unitReading(sentence: Sentence, series: SeriesInfo): string {
  if (sentence.of_every === "count" || sentence.combine === "count") return "1";
  const as = asOf(sentence.as, onlyGrows(series.kind), sentence.of_every);
  if (as === "rate") return rateUnit(series.unit);
  return as === "value" && sentence.of_every === "sum" ? integralOf(series.unit).unit : series.unit;
}

function isAnswered(sentence: Sentence, kind: CounterKind): boolean {
  const as = asOf(sentence.as, onlyGrows(kind), sentence.of_every);
  return rollupsAnswer(onlyGrows(kind) ? "total" : "level", as, ofEveryOf(sentence.of_every, as));
}

function sharesOf({ lineOf, count }: LineGroups): Int32Array {
  const sharing = new Int32Array(count);
  for (const line of lineOf) sharing[line]++;
  return sharing;
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
function tierOf(grid: Grid, stepMs: number, shift: number): Tier {
  const fits = (resolutionMs: number) =>
    grid.edgesMs
      ? grid.edgesMs.every((edge) => edge % resolutionMs === 0)
      : stepMs % resolutionMs === 0 && shift % resolutionMs === 0;
  return fits(hourMs) ? "1h" : fits(fiveMinutesMs) ? "5m" : "raw";
}

/** About how many samples must be read for a sentence. */
function samplesOf(
  sentence: Sentence,
  series: readonly SeriesInfo[],
  intervals: Float64Array,
  document: ReadingDocument,
  stepMs: number,
  reach: StoreReach,
): number {
  const shift = shiftMs(sentence);
  const until = document.window.to - shift;
  const from = Math.max(document.window.from - shift, reach.rawFromMs);
  const rolled =
    stepMs % fiveMinutesMs !== 0 || shift % fiveMinutesMs !== 0 ? Number.NEGATIVE_INFINITY : reach.fiveMinutesUntilMs;
  const since = kindsOf(series).every((kind) => isAnswered(sentence, kind)) ? Math.max(from, rolled) : from;
  let samples = 0;
  for (let i = 0; i < intervals.length && until > since; i++)
    samples += (until - since) / (intervals[i] > 0 ? intervals[i] : assumedIntervalMs);
  return samples;
}

/**
 * Held values and spread rates fill the steps of slower series, so the fastest one decides. Infinity where none is
 * known.
 */
function finestInterval(intervals: Float64Array): number {
  let finest = Number.POSITIVE_INFINITY;
  for (let i = 0; i < intervals.length; i++) if (intervals[i] > 0 && intervals[i] < finest) finest = intervals[i];
  return finest;
}

/** Infinity is not among intervals: what is not known needs no margin. */
function slowestInterval(intervals: Float64Array): number {
  let slowest = 0;
  for (let i = 0; i < intervals.length; i++)
    if (intervals[i] > slowest && intervals[i] < Number.POSITIVE_INFINITY) slowest = intervals[i];
  return Math.min(slowest, mostMarginMs);
}

function stepWords(stepMs: number): string {
  if (stepMs % hourMs === 0) return `${stepMs / hourMs} h`;
  return stepMs % 60_000 === 0 ? `${stepMs / 60_000} min` : `${stepMs / 1000} s`;
}
