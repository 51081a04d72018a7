import type { Tags } from "../counters/counter.ts";
import { blockLength } from "./block-extremes.ts";
import type { Compare, Effect, Limit, RuleDocument, Severity } from "./rule.ts";
import { type GaugeRun, runLine } from "./run-line.ts";
import { lineStateFor } from "./step-line.ts";

const dayMs = 86_400_000;
/** So many incidents are told one by one; all are counted. */
const mostTold = 2000;
const weekHours = 168;

export type RehearsedRule = Pick<
  RuleDocument,
  "watch" | "compare" | "notice" | "urgent" | "mustLastSeconds" | "staysRaisedSeconds" | "noData" | "everySeconds"
>;

export interface RehearsedLine {
  readonly tags: Tags;
  readonly run: GaugeRun;
}

/** When a rule would have been raised. */
interface RehearsedIncident {
  readonly line: number;
  /** The gravest that it was. */
  readonly severity: Severity;
  readonly raisedAtMs: number;
  /** Null where it would be raised still. */
  readonly clearedAtMs: number | null;
  readonly value: number | null;
  readonly furthest: number | null;
}

export interface Rehearsal {
  readonly lines: readonly { readonly tags: Tags; readonly count: number; readonly raisedMs: number }[];
  /** The first ones of each line, by time. */
  readonly incidents: readonly RehearsedIncident[];
  readonly count: number;
  readonly perDay: number;
  /** How often it was raised in each hour of the week, from Monday's first, in the viewer's zone. */
  readonly byHour: readonly number[];
  readonly longestMs: number;
  readonly suggestions: readonly Suggestion[];
}

/** What a rule would have done in a past, and what of it was read; times in ms. */
export interface RehearsalAnswer extends Rehearsal {
  readonly from: number;
  readonly to: number;
  readonly stepMs: number;
  readonly unit: string;
  readonly notes: readonly string[];
}

/** What would make a rule speak at most once a day, with how often it would. */
export type Suggestion =
  | { readonly kind: "must last"; readonly seconds: number; readonly perDay: number }
  | { readonly kind: "limit"; readonly severity: Severity; readonly at: number; readonly perDay: number };

/**
 * Runs the past through the rule, by the same steps as a live check. `from` and `to` in ms; `hourOfWeek` gives 0 to 167
 * from Monday's first
 * hour. A rule that would have spoken more than once a day gets suggestions, each of them tried on the same past.
 */
export function rehearse(
  rule: RehearsedRule,
  lines: readonly RehearsedLine[],
  from: number,
  to: number,
  hourOfWeek: (ms: number) => number,
): Rehearsal {
  const days = Math.max(1 / 24, (to - from) / dayMs);
  const all = lines.flatMap((line, i) => incidentsOf(rule, line, i, to));
  const byHour = new Array<number>(weekHours).fill(0);
  for (const { raisedAtMs } of all) byHour[hourOfWeek(raisedAtMs)] = (byHour[hourOfWeek(raisedAtMs)] ?? 0) + 1;
  const lasted = ({ raisedAtMs, clearedAtMs }: RehearsedIncident) => (clearedAtMs ?? to) - raisedAtMs;
  const counts = lines.map(() => 0);
  const raisedMs = lines.map(() => 0);
  for (const one of all) {
    counts[one.line]++;
    raisedMs[one.line] += lasted(one);
  }
  return {
    lines: lines.map(({ tags }, i) => ({ tags, count: counts[i], raisedMs: raisedMs[i] })),
    incidents: all.slice(0, mostTold).sort((a, b) => a.raisedAtMs - b.raisedAtMs),
    count: all.length,
    perDay: all.length / days,
    byHour,
    longestMs: all.reduce((most, one) => Math.max(most, lasted(one)), 0),
    suggestions: all.length > days ? suggestionsFor(rule, lines, all, days, to) : [],
  };
}

function incidentsOf(
  rule: RehearsedRule,
  { run }: RehearsedLine,
  line: number,
  to: number,
): readonly RehearsedIncident[] {
  const made: RehearsedIncident[] = [];
  let open: { effect: Effect; severity: Severity; index: number } | undefined;
  const close = (clearedAtMs: number | null, until: number) => {
    if (!open) return;
    made.push({
      line,
      severity: open.severity,
      raisedAtMs: open.effect.atMs,
      clearedAtMs,
      value: open.effect.value,
      furthest: furthestOf(rule, run, open.index, until),
    });
    open = undefined;
  };
  runLine(rule, lineStateFor(rule, undefined, run.firstMs - run.stepMs), run, (effect, index) => {
    if (effect.kind === "raise") open = { effect, severity: effect.severity, index };
    else if (effect.kind === "worsen" && open) open.severity = "urgent";
    else if (effect.kind === "clear") close(Math.min(effect.atMs, to), index);
  });
  close(null, run.gauges.length);
  return made;
}

