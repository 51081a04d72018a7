import { keptLines } from "./kept-lines.ts";
import type { CounterKind, Tags } from "../counters/counter.ts";
import type { Column } from "../series/batch.ts";
import { medianIntervalMs } from "../series/interval.ts";
import { quantilesOfBuckets } from "./buckets.ts";
import type { TaggedValues } from "./combine.ts";
import type { LineValues } from "./line-values.ts";
import type { Line, ReadingAnswer, ReadingDocument, Sentence } from "./document.ts";
import { evaluateFigure, parseFigure } from "./figure.ts";
import { integralOf, nothingReports, planReading, type ReadingPlan, type StepEnd } from "./plan.ts";
import { SentenceReducer } from "./reduce-sentence.ts";
import { type Grid, stepAt, stepStart } from "./step.ts";
import type { Values } from "./steps.ts";

/** The samples of one series that a sentence asked for. */
export interface SeriesColumn {
  readonly tags: Tags;
  readonly unit: string;
  readonly kind: CounterKind;
  readonly column: Column;
}

/**
 * Answers a document from samples in memory: plan, reduce, assemble in one. Pure: the same samples give the same
 * answer.
 * Throws FigureError where the arithmetic cannot be worked out.
 */
export function evaluateReading(
  document: ReadingDocument,
  fetched: Readonly<Record<string, readonly SeriesColumn[]>>,
  nowMs = Number.POSITIVE_INFINITY,
): ReadingAnswer {
  const found = Object.fromEntries(
    Object.entries(fetched).map(([name, series]) => [
      name,
      series.map((one) => ({ ...one, intervalMs: medianIntervalMs(one.column.timeMs) })),
    ]),
  );
  const plan = planReading(document, found, { nowMs });
  const results = plan.sentences.map((sentence) => {
    const reducer = new SentenceReducer(sentence);
    fetched[sentence.name]?.forEach(({ column }, i) => {
      reducer.add(i, [column]);
    });
    return reducer.finish();
  });
  return assembleReading(document, plan, results);
}

