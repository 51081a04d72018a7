import type { Tags } from "../../core/counters/counter.ts";
import { seriesKey } from "../../core/counters/series-key.ts";
import type { ReadingAnswer } from "../../core/reading/document.ts";
import { roundStepMs } from "../../core/reading/step.ts";
import { gaugePlan, gaugesOf, usualOf, usualWeeks, type UsualAt, weekMs } from "../../core/rules/gauges.ts";
import type { RuleDocument } from "../../core/rules/rule.ts";
import { answerReading, plannedReading } from "../reading/answer-reading.ts";
import type { MachineNames } from "../sources/machine-names.ts";
import type { Store } from "../store/store.ts";

const hourMs = 3_600_000;

export type GaugedRule = Pick<RuleDocument, "reading" | "watch" | "notice" | "urgent">;

/** How a rule's values are read, with what its series are like at present. */
export interface RuleGrid {
  readonly stepMs: number;
  readonly before: number;
  /**
   * A value is of the moment at which its step ends, where it is worked out over the step; a level that is gathered once in a step is
   * of the step's beginning, and known as soon as it has come.
   */
  readonly atEnd: boolean;
}

/** A line of a rule with the figures that are compared; the first is of the moment `firstMs`. */
export interface GaugedLine {
  readonly key: string;
  readonly tags: Tags;
  readonly unit: string;
  readonly gauges: Float64Array;
  /** NaN where the step itself has no value. */
  readonly values: Float64Array;
}

export interface Gauged {
  readonly firstMs: number;
  readonly stepMs: number;
  readonly lines: readonly GaugedLine[];
  readonly notes: readonly string[];
}

/** The grid of a rule, by the series that it finds now. Throws FigureError for arithmetic that cannot be read. */
export function ruleGrid(store: Store, names: MachineNames | undefined, rule: GaugedRule, nowMs: number): RuleGrid {
  const { asked, plan } = plannedReading(store, { ...rule.reading, window: { from: nowMs - 60_000, to: nowMs }, points: 10 }, names);
  let finest = Number.POSITIVE_INFINITY;
  let isTotal = false;
  asked.forEach(({ ids }, i) => {
    for (const interval of store.intervalsMs(ids)) if (interval < finest) finest = interval;
    const sentence = Object.values(rule.reading.sentences)[i];
    const said = sentence?.as;
    if (said !== "value" && plan.sentences[i]?.totals.some((total) => total === 1)) isTotal = true;
  });
  const { stepMs, before } = gaugePlan(rule, finest);
  const isOnce = stepMs <= roundStepMs((Number.isFinite(finest) ? finest : 5000) * 0.99);
  return { stepMs, before, atEnd: isTotal || !isOnce };
}

/**
 * The figures of every line whose moments lie in `(afterMs, untilMs]`, at whole steps. Each comes of what lies in its reach alone, so that
 * a live check and a rehearsal over the same samples give the same.
 */
export async function readGauges(store: Store, names: MachineNames | undefined, rule: GaugedRule, { stepMs, before, atEnd }: RuleGrid, afterMs: number, untilMs: number, usualOfLines: (answer: ReadingAnswer) => Promise<ReadonlyMap<string, UsualAt>>, signal?: AbortSignal): Promise<Gauged> {
  const shift = atEnd ? stepMs : 0;
  const firstMs = (Math.floor(afterMs / stepMs) + 1) * stepMs;
  const count = Math.max(0, Math.floor((untilMs - firstMs) / stepMs) + 1);
  const from = firstMs - shift - before * stepMs;
  const to = firstMs - shift + count * stepMs;
  if (count === 0) return { firstMs, stepMs, lines: [], notes: [] };
  const answer = await answerReading(store, { ...rule.reading, window: { from, to }, step: stepMs / 1000 }, signal, names);
  // What is kept by longer buckets only is answered by those; its moments are fewer.
  const step = answer.stepMs;
  const first = Math.max(0, Math.round((firstMs - shift - answer.from) / step));
  const usual = rule.watch.kind === "usual" ? await usualOfLines(answer) : undefined;
  const lines = answer.lines.map((line): GaugedLine => {
    const key = seriesKey(line.of, line.tags);
    const values = Float64Array.from(line.values, (value) => value ?? Number.NaN);
    return { key, tags: line.tags, unit: line.unit, gauges: gaugesOf(rule.watch, values, answer.from, step, first, usual?.get(key)), values: values.subarray(first) };
  });
  return { firstMs: answer.from + first * step + (atEnd ? step : 0), stepMs: step, lines, notes: answer.notes };
}

/** What the lines of a rule mostly are at the hours of the week, in a window; worked out of the means of the same hours of the four weeks before. */
export async function readUsual(store: Store, names: MachineNames | undefined, rule: GaugedRule, fromMs: number, toMs: number, signal?: AbortSignal): Promise<ReadonlyMap<string, UsualAt>> {
  const from = Math.floor(fromMs / hourMs) * hourMs;
  const to = Math.ceil(toMs / hourMs) * hourMs;
  const weeks = await Promise.all(Array.from({ length: usualWeeks }, (_, i) => answerReading(store, { ...rule.reading, window: { from: from - (i + 1) * weekMs, to: to - (i + 1) * weekMs }, step: 3600 }, signal, names)));
  const byLine = new Map<string, (number | null | undefined)[][]>();
  weeks.forEach((answer, week) => {
    for (const line of answer.lines) {
      const key = seriesKey(line.of, line.tags);
      const all = byLine.get(key) ?? Array.from({ length: usualWeeks }, () => []);
      byLine.set(key, all);
      all[week] = [...line.values];
    }
  });
  return new Map([...byLine].map(([key, all]) => [key, (hour: number) => usualOf(all.map((values) => values[(hour - from) / hourMs]))]));
}

