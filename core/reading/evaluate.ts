import type { CounterKind, Tags } from "../counters/counter.ts";
import type { Column } from "../series/batch.ts";
import { usualIntervalMs } from "../series/interval.ts";
import { rateUnit } from "../units/rate-unit.ts";
import { combineLines, type TaggedValues } from "./combine.ts";
import type { Line, ReadingAnswer, ReadingDocument, Sentence } from "./document.ts";
import { evaluateFigure, parseFigure } from "./figure.ts";
import { reduceSeries } from "./reduce.ts";
import { autoStepMs, type Grid, gridOf, spanMs } from "./step.ts";

const usualPoints = 600;

/** The samples of one series that a sentence asked for. */
export interface SeriesColumn {
  readonly tags: Tags;
  readonly unit: string;
  readonly kind: CounterKind;
  readonly column: Column;
}

/** What must be fetched for a sentence, in ms `[fromMs, toMs)`: the window, earlier where asked, and a margin before it for rates and held values. */
export function spanToFetch(document: ReadingDocument, sentence: Sentence): { readonly fromMs: number; readonly toMs: number } {
  const shift = shiftMs(sentence);
  const { from, to } = document.window;
  const step = typeof document.step === "number" ? document.step * 1000 : autoStepMs(from, to, document.points ?? usualPoints, Number.NaN);
  const margin = Math.max(step * 2, 60_000);
  return { fromMs: from - shift - margin, toMs: to - shift + margin };
}

/**
 * Answers a document from the samples fetched for its sentences (see `spanToFetch`). Pure: the same samples give the same answer.
 * Throws FigureError where the arithmetic cannot be worked out.
 */
export function evaluateReading(document: ReadingDocument, fetched: Readonly<Record<string, readonly SeriesColumn[]>>): ReadingAnswer {
  const { from, to } = document.window;
  const names = Object.keys(document.sentences);
  const figure = document.figure === undefined ? undefined : parseFigure(document.figure, names);
  const stepMs = typeof document.step === "number" ? document.step * 1000 : autoStepMs(from, to, document.points ?? usualPoints, finestInterval(fetched));
  const grid = gridOf(from, to, stepMs);
  const notes: string[] = [];
  const results: Record<string, readonly TaggedValues[]> = {};
  const units: Record<string, string> = {};
  for (const name of names) {
    const sentence = document.sentences[name] as Sentence;
    const series = fetched[name] ?? [];
    if (series.length === 0) notes.push(`${name}: nothing here reports "${sentence.counter}" with these tags in this window.`);
    units[name] = unitOf(sentence, series[0]);
    results[name] = linesOf(sentence, series, grid);
  }
  const lines = figure
    ? evaluateFigure(figure, results, grid.count).map((line) => answerLine("figure", line, document.unit ?? "1"))
    : names.flatMap((name) => (results[name] as readonly TaggedValues[]).map((line) => answerLine(name, line, units[name] as string)));
  return { from: grid.fromMs, stepMs: grid.stepMs, count: grid.count, tier: "raw", lines, notes };
}

function linesOf(sentence: Sentence, series: readonly SeriesColumn[], grid: Grid): readonly TaggedValues[] {
  const shift = shiftMs(sentence);
  const shifted = shift === 0 ? grid : { ...grid, fromMs: grid.fromMs - shift };
  const reduced = series.map(({ tags, kind, column }) => {
    const as = sentence.as ?? (kind === "total" ? "rate" : "value");
    return { tags, values: reduceSeries(column, shifted, as, sentence.of_every ?? (as === "increase" ? "sum" : "mean")) };
  });
  const combine = sentence.combine ?? (series[0]?.kind === "total" ? "sum" : "mean");
  const lines = combineLines(reduced, sentence.lines ?? "each", combine);
  return sentence.keep ? kept(lines, sentence.keep) : lines;
}

function kept(lines: readonly TaggedValues[], keep: NonNullable<Sentence["keep"]>): readonly TaggedValues[] {
  const by = keep.by ?? "mean";
  const ranked = lines.map((line) => ({ line, rank: statistics(line.values)[by] })).filter(({ rank }) => rank !== null);
  ranked.sort((a, b) => (keep.lowest === undefined ? -1 : 1) * ((a.rank as number) - (b.rank as number)));
  return ranked.slice(0, keep.highest ?? keep.lowest).map(({ line }) => line);
}

function answerLine(of: string, { tags, values }: TaggedValues, unit: string): Line {
  return { of, tags, unit, values: Array.from(values, (v) => (Number.isFinite(v) ? v : null)), ...statistics(values) };
}

function statistics(values: Float64Array): Pick<Line, "last" | "min" | "mean" | "max"> {
  let last: number | null = null;
  let min = Number.POSITIVE_INFINITY;
  let max = Number.NEGATIVE_INFINITY;
  let sum = 0;
  let n = 0;
  for (const v of values) {
    if (!Number.isFinite(v)) continue;
    last = v;
    if (v < min) min = v;
    if (v > max) max = v;
    sum += v;
    n++;
  }
  return n === 0 ? { last: null, min: null, mean: null, max: null } : { last, min, mean: sum / n, max };
}

function unitOf(sentence: Sentence, series: SeriesColumn | undefined): string {
  if (!series) return "1";
  if (sentence.of_every === "count" || sentence.combine === "count") return "1";
  const as = sentence.as ?? (series.kind === "total" ? "rate" : "value");
  return as === "rate" ? rateUnit(series.unit) : series.unit;
}

/** Held values and spread rates fill the steps of slower series, so the fastest one decides. */
function finestInterval(fetched: Readonly<Record<string, readonly SeriesColumn[]>>): number {
  let finest = Number.NaN;
  for (const series of Object.values(fetched)) {
    for (const { column } of series) {
      const interval = usualIntervalMs(column.timeMs);
      if (!(finest <= interval) && interval > 0) finest = interval;
    }
  }
  return finest;
}

function shiftMs(sentence: Sentence): number {
  return sentence.earlier === undefined ? 0 : (spanMs(sentence.earlier) ?? 0);
}
