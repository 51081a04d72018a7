import { describe, expect, test } from "vitest";
import type { EnergyLine, MonthOutlook } from "../api/energy.ts";
import type { SpaceView } from "../api/space.ts";
import { energyWords } from "./energy-words.ts";
import { spaceWords, unknownWhy, whenWords } from "./space-words.ts";

const day = 86_400_000;
const now = Date.UTC(2026, 10, 24);

describe("energy in sentences", () => {
  const line = (of: string, wattHours: number, share: number | null) => ({ of, wattHours, share }) as EnergyLine;
  const month = (cost: number, budget: number | null) =>
    ({ tariff: "station", currency: "EUR", soFar: { cost: 9 }, expected: { cost }, budget }) as unknown as MonthOutlook;
  test("the month with its budget, and who uses most", () => {
    expect(
      energyWords(
        {
          lines: [line("hive", 23_520, 0.75), line("vault", 7840, 0.25), line("ups", 31_000, null)],
          months: [month(11.8, 20)],
        },
        7 * day,
      ),
    ).toEqual([
      "station: this month cost EUR 9.00 so far and will cost about EUR 11.80, within its budget of EUR 20.00.",
      "hive uses most: 3.36 kWh a day, 75 % of what is measured.",
    ]);
    expect(energyWords({ lines: [], months: [month(24, 20)] }, day)).toEqual([
      "station: this month cost EUR 9.00 so far and will cost about EUR 24.00, EUR 4.00 more than its budget of EUR 20.00.",
    ]);
    expect(energyWords({ lines: [line("hive", 100, 1)], months: [month(2, null)] }, day)).toEqual([
      "station: this month cost EUR 9.00 so far and will cost about EUR 2.00.",
    ]);
  });
});

describe("space in sentences", () => {
  test.each([
    [9, 12, "in 9 to 12 days"],
    [1, 1, "in 1 day"],
    [0, 0, "now"],
    [200, 2000, "in 200 days or much later"],
    [2000, 3000, "in more than three years"],
  ])("from %d to %d days: %s", (from, to, words) =>
    expect(whenWords(now + from * day, now + to * day, now)).toBe(words),
  );
  test("what fills soonest, and what changed most", () => {
    const one = (what: string, days: number | null, weekChange: number) =>
      ({
        machine: "vault",
        what,
        unit: "By",
        size: 1e12,
        perDay: 2 ** 30,
        weekChange,
        fullFromMs: days === null ? null : now + days * day,
        fullToMs: days === null ? null : now + (days + 3) * day,
        fullLikelyMs: days === null ? null : now + (days + 1) * day,
      }) as SpaceView;
    expect(spaceWords([one("pool archive", 10, 2e10), one("/srv", 200, -9e11)], now)).toEqual([
      "vault: pool archive is full in 10 to 13 days at 1 GiB a day.",
      "What changed most this week: vault's /srv, down 838 GiB.",
    ]);
    expect(spaceWords([one("/srv", null, 0)], now)).toEqual(["Nothing is full within ninety days."]);
    expect(spaceWords([], now)).toEqual([]);
    const unknown = { ...one("/srv", null, 0), why: unknownWhy };
    expect(spaceWords([unknown], now)).toEqual([
      "Too little is known yet to say when anything is full: a day or two of it will do.",
    ]);
    expect(spaceWords([unknown, { ...one("/", null, 0), why: "it does not fill" }], now)).toEqual([
      "Nothing is full within ninety days.",
    ]);
  });
});
