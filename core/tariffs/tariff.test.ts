import { describe, expect, test } from "vitest";
import { seeded } from "../testing/random.ts";
import { costOf, tariffsOf } from "./cost.ts";
import { priceSpans } from "./price-clock.ts";
import type { Tariff } from "./tariff.ts";

const hour = 3_600_000;
const quarter = hour / 4;
const berlin = (iso: string) => Date.parse(iso);
const plain: Tariff = { name: "station", currency: "EUR", zone: "Europe/Berlin", from: "2026-01-01", price: 0.11 };

/** So many W from one moment to another, by the quarter of an hour. */
function constant(watts: number, fromMs: number, toMs: number) {
  const count = Math.round((toMs - fromMs) / quarter);
  return {
    edgesMs: Float64Array.from({ length: count + 1 }, (_, i) => fromMs + i * quarter),
    wattHours: new Float64Array(count).fill(watts / 4),
  };
}
const cost = (tariffs: readonly Tariff[], watts: number, fromMs: number, toMs: number) =>
  costOf(tariffs, constant(watts, fromMs, toMs), fromMs, toMs);

describe("a plain price (common practice, no source)", () => {
  const [from, day] = [berlin("2026-06-01T00:00:00+02:00"), 24 * hour];
  test("149 W are 0.393 a day at 0.11 a kWh, and 11.80 in 30 days", () => {
    expect(cost([plain], 149, from, from + day).amount).toBeCloseTo(0.393, 3);
    expect(cost([plain], 149, from, from + 30 * day).amount).toBeCloseTo(11.8, 2);
  });
});

describe("days on which the clock is changed", () => {
  const nights: Tariff = { ...plain, price: 0.3, hours: [{ from: "22:00", to: "06:00", price: 0.2 }] };
  test.each([
    // 23 h: the night has one hour less, 00–06 is five hours long
    ["2026-03-29T00:00:00+01:00", "2026-03-30T00:00:00+02:00", 5 + 2, 16],
    // 25 h: 00–06 is seven hours long
    ["2026-10-25T00:00:00+02:00", "2026-10-26T00:00:00+01:00", 7 + 2, 16],
    ["2026-06-02T00:00:00+02:00", "2026-06-03T00:00:00+02:00", 6 + 2, 16],
  ])("from %s on, %s: %d h of night and %d of day", (from, to, night, day) => {
    const found = cost([nights], 1000, berlin(from), berlin(to));
    expect(found.amount).toBeCloseTo(night * 0.2 + day * 0.3, 9);
    expect(found.prices).toEqual([
      { price: 0.3, wattHours: day * 1000 },
      { price: 0.2, wattHours: night * 1000 },
    ]);
  });
  test("an hour that comes twice costs both times what its clock says", () => {
    const two: Tariff = { ...plain, price: 0.3, hours: [{ from: "02:00", to: "03:00", price: 0.1 }] };
    const [from, to] = [berlin("2026-10-25T00:00:00+02:00"), berlin("2026-10-26T00:00:00+01:00")];
    expect(cost([two], 1000, from, to).amount).toBeCloseTo(2 * 0.1 + 23 * 0.3, 9);
    const late: Tariff = { ...plain, price: 0.3, hours: [{ from: "02:30", to: "03:00", price: 0.1 }] };
    expect(cost([late], 1000, from, to).amount).toBeCloseTo(1 * 0.1 + 24 * 0.3, 9);
    const spring = [berlin("2026-03-29T00:00:00+01:00"), berlin("2026-03-30T00:00:00+02:00")] as const;
    expect(cost([two], 1000, ...spring).amount).toBeCloseTo(23 * 0.3, 9);
  });
});

describe("seasons, weekdays, validity", () => {
  const seasonal: Tariff = {
    ...plain,
    price: 0.3,
    hours: [{ days: ["sat", "sun"], from: "00:00", to: "24:00", price: 0.25 }],
    seasons: [
      { from: "10-01", to: "03-31", price: 0.36, hours: [{ days: ["fri"], from: "22:00", to: "06:00", price: 0.2 }] },
    ],
  };
  test.each([
    ["a summer Saturday", "2026-07-04T12:00:00+02:00", 0.25],
    ["a summer Monday", "2026-07-06T12:00:00+02:00", 0.3],
    ["a winter Saturday at noon: its season has other hours", "2026-01-10T12:00:00+01:00", 0.36],
    ["a Friday night in winter", "2026-01-09T23:00:00+01:00", 0.2],
    ["its end belongs to the Friday, though it is Saturday", "2026-01-10T05:59:00+01:00", 0.2],
    ["and ends at six", "2026-01-10T06:00:00+01:00", 0.36],
    ["the first day of the season", "2026-10-01T00:00:00+02:00", 0.36],
    ["the last one", "2026-03-31T23:59:00+02:00", 0.36],
    ["the day after", "2026-04-01T00:00:00+02:00", 0.3],
  ])("%s", (_, iso, price) =>
    expect(priceSpans([seasonal], berlin(iso), berlin(iso) + 1).map((span) => span.price)).toEqual([price]),
  );
  test("a newer tariff takes over on its first day; before the first there is no price", () => {
    const dearer = { ...plain, from: "2026-06-15", price: 0.22 };
    const found = cost([dearer, plain], 1000, berlin("2026-06-14T00:00:00+02:00"), berlin("2026-06-16T00:00:00+02:00"));
    expect(found.amount).toBeCloseTo(24 * 0.11 + 24 * 0.22, 9);
    const before = cost([plain], 1000, berlin("2025-12-31T00:00:00+01:00"), berlin("2026-01-02T00:00:00+01:00"));
    expect([before.amount, before.unpriced]).toEqual([expect.closeTo(24 * 0.11, 9), expect.closeTo(24_000, 6)]);
  });
  test("a machine has the meter that names it, else the one that names none", () => {
    const studio = { ...plain, name: "studio", sources: ["desk"] };
    expect(tariffsOf([plain, studio], "desk")).toEqual([studio]);
    expect(tariffsOf([plain, studio], "hive")).toEqual([plain]);
  });
});

