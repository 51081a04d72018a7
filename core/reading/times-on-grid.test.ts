import { describe, expect, test } from "vitest";
import { seeded } from "../testing/random.ts";
import { LineCombiner } from "./combine.ts";
import { reduceSeries } from "./reduce.ts";
import { pairSkipped, pairSpans, TimesOnGrid } from "./times-on-grid.ts";

const grid = { fromMs: 0, stepMs: 10, count: 5 };
const all = (times: readonly number[], clipFrom = Number.NEGATIVE_INFINITY, clipTo = Number.POSITIVE_INFINITY) => new TimesOnGrid(Float64Array.from(times), grid, clipFrom, clipTo);

describe("times on a grid (hand-worked)", () => {
  test("samples fall into the step that holds them; −1 outside the grid and the clip", () => {
    expect([...all([-1, 0, 9, 10, 49, 50]).steps]).toEqual([-1, 0, 0, 1, 4, -1]);
    expect([...all([0, 9, 10, 49], 5, 40).steps]).toEqual([-1, 0, 1, -1]);
  });
  test("spans tell the first sample of each step and the one after its last", () => {
    expect([...all([0, 3, 12, 41, 42, 43]).spans]).toEqual([0, 0, 2, 1, 2, 3, 4, 3, 6]);
  });
  test("a step between two samples that belong together is held, one in a silence is not", () => {
    // The usual distance is 20, so 50 is the longest that belongs together.
    expect(all([0, 20, 40]).held).toEqual([{ index: 0, fromStep: 1, toStep: 2 }, { index: 1, fromStep: 3, toStep: 4 }]);
    expect(all([-4, -3, -2, -1, 0, 40]).held).toEqual([]);
  });
  test("pairs lie in a step, span several, or are passed over", () => {
    expect([...all([1, 9, 19, 27, 36]).pairs]).toEqual([pairSkipped, 0, pairSpans, pairSpans, pairSpans]);
    expect([...all([1, 2, 3, 4, 40]).pairs]).toEqual([pairSkipped, 0, 0, 0, pairSkipped]);
  });
  test("a run: one sample a step without a gap", () => {
    expect(all([-5, 1, 11, 21]).run).toEqual({ from: 1, step: 0, count: 3 });
    expect(all([1, 21]).run).toBeUndefined();
    expect(all([1, 2, 11]).run).toBeUndefined();
    expect(all([100]).run).toBeUndefined();
  });
  test("plain: every step is its one sample", () => {
    expect(all([1, 11, 21]).isPlain).toBe(true);
    expect(all([1, 21, 41]).isPlain).toBe(false); // 11 and 31 are held
    expect(all([1, 2]).isPlain).toBe(false);
  });
});

test("samples that are a step each are summed as arrays of steps would be, NaN and gaps included (seed 14)", () => {
  const random = seeded(14);
  for (let round = 0; round < 50; round++) {
    const times = Array.from({ length: 5 }, (_, i) => i * 10 + 3).filter(() => random() < 0.9);
    const onGrid = all(times);
    if (!onGrid.isPlain) continue;
    const fast = new LineCombiner("sum", 1, 5);
    const usual = new LineCombiner("sum", 1, 5);
    for (let series = 0; series < 6; series++) {
      const value = Float64Array.from(times, () => (random() < 0.2 ? Number.NaN : Math.floor(random() * 100)));
      fast.addSamples(0, onGrid, value, false);
      usual.add(0, reduceSeries({ timeMs: Float64Array.from(times), value }, grid, "value", "mean"), false);
    }
    expect([...(fast.finish()[0] ?? [])]).toEqual([...(usual.finish()[0] ?? [])]);
  }
});