/** The value furthest beyond the limits, of two the one that is further; null where there was none. */
export function further(compare: Compare, limit: Limit, a: number | null, b: number | null): number | null {
  if (a === null || b === null) return a ?? b;
  switch (compare) {
    case "above":
      return Math.max(a, b);
    case "below":
      return Math.min(a, b);
    case "outside":
      return beyond(limit, b) > beyond(limit, a) ? b : a;
    case "inside":
      return beyond(limit, b) < beyond(limit, a) ? b : a;
  }
}

/** How far a value lies outside a range; below 0 inside it. */
const beyond = ({ low = Number.NEGATIVE_INFINITY, high = Number.POSITIVE_INFINITY }: Limit, value: number) =>
  Math.max(value - high, low - value);

function furthestOf(
  { compare, notice, urgent }: RehearsedRule,
  { gauges, extremes }: GaugeRun,
  from: number,
  to: number,
): number | null {
  const limit = notice ?? urgent ?? {};
  let most: number | null = null;
  for (let i = from; i < to; i++) {
    // From one limit, the furthest of a whole block is one of its extremes.
    if (extremes && (compare === "above" || compare === "below") && i % blockLength === 0 && i + blockLength <= to) {
      const at = (2 * i) / blockLength;
      if (!Number.isNaN(extremes[at])) {
        most = further(compare, limit, further(compare, limit, most, extremes[at]), extremes[at + 1]);
        i += blockLength - 1;
        continue;
      }
    }
    const gauge = gauges[i];
    if (Number.isFinite(gauge)) most = further(compare, limit, most, gauge);
  }
  return most;
}

function raisedCount(rule: RehearsedRule, { run }: RehearsedLine): number {
  let count = 0;
  runLine(rule, lineStateFor(rule, undefined, run.firstMs - run.stepMs), run, ({ kind }) => {
    if (kind === "raise") count++;
  });
  return count;
}

function suggestionsFor(
  rule: RehearsedRule,
  lines: readonly RehearsedLine[],
  all: readonly RehearsedIncident[],
  days: number,
  to: number,
): readonly Suggestion[] {
  const wanted = Math.floor(days);
  const countOf = (changed: RehearsedRule) => lines.reduce((sum, line) => sum + raisedCount(changed, line), 0);
  const made: Suggestion[] = [];
  // What lasts no longer than so many others did would not be told.
  const lasted = all
    .map(({ raisedAtMs, clearedAtMs }) => ((clearedAtMs ?? to) - raisedAtMs) / 1000)
    .sort((a, b) => b - a);
  const seconds = Math.ceil((rule.mustLastSeconds + (lasted[wanted] ?? 0) + 1) / 60) * 60;
  if (seconds <= 86_400) {
    const perDay = countOf({ ...rule, mustLastSeconds: seconds }) / days;
    if (perDay <= 1) made.push({ kind: "must last", seconds, perDay });
  }
  const severity: Severity = rule.notice ? "notice" : "urgent";
  const limit = rule[severity];
  if (limit && (rule.compare === "above" || rule.compare === "below")) {
    const up = rule.compare === "above";
    const reached = all
      .map(({ furthest }) => furthest)
      .filter((value) => value !== null)
      .sort((a, b) => (up ? b - a : a - b));
    const value = reached[wanted];
    if (value !== undefined) {
      const at = roundedAway(value, up);
      const moved: Limit = up ? { high: at } : { low: at };
      const other = severity === "notice" ? rule.urgent : null;
      // The graver limit is never nearer than the other.
      const urgent = other && (up ? (other.high ?? at) < at : (other.low ?? at) > at) ? moved : other;
      const perDay = countOf({ ...rule, [severity]: moved, ...(severity === "notice" && { urgent }) }) / days;
      if (perDay <= 1) made.push({ kind: "limit", severity, at, perDay });
    }
  }
  return made;
}

/** Two figures are enough for a limit; rounded so that the value itself is within it. */
function roundedAway(value: number, up: boolean): number {
  if (value === 0 || !Number.isFinite(value)) return value;
  const unit = 10 ** (Math.floor(Math.log10(Math.abs(value))) - 1);
  return Number(((up ? Math.ceil(value / unit - 1e-9) : Math.floor(value / unit + 1e-9)) * unit).toPrecision(12));
}
