import { DateTime } from "luxon";
import { zoneOffsets } from "../time/zone-offsets.ts";
import { type Tariff, type TariffHours, weekdays } from "./tariff.ts";

const minutesPerDay = 1440;
const dayMs = 86_400_000;

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
  const take = (begin: number, end: number, price: number) => {
    const last = spans.at(-1);
    if (last && last.price === price && last.toMs === begin) spans[spans.length - 1] = { ...last, toMs: end };
    else spans.push({ fromMs: begin, toMs: end, price, tariff });
  };
  const offset = zoneOffsets(zone);
  for (let start = DateTime.fromMillis(fromMs, { zone }).startOf("day").toMillis(); start < toMs; ) {
    const ahead = offset(start);
    // Most days have no change of clock: what they cost is arithmetic.
    const isPlain = offset(start + dayMs) === ahead && (start + ahead) % dayMs === 0;
    const day = isPlain ? plainDay(tariff, start, ahead) : changedDay(tariff, DateTime.fromMillis(start, { zone }));
    for (let i = 0; i < day.prices.length; i++) {
      const [begin, end] = [Math.max(fromMs, day.edges[i]), Math.min(toMs, day.edges[i + 1])];
      if (begin < end) take(begin, end, day.prices[i]);
    }
    start = day.edges.at(-1) as number;
  }
  return spans;
}

/** The moments of a day at which a price may begin, its end among them, and the price of each stretch between. */
interface PricedDay {
  readonly edges: readonly number[];
  readonly prices: readonly number[];
}

/** A day of a zone, as its calendar has it. */
interface CalendarDay {
  /** "10-01". */
  readonly date: string;
  /** 1 is Monday. */
  readonly weekday: number;
}

function plainDay(tariff: Tariff, startMs: number, aheadMs: number): PricedDay {
  const [today, yesterday] = [calendarDay(startMs + aheadMs), calendarDay(startMs + aheadMs - dayMs)];
  const times = [0, ...[...timesOf(tariff, today, yesterday)].sort((a, b) => a - b), minutesPerDay];
  return {
    edges: times.map((time) => startMs + time * 60_000),
    prices: times.slice(0, -1).map((time) => priceAt(tariff, today, yesterday, time)),
  };
}

/** Of a moment that is given as if the zone's clock were UTC's. */
function calendarDay(localMs: number): CalendarDay {
  const day = new Date(localMs);
  return {
    date: `${String(day.getUTCMonth() + 1).padStart(2, "0")}-${String(day.getUTCDate()).padStart(2, "0")}`,
    weekday: ((day.getUTCDay() + 6) % 7) + 1,
  };
}

const calendarDayOf = (day: DateTime): CalendarDay => ({ date: day.toFormat("MM-dd"), weekday: day.weekday });

/** Clock times within a day at which a price may begin, in minutes. */
function timesOf(tariff: Tariff, today: CalendarDay, yesterday: CalendarDay): ReadonlySet<number> {
  const times = new Set<number>();
  for (const { from, to } of [...seasonOf(tariff, today).hours, ...seasonOf(tariff, yesterday).hours])
    for (const time of [minutesOf(from), minutesOf(to)]) if (time > 0 && time < minutesPerDay) times.add(time);
  return times;
}

/**
 * A day on which the clock is changed. A clock time that it has twice begins when it is shown first, and again; one that
 * it has not begins when the clock is set forward over it.
 */
function changedDay(tariff: Tariff, day: DateTime): PricedDay {
  const [today, yesterday] = [calendarDayOf(day), calendarDayOf(day.minus({ days: 1 }))];
  const times = timesOf(tariff, today, yesterday);
  const within = [...times].map((time) =>
    day.set({ hour: Math.floor(time / 60), minute: time % 60, second: 0, millisecond: 0 }).toMillis(),
  );
  const jump = jumpOf(day);
  const all = [
    day.toMillis(),
    ...within,
    ...(jump === undefined ? [] : repeated(day, jump, times)),
    nextDay(day).toMillis(),
  ];
  const edges = [...new Set(all)].sort((a, b) => a - b);
  return {
    edges,
    prices: edges.slice(0, -1).map((edge) => {
      const at = DateTime.fromMillis(edge, { zone: day.zone });
      return priceAt(tariff, today, yesterday, at.hour * 60 + at.minute);
    }),
  };
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

/** What a kWh costs at a clock time of a day. */
function priceAt(tariff: Tariff, today: CalendarDay, yesterday: CalendarDay, minutes: number): number {
  const season = seasonOf(tariff, today);
  const isOn = ({ days }: TariffHours, { weekday }: CalendarDay) =>
    !days || days.includes(weekdays[weekday - 1] as "mon");
  const late = seasonOf(tariff, yesterday).hours.find((one) => {
    const [from, to] = [minutesOf(one.from), minutesOf(one.to)];
    return from >= to && minutes < to && isOn(one, yesterday);
  });
  const now = season.hours.find((one) => {
    const [from, to] = [minutesOf(one.from), minutesOf(one.to)];
    return minutes >= from && (from >= to || minutes < to) && isOn(one, today);
  });
  return (now ?? late)?.price ?? season.price;
}

/** What holds on a day: the first season that has it, or the tariff itself. */
function seasonOf(
  tariff: Tariff,
  { date }: CalendarDay,
): { readonly price: number; readonly hours: readonly TariffHours[] } {
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
