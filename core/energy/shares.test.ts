import { describe, expect, test } from "vitest";
import { gaussian, seeded } from "../testing/random.ts";
import { emptySteps, type EnergySteps, totalWattHours } from "./energy-steps.ts";
import { estimated } from "./estimate.ts";
import { usualHours } from "./expected.ts";
import { idleWatts, sharedByGuests } from "./guests-share.ts";

const hour = 3_600_000;
const day = 24 * hour;
const start = Date.UTC(2026, 9, 5); // a Monday

function hourly(watts: readonly number[], from = start): EnergySteps {
  const edgesMs = Float64Array.from({ length: watts.length + 1 }, (_, i) => from + i * hour);
  return {
    edgesMs,
    wattHours: Float64Array.from(watts, (w) => (Number.isNaN(w) ? 0 : w)),
    knownMs: Float64Array.from(watts, (w) => (Number.isNaN(w) ? 0 : hour)),
  };
}

describe("guests share what their host draws above idle", () => {
  // Twenty hours idle at 60 W, then 100 W while 2 of 4 busy processor hours are web's and 1 is mail's.
  const host = hourly([...Array.from({ length: 20 }, () => 60), 100]);
  const busy = [...Array.from({ length: 20 }, () => 0), 4 * 3600];
  const of = (...seconds: number[]) => [...Array.from({ length: 20 }, () => 0), ...seconds];
  test("by processor time, and the rest is the host's own", () => {
    expect(idleWatts(host)).toBe(60);
    const found = sharedByGuests(
      host,
      busy,
      [
        { guest: "web", seconds: of(2 * 3600) },
        { guest: "mail", seconds: of(3600) },
      ],
      60,
    );
    expect(found.map(({ guest, steps }) => [guest, totalWattHours(steps)])).toEqual([
      ["web", 20],
      ["mail", 10],
    ]);
  });
  test("guests that were read a moment later than their host are never more than all of it", () => {
    const found = sharedByGuests(host, busy, [{ guest: "web", seconds: of(5 * 3600) }], 60);
    expect(totalWattHours(found[0]?.steps as EnergySteps)).toBe(40);
  });
  test("hours that are not known have no idle power and no share", () => {
    expect(idleWatts(hourly([Number.NaN]))).toBe(0);
    const [one] = sharedByGuests(hourly([Number.NaN]), [3600], [{ guest: "web", seconds: [10] }], 0);
    expect(one?.steps.knownMs[0]).toBe(0);
  });
});

test("an estimate lies between idle and full by how busy the processor was", () => {
  const { edgesMs } = hourly([0, 0, 0, 0]);
  const found = estimated([0, 0.5, 1.2, Number.NaN], edgesMs, { idleWatts: 20, fullWatts: 80 });
  expect([...found.wattHours]).toEqual([20, 50, 80, 0]);
  expect(found.knownMs[3]).toBe(0);
});

describe("what is usual of hours to come", () => {
  const weeks = (ofHour: (h: number) => number, count: number, from = start) =>
    hourly(
      Array.from({ length: count * 168 }, (_, h) => ofHour(h)),
      from,
    );
  const next = (past: EnergySteps, hours: number) =>
    Float64Array.from({ length: hours + 1 }, (_, i) => (past.edgesMs.at(-1) as number) + i * hour);
  const berlin = () => 2 * hour;
  test("follows the week: a mean of all would say too much of a weekend to come", () => {
    const random = seeded(2);
    const watts = (h: number) => ((h / 24) % 7 >= 5 ? 40 : 120) + gaussian(random);
    const past = weeks(watts, 6, start - 5 * day); // ends on a Wednesday
    const found = usualHours(past, next(past, 168), berlin);
    const exact = 168 * ((5 * 120 + 2 * 40) / 7);
    expect(totalWattHours(found) / exact).toBeCloseTo(1, 1);
    const days = Array.from({ length: 7 }, (_, d) =>
      found.wattHours.subarray(d * 24, d * 24 + 24).reduce((a, b) => a + b, 0),
    );
    expect(Math.min(...days) / 24).toBeLessThan(45);
    expect(Math.max(...days) / 24).toBeGreaterThan(115);
  });
  test("an accident of a day does not move it", () => {
    const past = weeks((h) => (h > 300 && h < 325 ? 900 : 100), 4);
    expect(totalWattHours(usualHours(past, next(past, 24), berlin))).toBeCloseTo(2400, 6);
  });
  test("of few days it is the mean of the clock time, of none nothing", () => {
    const past = hourly(Array.from({ length: 48 }, (_, h) => (h % 24 < 12 ? 50 : 70) + (h < 24 ? 0 : 10)));
    const found = usualHours(past, next(past, 24), () => 0);
    expect([found.wattHours[0], found.wattHours[23]]).toEqual([55, 75]);
    const nothing = usualHours(emptySteps(past.edgesMs), next(past, 2), () => 0);
    expect([...nothing.knownMs]).toEqual([0, 0]);
  });
});