describe("standing charges and volume", () => {
  const [may, june] = [berlin("2026-05-01T00:00:00+02:00"), berlin("2026-06-01T00:00:00+02:00")];
  test("a month's charge is the month's, half a day's is half a day's", () => {
    const charged: Tariff = { ...plain, standing: { amount: 9.3, per: "month" } };
    expect(cost([charged], 0, may, june).amount).toBeCloseTo(9.3, 9);
    expect(cost([charged], 0, may, may + 12 * hour).standing).toBeCloseTo(0.15, 9);
    const year = cost([{ ...plain, standing: { amount: 365, per: "year" } }], 0, may, june);
    expect(year.standing).toBeCloseTo(31, 9);
  });
  test("above a step each kWh costs so much more, in each month anew", () => {
    // 1 kW over May and June is 744 and 720 kWh: (744 − 500) × 0.05 + (720 − 500) × 0.05, and 144 and 120 at 0.12
    const stepped: Tariff = {
      ...plain,
      steps: [
        { aboveKwh: 500, add: 0.05 },
        { aboveKwh: 600, add: 0.12 },
      ],
    };
    const found = cost([stepped], 1000, may, berlin("2026-07-01T00:00:00+02:00"));
    expect(found.volume).toBeCloseTo(2 * 100 * 0.05 + 144 * 0.12 + 120 * 0.12, 6);
    expect(found.energy).toBeCloseTo(1464 * 0.11, 6);
  });
  test("grams where a factor is given", () => {
    expect(cost([{ ...plain, gramsPerKwh: 380 }], 1000, may, may + hour).grams).toBeCloseTo(380, 9);
    expect(cost([plain], 1000, may, may + hour).grams).toBeNull();
  });
});

describe("a whole year against an oracle that asks the clock every quarter of an hour (Intl, IANA)", () => {
  const tariffs: Tariff[] = [
    {
      ...plain,
      price: 0.29,
      hours: [
        { from: "22:00", to: "06:00", price: 0.19 },
        { days: ["sat", "sun"], from: "06:00", to: "22:00", price: 0.24 },
      ],
      seasons: [{ from: "11-15", to: "02-28", price: 0.37, hours: [{ from: "23:30", to: "05:15", price: 0.21 }] }],
    },
    { ...plain, from: "2026-08-10", price: 0.31 },
  ];
  test.each(["Europe/Berlin", "America/St_Johns", "Australia/Lord_Howe", "Asia/Kolkata"])("%s", (zone) => {
    const own = tariffs.map((tariff) => ({ ...tariff, zone }));
    const [from, to] = [Date.UTC(2026, 0, 2), Date.UTC(2027, 0, 2)];
    const random = seeded(3);
    const count = (to - from) / quarter;
    const wattHours = Float64Array.from({ length: count }, () => 100 * random());
    const edgesMs = Float64Array.from({ length: count + 1 }, (_, i) => from + i * quarter);
    const clock = new Intl.DateTimeFormat("en-GB", {
      timeZone: zone,
      year: "numeric",
      month: "2-digit",
      day: "2-digit",
      weekday: "short",
      hour: "2-digit",
      minute: "2-digit",
      hourCycle: "h23",
    });
    let expected = 0;
    for (let i = 0; i < count; i++) {
      const parts = Object.fromEntries(clock.formatToParts(edgesMs[i]).map(({ type, value }) => [type, value]));
      expected += ((wattHours[i] as number) / 1000) * oracle(parts as Record<Part, string>);
    }
    expect(costOf(own, { edgesMs, wattHours }, from, to).amount / expected).toBeCloseTo(1, 9);
  });
  type Part = "year" | "month" | "day" | "weekday" | "hour" | "minute";
  /** The tariffs above, written out as conditions. */
  function oracle({ year, month, day, weekday, hour, minute }: Record<Part, string>): number {
    const date = `${month}-${day}`;
    const time = `${hour}:${minute}`;
    if (year > "2026" || date >= "08-10") return 0.31;
    if (date >= "11-15" || date <= "02-28") {
      if (time >= "23:30") return 0.21;
      // What began on the evening before, which the season of that evening decides.
      return time < "05:15" ? 0.21 : 0.37;
    }
    // The night of the last winter day ends at 05:15 as it began.
    if (date === "03-01" && time >= "05:15" && time < "06:00") return 0.29;
    if (date === "03-01" && time < "05:15") return 0.21;
    if (time >= "22:00" || time < "06:00") return 0.19;
    return weekday === "Sat" || weekday === "Sun" ? 0.24 : 0.29;
  }
});
