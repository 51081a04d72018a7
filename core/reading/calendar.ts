import { DateTime } from "luxon";
import type { Grid } from "./step.ts";

export type CalendarStep = "day" | "week" | "month";
const dayMs = 86_400_000;
/** How long most days, weeks and months are, in ms. */
export const calendarStepMs: Readonly<Record<CalendarStep, number>> = {
  day: dayMs,
  week: 7 * dayMs,
  month: 30 * dayMs,
};

/** Whether a document's step is one of the calendar's. */
export function isCalendarStep(step: string | number | undefined): step is CalendarStep {
  return typeof step === "string" && Object.hasOwn(calendarStepMs, step);
}

/**
 * The days (or every so many), weeks from Monday on, or months that cover `[fromMs, toMs)` by the clock of a zone
 * (IANA): a day has 23 or 25 hours where
 * the clock is changed. The first may begin before `fromMs`.
 */
export function calendarGrid(fromMs: number, toMs: number, step: CalendarStep, zone: string, every = 1): Grid {
  let at = DateTime.fromMillis(fromMs, { zone }).startOf(step);
  // Steps of several days stand where they stand, whichever window is looked at.
  if (every > 1)
    at = at.minus({ days: Math.round(DateTime.utc(at.year, at.month, at.day).toMillis() / dayMs) % every });
  const edges = [at.toMillis()];
  while ((edges.at(-1) as number) < toMs) {
    at = at.plus({ [`${step}s`]: every }).startOf(step === "month" ? "month" : "day");
    edges.push(at.toMillis());
  }
  return {
    fromMs: edges[0],
    stepMs: calendarStepMs[step] * every,
    count: edges.length - 1,
    edgesMs: Float64Array.from(edges),
  };
}

/** A moment so many days earlier at the same clock time of a zone. */
export function daysEarlier(ms: number, days: number, zone: string): number {
  return DateTime.fromMillis(ms, { zone }).minus({ days }).toMillis();
}
