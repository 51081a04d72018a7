import { describe, expect, test } from "vitest";
import type { Column } from "../series/batch.ts";
import { seeded } from "../testing/random.ts";
import { grown, integrated, missingShare, together, totalWattHours } from "./energy-steps.ts";

const hour = 3_600_000;
const start = Date.UTC(2026, 2, 1);

/** A function of hours at so many times that nobody chose, its breaks among them. */
function randomly(ofHours: (h: number) => number, hours: number, count: number, seed: number, breaks: number[] = []) {
  const random = seeded(seed);
  const at = [
    ...new Set([
      0,
      hours,
      ...breaks,
      ...Array.from({ length: count }, () => Math.round(random() * hours * hour) / hour),
    ]),
  ].sort((a, b) => a - b);
  return { timeMs: Float64Array.from(at, (h) => start + h * hour), value: Float64Array.from(at, ofHours) };
}
const edges = (...hours: number[]) => Float64Array.from(hours, (h) => start + h * hour);
/** Two deviations between exact and trapezoidal integral of a sine, by its largest second derivative and stretch. */
const near = (expected: number, share: number) => [expected * (1 - share), expected * (1 + share)] as const;

describe("the integral of power (definition of the watt-hour; trapezoidal rule)", () => {
  const wattHours = (power: Column, to = 24) => totalWattHours(integrated(power, edges(0, to), hour));
  test.each([1, 2, 3])("a constant and a ramp are exact at random times (seed %d)", (seed) => {
    expect(wattHours(randomly(() => 149, 24, 500, seed)) / 3576).toBeCloseTo(1, 9);
    // 100 W at 0 h to 148 W at 24 h: 124 W × 24 h
    expect(wattHours(randomly((h) => 100 + 2 * h, 24, 500, seed)) / 2976).toBeCloseTo(1, 9);
  });
  test("a step is exact where both sides of it were read, 1 ms apart", () => {
    const ms = 1 / hour;
    const power = randomly((h) => (h < 6 ? 80 : 200), 24, 300, 4, [6 - ms, 6]);
    expect(wattHours(power) / ((6 - ms) * 80 + ms * 140 + 18 * 200)).toBeCloseTo(1, 9);
  });
  test("a sine is met within what the rule promises, and to 1e-9 when read often enough", () => {
    const sine = (h: number) => 100 + 50 * Math.sin((2 * Math.PI * h) / 24);
    // over the first half: 1200 + 50 × 24 / π
    const exact = 1200 + (50 * 24) / Math.PI;
    const [least, most] = near(exact, 1e-4);
    const coarse = totalWattHours(integrated(randomly(sine, 24, 2000, 5, [12]), edges(0, 12), hour));
    expect(coarse > least && coarse < most).toBe(true);
    const fine = totalWattHours(integrated(randomly(sine, 24, 2_000_000, 6, [12]), edges(0, 12), hour));
    expect(Math.abs(fine / exact - 1)).toBeLessThan(1e-9);
  });
  test("stretches add up to the whole, wherever they are cut", () => {
    const power = randomly((h) => 100 + 20 * Math.cos(h), 24, 800, 7);
    const cut = integrated(power, edges(0, 1.3, 7, 7.001, 19.99, 24), hour);
    expect(totalWattHours(cut) / wattHours(power)).toBeCloseTo(1, 12);
    expect(cut.wattHours).toHaveLength(5);
    expect(missingShare(cut)).toBeCloseTo(0, 12);
  });
  test("149 W in the mean are 3.576 kWh a day (common practice, no source)", () =>
    expect(
      wattHours(randomly((h) => (h % 2 < 1 ? 140 + 18 * (h % 1) : 158 - 18 * (h % 1)), 24, 0, 1, quarters(24))),
    ).toBeCloseTo(3576, 6));
  test("24 hourly means added are the day's watt-hours, readings of another interval are not (common practice, no source)", () => {
    const level = (h: number) => 100 + 2 * h;
    const hourly = Array.from({ length: 24 }, (_, h) => level(h + 0.5));
    const quarterly = Array.from({ length: 96 }, (_, q) => level((q + 0.5) / 4));
    const sum = (values: number[]) => values.reduce((a, b) => a + b, 0);
    const exact = wattHours(randomly(level, 24, 100, 8));
    expect(sum(hourly)).toBeCloseTo(exact, 6);
    expect(sum(quarterly) / exact).toBeCloseTo(4, 6);
  });
  test("a gap longer than three intervals is not integrated and is told as missing", () => {
    const minutes = Array.from({ length: 1441 }, (_, m) => m).filter((m) => m <= 600 || m >= 660);
    const power: Column = {
      timeMs: Float64Array.from(minutes, (m) => start + m * 60_000),
      value: new Float64Array(minutes.length).fill(120),
    };
    const found = integrated(power, edges(0, 24));
    expect(totalWattHours(found)).toBeCloseTo(120 * 23, 6);
    expect(missingShare(found)).toBeCloseTo(1 / 24, 9);
    // Two that were left out are no gap.
    const dense = minutes.filter((m) => m !== 100 && m !== 101);
    const few: Column = {
      timeMs: Float64Array.from(dense, (m) => start + m * 60_000),
      value: new Float64Array(dense.length).fill(120),
    };
    expect(totalWattHours(integrated(few, edges(0, 24)))).toBeCloseTo(120 * 23, 6);
  });
  test("a reading that is no number is a gap, and nothing at all is nothing", () => {
    const power = { timeMs: edges(0, 1, 2, 3, 4), value: Float64Array.of(100, 100, Number.NaN, 100, 100) };
    expect(totalWattHours(integrated(power, edges(0, 4)))).toBe(200);
    expect(missingShare(integrated({ timeMs: edges(), value: edges() }, edges(0, 4)))).toBe(1);
  });
});

