import { describe, expect, test } from "vitest";
import type { EnergySteps } from "../../../core/energy/energy-steps.ts";
import type { Meter } from "../../../core/energy/meters.ts";
import { bestOf } from "./measured.ts";

const hour = 3_600_000;
const edgesMs = Float64Array.of(0, hour, 2 * hour, 3 * hour, 4 * hour);
const meter = (words: string, isPart = false): Meter => ({ of: "power", series: [], words, isPart });
/** Wh of each hour; NaN where it is not known. */
const steps = (...wattHours: number[]): EnergySteps => ({
  edgesMs,
  wattHours: Float64Array.from(wattHours, (v) => (Number.isNaN(v) ? 0 : v)),
  knownMs: Float64Array.from(wattHours, (v) => (Number.isNaN(v) ? 0 : hour)),
});
const gap = Number.NaN;
const [counter, power, processor] = [meter("its counter"), meter("its power"), meter("its processors", true)];
const best = (read: readonly (readonly [Meter, EnergySteps])[]) =>
  bestOf(
    read.map(([one]) => one),
    new Map(read),
    edgesMs,
  );

describe("the best meter of each stretch", () => {
  test("the first one, and where it is silent the next", () => {
    const found = best([
      [counter, steps(10, gap, 10, 10)],
      [power, steps(11, 12, 11, 11)],
    ]);
    expect([...found.steps.wattHours]).toEqual([10, 12, 10, 10]);
    expect(found.method).toBe("its counter, where that is missing its power");
    // Three hours are known to both.
    expect(found.compared).toEqual({ method: "its power", wattHours: 33, against: 30 });
  });
  test("what measures a part alone stands in only where nothing measures the whole, and is marked", () => {
    const both = best([
      [power, steps(gap, 50, gap, gap)],
      [processor, steps(9, 9, 9, 9)],
    ]);
    expect([...both.steps.wattHours]).toEqual([0, 50, 0, 0]);
    expect(both.isPart).toBe(false);
    const alone = best([
      [power, steps(gap, gap, gap, gap)],
      [processor, steps(9, 9, 9, 9)],
    ]);
    expect([...alone.steps.wattHours]).toEqual([9, 9, 9, 9]);
    expect(alone).toMatchObject({ isPart: true, method: "its processors", compared: null });
  });
  test("stretches that are known in part are not compared, and what stood in for very little is not worth a word", () => {
    const half = { ...steps(10, 10, 10, 10), knownMs: Float64Array.of(hour, hour / 2, hour, hour * 0.995) };
    const found = best([
      [counter, half],
      [power, steps(10, 20, 10, 10)],
    ]);
    expect(found.compared).toEqual({ method: "its power", wattHours: 30, against: 30 });
    expect(found.steps.wattHours[1]).toBe(20);
  });
  test("nothing measured is nothing known", () =>
    expect(best([])).toMatchObject({ method: "nothing", compared: null }));
});