/** Makes the answer of the lines' values, one list a sentence. Throws FigureError. */
// biome-ignore lint/complexity/noExcessiveLinesPerFunction: one pass over the lines
export function assembleReading(
  document: ReadingDocument,
  plan: ReadingPlan,
  results: readonly (readonly LineValues[])[],
): ReadingAnswer {
  const lines: Record<string, readonly TaggedValues[]> = {};
  const notes: string[] = [...plan.notes];
  const { grid, tier, nowMs } = plan;
  plan.sentences.forEach(({ name, bucketQuantile, scale, waitsForEnd, clipToMs }, i) => {
    const found = results[i] as readonly LineValues[];
    const all = found
      .map(
        (line, k): TaggedValues => ({
          tags: plan.lineTags[name]?.[k] as Tags,
          values: scale === 1 ? line.values : line.values.map((v) => v * scale),
          of: line,
          toldUntilMs: line.toldUntilMs,
        }),
      )
      .filter(({ values }) => hasAny(values));
    if (all.length === 0 && (plan.lineTags[name] as readonly Tags[]).length > 0)
      notes.push(nothingReports(name, document.sentences[name] as Sentence));
    const infinite = found.reduce((sum, line) => sum + line.infinite, 0);
    if (infinite > 0)
      notes.push(`${name}: ${infinite === 1 ? "1 infinite value was" : `${infinite} infinite values were`} left out.`);
    const { keep } = document.sentences[name] as Sentence;
    let told = all;
    if (bucketQuantile !== undefined) {
      const { lines: quantiles, above } = quantilesOfBuckets(all, bucketQuantile);
      told = [...quantiles].filter(({ values }) => hasAny(values));
      if (above > 0)
        notes.push(
          `${name}: in ${above === 1 ? "1 step" : `${above} steps`} the quantile lies above the highest bound that is counted, and is shown as that bound.`,
        );
    }
    lines[name] = keep
      ? keptLines(
          told,
          keep,
          (line) => statistics(line, { grid, nowMs, waitsForEnd, windowEndMs: clipToMs })[keep.by ?? "mean"],
        )
      : told;
  });
  const names = Object.keys(lines);
  const answer = (of: string, line: TaggedValues, unit: string, waitsForEnd: StepEnd, windowEndMs: number): Line =>
    answerLine(of, line, unit, statistics(line, { grid, nowMs, waitsForEnd, windowEndMs }));
  const sums = plan.sentences.flatMap(({ name }) =>
    (lines[name] as readonly TaggedValues[]).map(({ of }) =>
      sumOf(of?.sum ?? Number.NaN, plan.sums[name] as NonNullable<ReadingPlan["sums"][string]>),
    ),
  );
  let answered: readonly Line[];
  if (document.figure === undefined)
    answered = plan.sentences.flatMap(({ name, waitsForEnd, clipToMs }) =>
      (lines[name] as readonly TaggedValues[]).map((line) =>
        answer(name, line, plan.units[name] as string, waitsForEnd, clipToMs),
      ),
    );
  else {
    const waitsForEnd = plan.sentences
      .map((one) => one.waitsForEnd)
      .reduce((a, b) => (a === "end" || b === "end" ? "end" : a === "inside" ? a : b));
    const figure = evaluateFigure(parseFigure(document.figure, names), lines, grid.count);
    notes.push(...figure.notes);
    answered = figure.lines.map((line) =>
      answer("figure", line, document.unit ?? "1", waitsForEnd, document.window.to),
    );
  }
  if (document.sums)
    answered = answered.map((line, i) => ({
      ...line,
      sum: document.figure === undefined ? (sums[i] ?? null) : sumOfSteps(line, grid),
    }));
  return {
    from: grid.fromMs,
    stepMs: grid.stepMs,
    count: grid.count,
    ...(grid.edgesMs && { edges: [...grid.edgesMs] }),
    tier,
    lines: answered,
    notes,
  };
}

function hasAny(values: Values): boolean {
  let i = 0;
  while (i < values.length && Number.isNaN(values[i])) i++;
  return i < values.length;
}

interface Surroundings {
  readonly grid: Grid;
  readonly nowMs: number;
  readonly waitsForEnd: StepEnd;
  /** The end of the window that was read. */
  readonly windowEndMs: number;
}

type Statistics = Pick<Line, "last" | "min" | "mean" | "max"> & { readonly whole: number };

function answerLine(
  of: string,
  { tags, values, above, of: known }: TaggedValues,
  unit: string,
  { whole, last, min, mean, max }: Statistics,
): Line {
  const members = known?.members;
  return {
    of,
    tags,
    unit,
    values: numbersOrNull(values),
    ...(known?.lows && known.highs && { lows: numbersOrNull(known.lows), highs: numbersOrNull(known.highs) }),
    ...(above && { above }),
    ...(members && varies(members, values) && { members: [...members] }),
    ...(whole < values.length && { whole }),
    last,
    min,
    mean,
    max,
  };
}

/** Whether steps that have a value have it of different numbers of series. */
function varies(members: Int32Array, values: Values): boolean {
  let first = -1;
  for (let i = 0; i < members.length; i++) {
    if (Number.isNaN(values[i])) continue;
    if (first < 0) first = members[i];
    else if (members[i] !== first) return true;
  }
  return false;
}

const isTold = (v: number): boolean => v - v === 0; // NaN and infinities fail

/**
 * What is answered of values. Lists of numbers alone are made by a function of their own: the engine keeps each number
 * of a list as an object of its own once lists that are made in the same place have held null.
 */
function numbersOrNull(values: Values): readonly (number | null)[] {
  for (let i = 0; i < values.length; i++) if (!isTold(values[i])) return withNulls(values);
  return numbersAlone(values);
}

