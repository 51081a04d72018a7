import { describe, expect, test } from "vitest";
import { pairSkipped, pairSpans, TimesOnGrid } from "./times-on-grid.ts";

const grid = { fromMs: 0, stepMs: 10, count: 5 };
const all = (times: readonly number[], clipFrom = Number.NEGATIVE_INFINITY, clipTo = Number.POSITIVE_INFINITY) => new TimesOnGrid(Float64Array.from(times), grid, clipFrom, clipTo);

describe("times on a grid (hand-worked)", () => {
  test("samples fall into the step that holds them; −1 outside the grid and the clip", () => {
    expect([...all([-1, 0, 9, 10, 49, 50]).steps]).toEqual([-1, 0, 0, 1, 4, -1]);
    expect([...all([0, 9, 10, 49], 5, 40).steps]).toEqual([-1, 0, 1, -1]);
  });
  test("each sample holds until the next, within its step and beyond, and for three intervals at most", () => {
    const { step, from, to, weights, covered } = all([-3, 7, 17, 47]).heldSpans;
    expect([...step]).toEqual([0, 1, 2, 3, 4]);
    expect([...from].map((a, k) => [a, to[k]])).toEqual([[0, 2], [1, 3], [2, 3], [2, 3], [2, 3]]);
    expect([...weights]).toEqual([7, 3, 7, 3, 10, 10, 7]);
    expect([...covered]).toEqual([10, 10, 10, 10, 7]);
    expect(all([0, 1, 2, 3, 40]).heldSpans.covered).toEqual(Float64Array.of(6)); // 0 to 3, and three more
    expect(all([0, 1, 2, 3]).lastHoldsUntilMs).toBe(6);
    expect(new TimesOnGrid(Float64Array.of(3), grid, 0, 50, 15).lastHoldsUntilMs).toBe(48);
  });
  test("a step between two samples that belong together is held, one in a silence is not", () => {
    expect(all([0, 20, 40]).held).toEqual([{ index: 0, fromStep: 1, toStep: 2 }, { index: 1, fromStep: 3, toStep: 4 }]);
    expect(all([-4, -3, -2, -1, 0, 40]).held).toEqual([]);
    expect(all([-18, -12, -6, 0, 40]).held).toEqual([{ index: 3, fromStep: 1, toStep: 2 }]); // for its reach of 18
  });
  test("pairs lie in a step, span several, or are passed over", () => {
    expect([...all([1, 9, 19, 27, 36]).pairs]).toEqual([pairSkipped, 0, pairSpans, pairSpans, pairSpans]);
    expect([...all([1, 2, 3, 4, 40]).pairs]).toEqual([pairSkipped, 0, 0, 0, pairSkipped]);
  });
  test("steps of a calendar are found by their bounds", () => {
    const days = { fromMs: 0, stepMs: 24, count: 3, edgesMs: Float64Array.of(0, 24, 47, 72) }; // the second has 23 hours
    expect([...new TimesOnGrid(Float64Array.of(0, 23, 24, 46, 47, 71, 72), days, 0, 72).steps]).toEqual([0, 0, 1, 1, 2, 2, -1]);
    expect([...new TimesOnGrid(Float64Array.of(0, 30, 60), days, 0, 72).heldSpans.covered]).toEqual([24, 23, 13]);
  });
});
