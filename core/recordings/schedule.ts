import { DateTime } from "luxon";
import { momentsOfClock, type TimeOfDay } from "../time/clock-moments.ts";

/** When a recording runs by itself: between two times of day, on some weekdays, from a day to a day. */
export interface RunSchedule {
  /** 1 Monday to 7 Sunday (ISO 8601). */
  readonly weekdays: readonly number[];
  /** Times of day such as "07:20"; where the second is not later than the first it is of the day after. */
  readonly from: string;
  readonly to: string;
  /** IANA; by its clock. */
  readonly zone: string;
  /** Days such as "2026-11-30", the last one included; without them it comes again until it is taken away. */
  readonly firstDay?: string;
  readonly lastDay?: string;
}

/** One time of a schedule, half-open, ms. */
export interface PlannedRun {
  readonly fromMs: number;
  readonly toMs: number;
}

const mostDaysAhead = 400;

/** The time of a schedule that holds at a moment; undefined where none does. */
export function plannedAt(schedule: RunSchedule, atMs: number): PlannedRun | undefined {
  const today = DateTime.fromMillis(atMs, { zone: schedule.zone }).startOf("day");
  for (const days of [0, -1]) {
    const planned = plannedOn(schedule, today.plus({ days }));
    if (planned && planned.fromMs <= atMs && atMs < planned.toMs) return planned;
  }
  return undefined;
}

/** The first time of a schedule that begins at a moment or after it; undefined where none does within some 13 months. */
export function plannedAfter(schedule: RunSchedule, atMs: number): PlannedRun | undefined {
  let day = DateTime.fromMillis(atMs, { zone: schedule.zone }).startOf("day");
  const first =
    schedule.firstDay === undefined ? undefined : DateTime.fromISO(schedule.firstDay, { zone: schedule.zone });
  if (first && first > day) day = first;
  for (let n = 0; n < mostDaysAhead; n++, day = day.plus({ days: 1 })) {
    const planned = plannedOn(schedule, day);
    if (planned && planned.fromMs >= atMs) return planned;
  }
  return undefined;
}

/**
 * The time that begins on a day. It is by the clock: where the clock is put forward over its beginning or its end, that
 * is the moment of the change; where it is put back over them, it begins at the first of both and ends at the last.
 */
function plannedOn({ weekdays, from, to, firstDay, lastDay }: RunSchedule, day: DateTime): PlannedRun | undefined {
  const date = day.toISODate() as string;
  if (!weekdays.includes(day.weekday)) return undefined;
  if ((firstDay !== undefined && date < firstDay) || (lastDay !== undefined && date > lastDay)) return undefined;
  const fromMs = Math.min(...momentsOfClock(day, timeOfDay(from)));
  const toMs = Math.max(...momentsOfClock(to > from ? day : day.plus({ days: 1 }), timeOfDay(to)));
  return toMs > fromMs ? { fromMs, toMs } : undefined;
}

function timeOfDay(text: string): TimeOfDay {
  return { hour: Number(text.slice(0, 2)), minute: Number(text.slice(3, 5)) };
}
