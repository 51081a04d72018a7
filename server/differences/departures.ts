import { UsualLine, usualStepMs } from "../../core/baseline/usual-range.ts";
import { type Departure, departureOf } from "../../core/differences/line-difference.ts";
import { quantile } from "../../core/series/quantile.ts";
import { zoneOffsets } from "../../core/time/zone-offsets.ts";
import { workKind } from "../work/work-kind.ts";

/** Lines of one counter with their past and what they were in the span: values of one line after the other's. */
interface LinesToCompare {
  readonly counter: string;
  readonly unit: string;
  readonly lines: number;
  readonly past: Float64Array;
  /** Means of five minutes from the span's beginning on. */
  readonly span: Float64Array;
}

export interface DeparturesTask {
  readonly lists: readonly LinesToCompare[];
  readonly pastFromMs: number;
  readonly pastStepMs: number;
  readonly fromMs: number;
  /** IANA, by whose clock days and weeks are compared. */
  readonly zone: string;
  /** So many deviations are worth a closer look. */
  readonly least: number;
}

export interface Departures {
  /** One a line of each list: null where its past is too short, undefined where it is as usual. */
  readonly found: readonly (readonly (Departure | undefined | null)[])[];
  /** On how many days of past most of those rest that have a usual; 0 where none has. */
  readonly days: number;
}

export const departuresKind = workKind<DeparturesTask, Departures>("departures", ({ lists }) =>
  lists.flatMap(({ past, span }) => [past.buffer as ArrayBuffer, span.buffer as ArrayBuffer]),
);

/** How each line left its usual. */
export function departures({ lists, pastFromMs, pastStepMs, fromMs, zone, least }: DeparturesTask): Departures {
  const offsetMs = zoneOffsets(zone);
  const perDay = Math.round(dayMs / pastStepMs);
  const days: number[] = [];
  const found = lists.map(({ counter, unit, lines, past, span }) => {
    const pastSteps = past.length / lines;
    const spanSteps = span.length / lines;
    // Of a long span the past goes on within it; of a short one it ends most of a day before.
    const begins = Math.max(perDay, Math.min(pastSteps, Math.floor((fromMs - pastFromMs) / pastStepMs)));
    return Array.from({ length: lines }, (_, i) => {
      const values = span.subarray(i * spanSteps, (i + 1) * spanSteps);
      const own = past.subarray(i * pastSteps, (i + 1) * pastSteps);
      if (values.every(Number.isNaN) || (unit === "s" && isClock(own))) return undefined;
      // Most lines of most houses are as they were: that is seen without working out what is usual. A few tell how much
      // past there is.
      if (i >= lookedAtAnyway && isPlainlyUsual(values, own, { fromMs, pastFromMs, pastStepMs, perDay }))
        return undefined;
      const usual = new UsualLine(own, pastFromMs, pastStepMs, offsetMs);
      const rests = usual.at(fromMs + spanSteps * usualStepMs)?.days;
      if (rests !== undefined) days.push(rests);
      const departure = departureOf({ counter, unit, usual, values }, fromMs, least);
      return departure && isStanding(departure, own.subarray(begins - perDay, begins)) ? undefined : departure;
    });
  });
  return { found, days: days.length === 0 ? 0 : (days.sort((a, b) => a - b)[Math.floor(days.length / 2)] as number) };
}

const dayMs = 86_400_000;

/** So many lines of each list are compared in any case. */
const lookedAtAnyway = 2;
/** Neighbouring hours that are compared as well. */
const besideSteps = 1;
/** Beyond the quartiles by so many times their distance something may be unusual (NIST/SEMATECH e-Handbook 7.1.6). */
const fence = 1.5;
const leastPlain = 20;

interface Place {
  readonly fromMs: number;
  readonly pastFromMs: number;
  readonly pastStepMs: number;
  readonly perDay: number;
}

/** Whether all values of a span lie within the fences of its past's means at these clock times: so near its usual no line is told. */
function isPlainlyUsual(
  values: Float64Array,
  past: Float64Array,
  { fromMs, pastFromMs, pastStepMs, perDay }: Place,
): boolean {
  const [first, last] = [fromMs, fromMs + values.length * usualStepMs].map((ms) =>
    Math.floor((ms - pastFromMs) / pastStepMs),
  );
  if (first === undefined || last === undefined || last - first > perDay / 2) return false;
  const found: number[] = [];
  for (let at = first - besideSteps; at <= last + besideSteps; at++)
    for (let i = ((at % perDay) + perDay) % perDay; i < past.length; i += perDay) {
      const value = past[i] as number;
      if (!Number.isNaN(value)) found.push(value);
    }
  if (found.length < leastPlain) return false;
  const sorted = Float64Array.from(found).sort();
  const [low, high] = [quantile(sorted, 0.25), quantile(sorted, 0.75)];
  const margin = (high - low) * fence;
  for (const value of values) if (value < low - margin || value > high + margin) return false;
  return true;
}

/** Whether a line was there the day before already: what changed earlier is not what was different in the span. */
function isStanding({ was, usual }: Departure, before: Float64Array): boolean {
  let sum = 0;
  let count = 0;
  for (const value of before)
    if (Number.isFinite(value)) {
      sum += value;
      count++;
    }
  return count * 2 > before.length && (sum / count - usual) / (was - usual) > 0.5;
}

/** Whether a line is a clock that runs, such as the time since a start: it is never as it was. */
function isClock(values: Float64Array): boolean {
  let rises = 0;
  let steps = 0;
  for (let i = 1; i < values.length; i++) {
    const change = (values[i] as number) - (values[i - 1] as number);
    if (Number.isNaN(change)) continue;
    steps++;
    if (change > 0) rises++;
  }
  return steps > 20 && rises / steps > 0.9;
}