describe("the growth of a counter of energy", () => {
  test("joules are watt-seconds, over a silence as well", () => {
    const counter = { timeMs: edges(0, 1, 2, 9, 10), value: Float64Array.of(5e6, 5.36e6, 5.72e6, 8.24e6, 8.6e6) };
    const found = grown(counter, edges(0, 5, 10));
    expect(found.wattHours[0]).toBeCloseTo(500, 9);
    expect(found.wattHours[1]).toBeCloseTo(500, 9);
    expect(missingShare(found)).toBe(0);
  });
  test("a powercap zone wraps at its max_energy_range_uj (kernel: Documentation/power/powercap/powercap.rst)", () => {
    const wrap = 262_143.328_85; // J, as the kernel tells of a processor's package
    const joules = (s: number) => (45 * s + 200_000) % wrap; // 45 W
    const seconds = Array.from({ length: 1441 }, (_, i) => i * 15);
    const counter = {
      timeMs: Float64Array.from(seconds, (s) => start + s * 1000),
      value: Float64Array.from(seconds, joules),
    };
    expect(totalWattHours(grown(counter, edges(0, 6), wrap))).toBeCloseTo(270, 6);
    // While it was silent it may have gone round any number of times: not known.
    const apart = seconds.map((s) => s + (s > 7200 ? 14_400 : 0));
    const silent = {
      timeMs: Float64Array.from(apart, (s) => start + s * 1000),
      value: Float64Array.from(apart, joules),
    };
    const found = grown(silent, edges(0, 10), wrap);
    expect(totalWattHours(found)).toBeCloseTo(270, 0);
    expect(missingShare(found)).toBeCloseTo(0.4, 2);
  });
  test("a restart counts what has been counted since", () =>
    expect(
      totalWattHours(grown({ timeMs: edges(0, 1, 2), value: Float64Array.of(7.2e6, 7.56e6, 3.6e4) }, edges(0, 2))),
    ).toBeCloseTo(110, 9));
});

test("of several meters together is known what all of them know", () => {
  const one = { timeMs: edges(0, 1, 2, 3, 4), value: new Float64Array(5).fill(10) };
  const other = { timeMs: edges(0, 1, 2), value: new Float64Array(3).fill(5) };
  const found = together([integrated(one, edges(0, 2, 4)), integrated(other, edges(0, 2, 4))], edges(0, 2, 4));
  expect([...found.wattHours]).toEqual([30, 20]);
  expect(missingShare(found)).toBe(0.5);
});

function quarters(hours: number): number[] {
  return Array.from({ length: hours * 4 }, (_, i) => i / 4);
}
