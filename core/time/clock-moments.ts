import { DateTime } from "luxon";

/** A time of day, as a clock on the wall shows it. */
export interface TimeOfDay {
  readonly hour: number;
  readonly minute: number;
  readonly second?: number;
}

/**
 * The moments at which the clock of a day's zone shows a time of day on a day: two where it is put back over it, the moment of the
 * change where it is put forward over it (IANA time zone rules).
 */
export function momentsOfClock(day: DateTime, { hour, minute, second = 0 }: TimeOfDay): readonly number[] {
  const { year, month, day: date, zone } = day;
  const clock = DateTime.fromObject({ year, month, day: date, hour, minute, second }, { zone });
  if (clock.hour === hour && clock.minute === minute) return clock.getPossibleOffsets().map((one) => one.toMillis());
  // It stands as far behind the change as the time that is not there would.
  let change = clock.startOf("minute");
  while (change.minus({ minutes: 1 }).offset === clock.offset) change = change.minus({ minutes: 1 });
  return [change.toMillis()];
}
