import { expect, test } from "vitest";
import type { Tariff } from "../../../core/tariffs/tariff.ts";
import { wattHoursOfShare, yearlyCost } from "./processor-energy.ts";

// 480 Wh a day above idle for eight hours of one processor: 60 Wh an hour of it (worked by hand).
const energy = { aboveIdle: 480, idleWatts: 40, busySeconds: 8 * 3600 };

test("a share of a processor takes as much of what is drawn above idle as of the processor's time, and never more", () => {
  expect(wattHoursOfShare(energy, 0.01)).toBeCloseTo(0.24 * 60, 9);
  expect(wattHoursOfShare(energy, 0)).toBe(0);
  expect(wattHoursOfShare(energy, 2)).toBe(480);
});

test("a year of it costs what the machine's own tariff says; nothing is said without one", () => {
  const tariff = (sources?: readonly string[]): Tariff => ({
    name: "rack",
    currency: "EUR",
    zone: "UTC",
    from: "2020-01-01",
    price: 0.25,
    ...(sources && { sources }),
  });
  const now = Date.UTC(2026, 10, 30, 12, 34);
  expect(yearlyCost([tariff()], "hive", 100, now)).toEqual({
    cost: expect.closeTo(0.1 * 365 * 0.25, 9),
    currency: "EUR",
  });
  expect(yearlyCost([], "hive", 100, now)).toBeNull();
  expect(yearlyCost([tariff(["vault"])], "hive", 100, now)).toBeNull();
});
