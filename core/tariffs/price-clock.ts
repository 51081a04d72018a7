import { DateTime } from "luxon";
import { type Tariff, type TariffHours, weekdays } from "./tariff.ts";

const minutesPerDay = 1440;

/** When a price begins to hold. */
export interface PriceSpan {
  readonly fromMs: number;
  readonly toMs: number;
  /** A kWh. */
  readonly price: number;
  /** Of the tariff as it was given. */
  readonly tariff: Tariff;
}

/**
 * The prices of one meter over a window, span after span, by the clock of each tariff's zone: a day of 23 or 25 hours
 * has the hours that its clock shows. `tariffs` follow each other by their first day; before the first one there is no
 * price.
 */
export function priceSpans(tariffs: readonly Tariff[], fromMs: number, toMs: number): readonly PriceSpan[] {
  const ordered = [...tariffs].sort((a, b) => beginMs(a) - beginMs(b));
  return ordered.flatMap((tariff, i) => {
    const next = ordered[i + 1];
    const from = Math.max(fromMs, beginMs(tariff));
    const to = Math.min(toMs, next ? beginMs(next) : toMs);
    return from < to ? spansOf(tariff, from, to) : [];
  });
}

function spansOf(tariff: Tariff, fromMs: number, toMs: number): readonly PriceSpan[] {
  const { zone } = tariff;
  const spans: PriceSpan[] = [];
  for (
    let day: DateTime = DateTime.fromMillis(fromMs, { zone }).startOf("day");
    day.toMillis() < toMs;
    day = nextDay(day)
  ) {
    const edges = edgesOf(day, tariff);
    for (let i = 0; i + 1 < edges.length; i++) {
      const [begin, end] = [Math.max(fromMs, edges[i] as number), Math.min(toMs, edges[i + 1] as number)];
      if (begin >= end) continue;
      const price = priceAt(tariff, DateTime.fromMillis(begin, { zone }));
      const last = spans.at(-1);
      if (last && last.price === price && last.toMs === begin) spans[spans.length - 1] = { ...last, toMs: end };
      else spans.push({ fromMs: begin, toMs: end, price, tariff });
    }
  }
  return spans;
}

/**
 * The moments of a day at which a price may begin, its end among them. A clock time that the day has twice begins when
 * it is shown first; one that it has not begins when the clock is set forward over it.
 */
function edgesOf(day: DateTime, tariff: Tariff): readonly number[] {
  const times = new Set<number>();
  const { hours } = seasonOf(tariff, day);
  for (const { from, to } of [...hours, ...seasonOf(tariff, day.minus({ days: 1 })).hours])
    for (const time of [minutesOf(from), minutesOf(to)]) if (time > 0 && time < minutesPerDay) times.add(time);
  const within = [...times].map((time) =>
    day.set({ hour: Math.floor(time / 60), minute: time % 60, second: 0, millisecond: 0 }).toMillis(),
  );
  // A price may change with the clock: an hour that comes twice costs both times what its clock says.
  const jump = jumpOf(day);
  return [
    ...new Set([
      day.toMillis(),
      ...within,
      ...(jump === undefined ? [] : repeated(day, jump, times)),
      nextDay(day).toMillis(),
    ]),
  ].sort((a, b) => a - b);
}

/** When the clock of a day is changed, to the minute; undefined where it is not. */
function jumpOf(day: DateTime): number | undefined {
  const end = nextDay(day).toMillis();
  const offset = (ms: number) => DateTime.fromMillis(ms, { zone: day.zone }).offset;
  let [low, high] = [day.toMillis(), end];
  if (offset(low) === offset(high)) return undefined;
  while (high - low > 60_000) {
    const middle = Math.floor((low + high) / 2 / 60_000) * 60_000;
    if (offset(middle) === offset(low)) low = middle;
    else high = middle;
  }
  return high;
}

/** The change itself, and what clock times are shown once more after it. */
function repeated(day: DateTime, jump: number, times: ReadonlySet<number>): readonly number[] {
  const after = DateTime.fromMillis(jump, { zone: day.zone });
  const shown = after.hour * 60 + after.minute;
  return [jump, ...[...times].filter((time) => time > shown).map((time) => jump + (time - shown) * 60_000)];
}

/** What a kWh costs at a moment, given in the tariff's zone. */
function priceAt(tariff: Tariff, at: DateTime): number {
  const minutes = at.hour * 60 + at.minute;
  const today = seasonOf(tariff, at);
  const yesterday = seasonOf(tariff, at.minus({ days: 1 }));
  const isOn = ({ days }: TariffHours, weekday: number) => !days || days.includes(weekdays[weekday - 1] as "mon");
  const late = yesterday.hours.find((one) => {
    const [from, to] = [minutesOf(one.from), minutesOf(one.to)];
    return from >= to && minutes < to && isOn(one, at.minus({ days: 1 }).weekday);
  });
  const now = today.hours.find((one) => {
    const [from, to] = [minutesOf(one.from), minutesOf(one.to)];
    return minutes >= from && (from >= to || minutes < to) && isOn(one, at.weekday);
  });
  return (now ?? late)?.price ?? today.price;
}

/** What holds on a day: the first season that has it, or the tariff itself. */
function seasonOf(tariff: Tariff, day: DateTime): { readonly price: number; readonly hours: readonly TariffHours[] } {
  const date = day.toFormat("MM-dd");
  const season = tariff.seasons?.find(({ from, to }) =>
    from <= to ? date >= from && date <= to : date >= from || date <= to,
  );
  return { price: season?.price ?? tariff.price, hours: season?.hours ?? tariff.hours ?? [] };
}

export const beginMs = ({ from, zone }: Tariff): number => DateTime.fromISO(from, { zone }).toMillis();

const nextDay = (day: DateTime): DateTime => day.plus({ days: 1 }).startOf("day");

function minutesOf(time: string): number {
  return Number(time.slice(0, 2)) * 60 + Number(time.slice(3, 5));
}
