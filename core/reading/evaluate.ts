import type { CounterKind, Tags } from "../counters/counter.ts";
import type { Column } from "../series/batch.ts";
import { usualIntervalMs } from "../series/interval.ts";
import { quantilesOfBuckets } from "./buckets.ts";
import type { TaggedValues } from "./combine.ts";
import type { Line, ReadingAnswer, ReadingDocument, Sentence } from "./document.ts";
import { evaluateFigure, parseFigure } from "./figure.ts";
import { nothingReports, planReading, type ReadingPlan } from "./plan.ts";
import { SentenceReducer } from "./reduce-sentence.ts";
import type { Values } from "./steps.ts";

/** The samples of one series that a sentence asked for. */
export interface SeriesColumn {
  readonly tags: Tags;
  readonly unit: string;
  readonly kind: CounterKind;
  readonly column: Column;
}

/**
 * Answers a document from samples in memory: plan, reduce, assemble in one. Pure: the same samples give the same answer.
 * Throws FigureError where the arithmetic cannot be worked out.
 */
export function evaluateReading(document: ReadingDocument, fetched: Readonly<Record<string, readonly SeriesColumn[]>>): ReadingAnswer {
  const found = Object.fromEntries(Object.entries(fetched).map(([name, series]) => [name, series.map((one) => ({ ...one, intervalMs: usualIntervalMs(one.column.timeMs) }))]));
  const plan = planReading(document, found);
  const results = plan.sentences.map((sentence) => {
    const reducer = new SentenceReducer(sentence);
    fetched[sentence.name]?.forEach(({ column }, i) => {
      reducer.add(i, { rollups: [], rawFromMs: Number.NEGATIVE_INFINITY, raw: column });
    });
    return reducer.finish();
  });
  return assembleReading(document, plan, results);
}

/** Makes the answer of the lines' values, one list a sentence. Throws FigureError. */
export function assembleReading(document: ReadingDocument, plan: ReadingPlan, results: readonly (readonly Values[])[]): ReadingAnswer {
  const lines: Record<string, readonly TaggedValues[]> = {};
  const silent: string[] = [];
  plan.sentences.forEach(({ name, lineCount, bucketQuantile }, i) => {
    const found = results[i] as readonly Values[];
    const all = found.slice(0, lineCount).map((values, line): TaggedValues => ({ tags: plan.lineTags[name]?.[line] as Tags, values, lows: found[lineCount + line], highs: found[2 * lineCount + line] })).filter(({ values }) => hasAny(values));
    if (all.length === 0 && (plan.lineTags[name] as readonly Tags[]).length > 0) silent.push(nothingReports(name, document.sentences[name] as Sentence));
    const { keep } = document.sentences[name] as Sentence;
    const told = bucketQuantile === undefined ? all : quantilesOfBuckets(all, bucketQuantile).filter(({ values }) => hasAny(values));
    lines[name] = keep ? kept(told, keep) : told;
  });
  const names = Object.keys(lines);
  const { grid, tier, notes } = plan;
  const answered =
    document.figure === undefined
      ? names.flatMap((name) => (lines[name] as readonly TaggedValues[]).map((line) => answerLine(name, line, plan.units[name] as string)))
      : evaluateFigure(parseFigure(document.figure, names), lines, grid.count).map((line) => answerLine("figure", line, document.unit ?? "1"));
  return { from: grid.fromMs, stepMs: grid.stepMs, count: grid.count, tier, lines: answered, notes: [...notes, ...silent] };
}

function hasAny(values: Values): boolean {
  let i = 0;
  while (i < values.length && Number.isNaN(values[i])) i++;
  return i < values.length;
}

function kept(lines: readonly TaggedValues[], keep: NonNullable<Sentence["keep"]>): readonly TaggedValues[] {
  const by = keep.by ?? "mean";
  const ranked = lines.map((line) => ({ line, rank: statistics(line.values)[by] })).filter(({ rank }) => rank !== null);
  ranked.sort((a, b) => (keep.lowest === undefined ? -1 : 1) * ((a.rank as number) - (b.rank as number)));
  return ranked.slice(0, keep.highest ?? keep.lowest).map(({ line }) => line);
}

function answerLine(of: string, { tags, values, lows, highs }: TaggedValues, unit: string): Line {
  const line = { of, tags, unit, values: numbersOrNull(values), ...statistics(values) };
  return lows && highs && lows.length > 0 ? { ...line, lows: numbersOrNull(lows), highs: numbersOrNull(highs) } : line;
}

function numbersOrNull(values: Values): (number | null)[] {
  const answered = new Array<number | null>(values.length);
  for (let i = 0; i < values.length; i++) {
    const v = values[i] as number;
    answered[i] = v - v === 0 ? v : null; // NaN and infinities fail
  }
  return answered;
}

function statistics(values: Float64Array): Pick<Line, "last" | "min" | "mean" | "max"> {
  let last: number | null = null;
  let min = Number.POSITIVE_INFINITY;
  let max = Number.NEGATIVE_INFINITY;
  let sum = 0;
  let n = 0;
  for (let i = 0; i < values.length; i++) {
    const v = values[i] as number;
    if (v - v !== 0) continue; // NaN and infinities
    last = v;
    if (v < min) min = v;
    if (v > max) max = v;
    sum += v;
    n++;
  }
  return n === 0 ? { last: null, min: null, mean: null, max: null } : { last, min, mean: sum / n, max };
}
