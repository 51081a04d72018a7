const time = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit", hourCycle: "h23" });
const exactTime = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit", second: "2-digit", hourCycle: "h23" });
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
export const weekdayAndHour = (ms: number): string => `a ${longWeekday.format(ms)} at ${Number(clockTime(ms).slice(0, 2))}`;
/** The time alone for a moment today, with its day otherwise. */
export const momentText = (ms: number, nowMs: number): string => (dayOf(ms) === dayOf(nowMs) ? clockTime(ms) : `${dayOf(ms)} ${clockTime(ms)}`);

/** As `momentText`, with the weekday alone where the moment lies in the last six days: "Mon 02:20". */
export const nearMomentText = (ms: number, nowMs: number): string => (dayOf(ms) !== dayOf(nowMs) && nowMs - ms < 6 * 86_400_000 && ms <= nowMs ? `${weekday.format(ms)} ${clockTime(ms)}` : momentText(ms, nowMs));

/** "Mon 2026-11-23 14:05 to 14:20", with seconds where the span is short and both days where they differ. */
export function spanText(fromMs: number, toMs: number): { readonly day: string; readonly from: string; readonly to: string } {
  const show = toMs - fromMs < 600_000 ? exactClockTime : clockTime;
  const sameDay = dayOf(fromMs) === dayOf(toMs);
  return { day: dayWithName(fromMs), from: show(fromMs), to: sameDay ? show(toMs) : `${dayOf(toMs)} ${show(toMs)}` };
}

const minute = 60_000;
const hour = 3_600_000;
const day = 24 * hour;
const tickSteps = [minute, 2 * minute, 5 * minute, 10 * minute, 15 * minute, 30 * minute, hour, 2 * hour, 3 * hour, 6 * hour, 12 * hour, day, 2 * day, 7 * day, 14 * day, 30 * day, 90 * day, 365 * day];

/** Round moments of the viewer's clock inside a span, `most` at most, with their texts. */
export function timeTicks(fromMs: number, toMs: number, most: number): readonly { readonly atMs: number; readonly text: string }[] {
  const short = [5000, 10_000, 15_000, 30_000];
  const step = [...short, ...tickSteps].find((ms) => (toMs - fromMs) / ms <= most) ?? 365 * day;
  const ticks: { atMs: number; text: string }[] = [];
  const zone = new Date(fromMs).getTimezoneOffset() * minute;
  for (let at = Math.ceil((fromMs - zone) / step) * step + zone; at <= toMs; at += step) {
    // Across a change of clock the hours would drift off the round; the difference is taken back.
    const drift = step >= hour ? new Date(at).getTimezoneOffset() * minute - zone : 0;
    const atMs = at + drift;
    if (atMs < fromMs || atMs > toMs) continue;
    const midnight = clockTime(atMs) === "00:00";
    ticks.push({ atMs, text: step >= day || midnight ? dayTick(atMs, step) : step < minute ? exactClockTime(atMs) : clockTime(atMs) });
  }
  return ticks;
}

const dayMonth = new Intl.DateTimeFormat("en-GB", { weekday: "short", day: "numeric", month: "short" });
const monthYear = new Intl.DateTimeFormat("en-GB", { month: "short", year: "numeric" });
const dayTick = (ms: number, step: number): string => (step >= 30 * day ? monthYear.format(ms) : dayMonth.format(ms).replace(",", ""));

/** A moment as a `datetime-local` field wants it, to the second, in the viewer's zone. */
export const localInput = (ms: number): string => `${dayOf(ms)}T${exactClockTime(ms)}`;
/** The moment that such a field holds, ms; NaN while it is not whole. */
export const fromLocalInput = (text: string): number => new Date(text).getTime();
