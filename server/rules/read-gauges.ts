import type { OfEvery } from "../../core/series/of-every.ts";
import type { Tags } from "../../core/counters/counter.ts";
import { seriesKey } from "../../core/counters/series-key.ts";
import type { ReadingAnswer, Sentence } from "../../core/reading/document.ts";
import type { StepEnd } from "../../core/reading/plan.ts";
import { roundStepMs } from "../../core/reading/step.ts";
import { gaugePlan, gaugesOf, type UsualAt } from "../../core/rules/gauges.ts";
import type { RuleDocument } from "../../core/rules/rule.ts";
import { reachFactor } from "../../core/series/interval.ts";
import { answerReading, plannedReading } from "../reading/answer-reading.ts";
import { type UsualMoments, usualLines } from "../reading/usual-lines.ts";
import type { MachineNames } from "../machines/machine-names.ts";
import type { Store } from "../store/store.ts";

const dayMs = 86_400_000;
/** A rule waits for a series that comes more seldom than this no longer than this. */
const mostWaitedMs = dayMs;

export type GaugedRule = Pick<RuleDocument, "reading" | "watch" | "notice" | "urgent">;

/** How a rule's values are read, with what its series are like at present. */
export interface RuleGrid {
  readonly stepMs: number;
  readonly before: number;
  /**
   * Levels that are gathered once in a step at the most are compared as they are when the step begins: with the sample
   * that comes in it, or the one that holds. Then a
   * figure is of the step's beginning, and known as soon as every series has told in it. All else is worked out over
   * the step, and of the moment at which it ends.
   */
  readonly atEnd: boolean;
  /** For how long the slowest of its series is waited for, ms; what comes late for so much longer. */
  readonly waitsMs: number;
  /** How late its series may come at the most, ms. */
  readonly lateMs: number;
}

/** A line of a rule with the figures that are compared; the first is of the moment `firstMs`. */
export interface GaugedLine {
  readonly key: string;
  readonly tags: Tags;
  readonly unit: string;
  readonly gauges: Float64Array;
  /**
   * How many of them are settled: every series of the line has told, or has been silent for longer than its reach. What
   * follows may still change.
   */
  readonly settled: number;
}

export interface Gauged {
  readonly firstMs: number;
  readonly stepMs: number;
  readonly lines: readonly GaugedLine[];
  readonly notes: readonly string[];
}

/**
 * The grid of a rule, by the series that it finds now, or that were there since another moment. Throws FigureError for
 * arithmetic that cannot be read.
 */
export function ruleGrid(
  store: Store,
  names: MachineNames | undefined,
  rule: GaugedRule,
  nowMs: number,
  sinceMs = nowMs - 60_000,
): RuleGrid {
  const { asked, plan } = plannedReading(
    store,
    { ...rule.reading, window: { from: sinceMs, to: nowMs }, points: 10 },
    names,
  );
  const sentences = Object.values(rule.reading.sentences);
  let finest = Number.POSITIVE_INFINITY;
  let slowest = 0;
  let lateMs = 0;
  let isPlain = rule.watch.kind !== "usual";
  asked.forEach(({ ids }, i) => {
    for (const interval of store.intervalsMs(ids)) {
      if (interval < finest) finest = interval;
      if (interval > slowest) slowest = interval;
    }
    for (const late of store.latesMs(ids)) if (late > lateMs) lateMs = late;
    const { as, of_every } = sentences[i] as Sentence;
    if (as !== "value" && plan.sentences[i]?.totals.some((total) => total === 1)) isPlain = false;
    if (of_every !== undefined && !ofOneSample.has(of_every)) isPlain = false;
  });
  const { stepMs, before } = gaugePlan(rule, finest);
  const isOnce = stepMs <= roundStepMs((Number.isFinite(finest) ? finest : 5000) * 0.99);
  return {
    stepMs,
    before,
    atEnd: !(isPlain && isOnce),
    waitsMs: Math.min(mostWaitedMs, reachFactor * slowest + lateMs),
    lateMs,
  };
}

/** What gives the sample itself where a step has one. */
const ofOneSample: ReadonlySet<OfEvery> = new Set(["mean", "min", "max", "first", "last"]);