function numbersAlone(values: Values): number[] {
  const answered = new Array<number>(values.length);
  for (let i = 0; i < values.length; i++) answered[i] = values[i];
  return answered;
}

function withNulls(values: Values): (number | null)[] {
  const answered = new Array<number | null>(values.length);
  for (let i = 0; i < values.length; i++) {
    const v = values[i];
    answered[i] = isTold(v) ? v : null;
  }
  return answered;
}

function sumOf(
  sum: number,
  { unit, scale }: { readonly unit: string; readonly scale: number },
): NonNullable<Line["sum"]> | null {
  return Number.isNaN(sum) ? null : { value: sum * scale, unit };
}

/** Of arithmetic the steps tell: each holds for its length. */
function sumOfSteps({ values, unit }: Line, grid: Grid): NonNullable<Line["sum"]> | null {
  const { unit: summed, scale } = integralOf(unit);
  let sum: number | null = null;
  for (const [i, v] of values.entries())
    if (v !== null) sum = (sum ?? 0) + v * scale * (stepStart(grid, i + 1) - stepStart(grid, i));
  return sum === null ? null : { value: sum, unit: summed };
}

/**
 * What is said of a line beside its values. Its samples tell the least, the most and the mean where they are known; the
 * steps else.
 */
function statistics(
  { values, of, toldUntilMs = Number.POSITIVE_INFINITY }: TaggedValues,
  { grid, nowMs, waitsForEnd, windowEndMs }: Surroundings,
): Statistics {
  const isTold = of !== undefined && ![of.least, of.most, of.mean].some(Number.isNaN);
  const { min, max, sum, n } = isTold
    ? { min: of.least, max: of.most, sum: of.mean, n: hasAny(values) ? 1 : 0 }
    : summary(values);
  const whole = wholeSteps(grid, toldUntilMs, waitsForEnd);
  if (n === 0) return { last: null, min: null, mean: null, max: null, whole };
  const begun = nowMs === Number.POSITIVE_INFINITY ? values.length : Math.min(values.length, stepAt(grid, nowMs) + 1);
  const atEnd = values[Math.min(whole, begun) - 1];
  // Of one series it is its newest sample, as long as that holds: until now, or the end of a window that is past.
  const last =
    of && !Number.isNaN(of.newest) ? (of.newestUntilMs >= Math.min(nowMs, windowEndMs) ? of.newest : undefined) : atEnd;
  const orElse = (known: number | undefined, other: number) =>
    known === undefined || Number.isNaN(known) ? other : known;
  return {
    last: last !== undefined && last - last === 0 ? last : null,
    min: orElse(of?.least, min),
    mean: orElse(of?.mean, sum / n),
    max: orElse(of?.most, max),
    whole,
  };
}

/** What the values say that are neither NaN nor infinite: how many they are, their least, most and sum. */
function summary(values: Values): {
  readonly min: number;
  readonly max: number;
  readonly sum: number;
  readonly n: number;
} {
  let min = Number.POSITIVE_INFINITY;
  let max = Number.NEGATIVE_INFINITY;
  let sum = 0;
  let n = 0;
  for (let i = 0; i < values.length; i++) {
    const v = values[i];
    if (v - v !== 0) continue;
    if (v < min) min = v;
    if (v > max) max = v;
    sum += v;
    n++;
  }
  return { min, max, sum, n };
}

/**
 * How many steps are told when every series has told until a moment: a value counts from the beginning of its step, a
 * rate inside it, a sum at its end.
 */
function wholeSteps(grid: Grid, toldUntilMs: number, waitsForEnd: StepEnd): number {
  if (toldUntilMs === Number.POSITIVE_INFINITY) return grid.count;
  const step = stepAt(grid, toldUntilMs);
  const whole =
    waitsForEnd === "end" ||
    (waitsForEnd === "inside" && stepStart(grid, Math.max(0, Math.min(step, grid.count))) === toldUntilMs)
      ? step
      : step + 1;
  return Math.max(0, Math.min(grid.count, whole));
}
