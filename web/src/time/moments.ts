import { type TimeInterval, timeDay, timeHour, timeMinute, timeMonday, timeMonth, timeSecond, timeYear } from "d3-time";

const time = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit", hourCycle: "h23" });
const exactTime = new Intl.DateTimeFormat("en-GB", {
  hour: "2-digit",
  minute: "2-digit",
  second: "2-digit",
  hourCycle: "h23",
});
const weekday = new Intl.DateTimeFormat("en-GB", { weekday: "short" });
const longWeekday = new Intl.DateTimeFormat("en-GB", { weekday: "long" });
const isoDay = new Intl.DateTimeFormat("sv-SE", { year: "numeric", month: "2-digit", day: "2-digit" });

/** "14:05" in the viewer's zone. */
export const clockTime = (ms: number): string => time.format(ms);
/** "14:05:09" in the viewer's zone. */
export const exactClockTime = (ms: number): string => exactTime.format(ms);
/** "2026-11-23" in the viewer's zone (ISO 8601). */
export const dayOf = (ms: number): string => isoDay.format(ms);
/** "Mon 2026-11-23". */
export const dayWithName = (ms: number): string => `${weekday.format(ms)} ${dayOf(ms)}`;
/** "a Tuesday at 14". */
export const weekdayAndHour = (ms: number): string =>
  `a ${longWeekday.format(ms)} at ${Number(clockTime(ms).slice(0, 2))}`;
/** The time alone for a moment today, with its day otherwise. */
export const momentText = (ms: number, nowMs: number): string =>
  dayOf(ms) === dayOf(nowMs) ? clockTime(ms) : `${dayOf(ms)} ${clockTime(ms)}`;

/** As `momentText`, with the weekday alone where the moment lies in the last six days: "Mon 02:20". */
export const nearMomentText = (ms: number, nowMs: number): string =>
  dayOf(ms) !== dayOf(nowMs) && nowMs - ms < 6 * 86_400_000 && ms <= nowMs
    ? `${weekday.format(ms)} ${clockTime(ms)}`
    : momentText(ms, nowMs);

/** "Mon 2026-11-23 14:05 to 14:20", with seconds where the span is short and both days where they differ. */
export function spanText(
  fromMs: number,
  toMs: number,
): { readonly day: string; readonly from: string; readonly to: string } {
  const show = toMs - fromMs < 600_000 ? exactClockTime : clockTime;
  const sameDay = dayOf(fromMs) === dayOf(toMs);
  return { day: dayWithName(fromMs), from: show(fromMs), to: sameDay ? show(toMs) : `${dayOf(toMs)} ${show(toMs)}` };
}

/**
 * Round steps of the viewer's clock and calendar, from the finest on; weeks begin on Mondays, several days at a time
 * with the month.
 */
const tickIntervals: readonly TimeInterval[] = [
  ...[5, 10, 15, 30].map((n) => timeSecond.every(n)),
  ...[1, 2, 5, 10, 15, 30].map((n) => timeMinute.every(n)),
  ...[1, 2, 3, 6, 12].map((n) => timeHour.every(n)),
  timeDay,
  timeDay.every(2),
  timeMonday,
  timeMonth,
  timeMonth.every(3),
  ...[1, 2, 5, 10].map((n) => timeYear.every(n)),
].filter((interval) => interval !== null);
/** Shorter steps are told by the clock. */
const firstOfDays = tickIntervals.indexOf(timeDay);
const firstOfMonths = tickIntervals.indexOf(timeMonth);

/** Round moments of the viewer's clock inside a span, that cut it into about `most` parts at most, with their texts. */
export function timeTicks(
  fromMs: number,
  toMs: number,
  most: number,
): readonly { readonly atMs: number; readonly text: string }[] {
  const [from, to] = [new Date(fromMs), new Date(toMs + 1)];
  for (const [i, interval] of tickIntervals.entries()) {
    // Asked before it is counted out: seconds of years would be millions.
    if ((toMs - fromMs) / roughMs(interval, from) > most + 1 && i < tickIntervals.length - 1) continue;
    const dates = interval.range(interval.ceil(from), to);
    if (dates.length > most + 1 && i < tickIntervals.length - 1) continue;
    return dates.map((date) => ({ atMs: date.getTime(), text: tickText(date, i) }));
  }
  return [];
}

function roughMs(interval: TimeInterval, from: Date): number {
  const first = interval.ceil(from);
  return interval.offset(first).getTime() - first.getTime();
}

function tickText(date: Date, interval: number): string {
  const ms = date.getTime();
  if (interval >= firstOfMonths) return monthYear.format(ms);
  if (interval >= firstOfDays || timeDay.floor(date).getTime() === ms) return dayMonth.format(ms).replace(",", "");
  return date.getSeconds() !== 0 || interval < 4 ? exactClockTime(ms) : clockTime(ms);
}

const dayMonth = new Intl.DateTimeFormat("en-GB", { weekday: "short", day: "numeric", month: "short" });
const monthYear = new Intl.DateTimeFormat("en-GB", { month: "short", year: "numeric" });

/** A moment as a `datetime-local` field wants it, to the second, in the viewer's zone. */
export const localInput = (ms: number): string => `${dayOf(ms)}T${exactClockTime(ms)}`;
/** The moment that such a field holds, ms; NaN while it is not whole. */
export const fromLocalInput = (text: string): number => new Date(text).getTime();