/** A rule's sentences as its figures need them. */
function readSentences({ reading, watch }: GaugedRule, atEnd: boolean): RuleDocument["reading"]["sentences"] {
  const change = (sentence: Sentence): Sentence => {
    // What is held is not heard: silence is told by samples alone.
    if (watch.kind === "silence") return { ...sentence, as: "value", of_every: "count", combine: "sum" };
    if (!atEnd) return { ...sentence, of_every: "first" };
    // The least and the most of a while are of its samples, not of the means of steps.
    if (
      watch.kind === "value" &&
      (watch.of === "min" || watch.of === "max") &&
      sentence.of_every === undefined &&
      (sentence.lines ?? "each") === "each"
    )
      return { ...sentence, of_every: watch.of };
    return sentence;
  };
  return Object.fromEntries(Object.entries(reading.sentences).map(([name, sentence]) => [name, change(sentence)]));
}

interface GaugeOptions {
  /** What is usual of the lines of an answer; asked only where a rule watches that. */
  readonly usualOfLines: (answer: ReadingAnswer) => Promise<ReadonlyMap<string, UsualAt>>;
  readonly signal?: AbortSignal | undefined;
  readonly nowMs?: number;
}

/**
 * The figures of every line whose moments lie in `(afterMs, untilMs]`, at whole steps. Each comes of what lies in its
 * reach alone, so that
 * a live check and a rehearsal over the same samples give the same. `nowMs` decides what may still come.
 */
export async function readGauges(
  store: Store,
  names: MachineNames | undefined,
  rule: GaugedRule,
  { stepMs, before, atEnd, lateMs = 0 }: Pick<RuleGrid, "stepMs" | "before" | "atEnd"> & { readonly lateMs?: number },
  { afterMs, untilMs }: { readonly afterMs: number; readonly untilMs: number },
  { usualOfLines, signal, nowMs = store.nowMs() }: GaugeOptions,
): Promise<Gauged> {
  const isHeard = rule.watch.kind === "silence";
  const shift = atEnd && !isHeard ? stepMs : 0;
  const firstMs = (Math.floor(afterMs / stepMs) + 1) * stepMs;
  const count = Math.max(0, Math.floor((untilMs - firstMs) / stepMs) + 1);
  const from = firstMs - shift - before * stepMs;
  const to = firstMs - shift + count * stepMs;
  if (count === 0) return { firstMs, stepMs, lines: [], notes: [] };
  const waitsForEnd: StepEnd = atEnd ? "end" : "beginning";
  const answer = await answerReading(
    store,
    { ...rule.reading, usual: false, sentences: readSentences(rule, atEnd), window: { from, to }, step: stepMs / 1000 },
    signal,
    names,
    { waitsForEnd, nowMs },
  );
  // What is kept by longer buckets only is answered by those; its moments are fewer.
  const step = answer.stepMs;
  const first = Math.max(0, Math.round((firstMs - shift - answer.from) / step));
  const usual = rule.watch.kind === "usual" ? await usualOfLines(answer) : undefined;
  const lines = answer.lines.map((line): GaugedLine => {
    const key = seriesKey(line.of, line.tags);
    const values = numbersOf(line.values);
    const gauges = gaugesOf(rule.watch, values, answer.from, step, first, usual?.get(key));
    // Nobody is silent for as long as what comes late may still come.
    const heard = () => gauges.findLastIndex((_, i) => answer.from + (first + i) * step + shift <= nowMs - lateMs) + 1;
    return {
      key,
      tags: line.tags,
      unit: line.unit,
      gauges,
      settled: isHeard ? heard() : Math.max(0, (line.whole ?? line.values.length) - first),
    };
  });
  return { firstMs: answer.from + first * step + shift, stepMs: step, lines, notes: answer.notes };
}

/** How far the lines of a rule lie from what is usual of them, at the moments of a window (by `stepMs`). */
export async function readUsual(
  store: Store,
  names: MachineNames | undefined,
  rule: GaugedRule,
  moments: UsualMoments,
  signal?: AbortSignal,
): Promise<ReadonlyMap<string, UsualAt>> {
  const lines = await readUsualLines(store, names, rule.reading, moments, signal);
  return new Map(
    [...lines].map(
      ([key, { usual }]) => [key, (endMs: number) => usual.deviations(usual.meanBefore(endMs), endMs)] as const,
    ),
  );
}

/** What is usual of a reading's lines at the moments of a window (`usualLines`). */
export async function readUsualLines(
  store: Store,
  names: MachineNames | undefined,
  reading: GaugedRule["reading"],
  moments: UsualMoments,
  signal?: AbortSignal,
): ReturnType<typeof usualLines> {
  return usualLines((document) => answerReading(store, document, signal, names), reading, moments);
}

function numbersOf(values: readonly (number | null)[]): Float64Array {
  const numbers = new Float64Array(values.length);
  for (let i = 0; i < values.length; i++) numbers[i] = values[i] ?? Number.NaN;
  return numbers;
}
