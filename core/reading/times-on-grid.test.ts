import { describe, expect, test } from "vitest";
import { holdMs } from "../series/interval.ts";
import { seeded } from "../testing/random.ts";
import { type HeldSpans, pairSkipped, pairSpans, TimesOnGrid } from "./times-on-grid.ts";

const grid = { fromMs: 0, stepMs: 10, count: 5 };
const all = (times: readonly number[], clipFrom = Number.NEGATIVE_INFINITY, clipTo = Number.POSITIVE_INFINITY) =>
  new TimesOnGrid(Float64Array.from(times), grid, clipFrom, clipTo);
const plain = (spans: HeldSpans) =>
  Object.fromEntries(Object.entries(spans).map(([name, all]) => [name, [...all]])) as Record<keyof HeldSpans, number[]>;

describe("times on a grid (hand-worked)", () => {
  test("samples fall into the step that holds them; −1 outside the grid and the clip", () => {
    expect([...all([-1, 0, 9, 10, 49, 50]).steps]).toEqual([-1, 0, 0, 1, 4, -1]);
    expect([...all([0, 9, 10, 49], 5, 40).steps]).toEqual([-1, 0, 1, -1]);
  });
  test("each sample holds until the next, within its step and beyond, and for three intervals at most", () => {
    const { step, from, to, first, last, covered } = plain(all([-3, 7, 17, 47]).heldSpans);
    expect(step).toEqual([0, 1, 2, 3, 4]);
    expect(from.map((a, k) => [a, to[k], first[k], last[k]])).toEqual([
      [0, 2, 7, 3],
      [1, 3, 7, 3],
      [2, 3, 10, 0],
      [2, 3, 10, 0],
      [2, 3, 7, 0],
    ]);
    expect(covered).toEqual([10, 10, 10, 10, 7]);
    expect(plain(all([1, 3, 6, 8, 12]).heldSpans)).toEqual({
      step: [0, 1],
      from: [0, 3],
      to: [4, 4],
      first: [2, 2],
      last: [2, 0],
      covered: [9, 2],
    });
    expect(plain(all([0, 1, 2, 3, 40]).heldSpans)).toMatchObject({
      from: [0],
      to: [4],
      first: [1],
      last: [3],
      covered: [6],
    }); // 0 to 3, and three more
    expect(plain(all([0, 10, 20]).heldSpans)).toMatchObject({
      step: [0, 1],
      from: [0, 1],
      to: [1, 2],
      first: [10, 10],
    });
    expect(plain(all([1, 4, 20, 31], 2, 25).heldSpans)).toMatchObject({ step: [0, 1, 2], covered: [8, 10, 5] });
    expect(all([0, 1, 2, 3]).lastHoldsUntilMs).toBe(6);
    expect(new TimesOnGrid(Float64Array.of(3), grid, 0, 50, 15).lastHoldsUntilMs).toBe(48);
  });
  test("a step between two samples that belong together is held, one in a silence is not", () => {
    expect(all([0, 20, 40]).held).toEqual([
      { index: 0, fromStep: 1, toStep: 2 },
      { index: 1, fromStep: 3, toStep: 4 },
    ]);
    expect(all([-4, -3, -2, -1, 0, 40]).held).toEqual([]);
    expect(all([-18, -12, -6, 0, 40]).held).toEqual([{ index: 3, fromStep: 1, toStep: 2 }]); // for its reach of 18
  });
  test("pairs lie in a step, span several, or are passed over", () => {
    expect([...all([1, 9, 19, 27, 36]).pairs]).toEqual([pairSkipped, 0, pairSpans, pairSpans, pairSpans]);
    expect([...all([1, 2, 3, 4, 40]).pairs]).toEqual([pairSkipped, 0, 0, 0, pairSkipped]);
  });
  test("spans are what each sample holds, worked out one by one (random times, seeds 1 to 40)", () => {
    for (let seed = 1; seed <= 40; seed++) {
      const random = seeded(seed);
      const times: number[] = [];
      for (
        let at = -20 + Math.floor(random() * 10);
        at < 70;
        at += 1 + Math.floor(random() * (random() < 0.1 ? 40 : 6))
      )
        times.push(at);
      const onGrid = all(
        times,
        random() < 0.5 ? 3 : Number.NEGATIVE_INFINITY,
        random() < 0.5 ? 44 : Number.POSITIVE_INFINITY,
      );
      const value = times.map(() => Math.floor(random() * 100));
      const expected = new Float64Array(5);
      for (let i = 0; i + 1 < times.length; i++) {
        const until = (times[i] as number) + holdMs(onGrid.timeMs, i, onGrid.reach);
        for (let ms = times[i] as number; ms < until; ms++)
          if (ms >= onGrid.clipFromMs && ms < onGrid.clipToMs)
            (expected[Math.floor(ms / 10)] as number) += value[i] as number;
      }
      const found = new Float64Array(5);
      const { step, from, to, first, last } = onGrid.heldSpans;
      step.forEach((k, s) => {
        for (let i = from[s] as number; i < (to[s] as number); i++)
          (found[k] as number) +=
            (value[i] as number) *
            (i === from[s]
              ? (first[s] as number)
              : i === (to[s] as number) - 1
                ? (last[s] as number)
                : (times[i + 1] as number) - (times[i] as number));
      });
      // Holds are whole ms here but where three times an odd median of two is cut: then they differ by less than a ms.
      for (let k = 0; k < 5; k++)
        expect(Math.abs((found[k] as number) - (expected[k] as number)), `seed ${seed}, step ${k}`).toBeLessThan(100);
    }
  });
  test("steps of a calendar are found by their bounds", () => {
    // the second has 23 hours
    const days = { fromMs: 0, stepMs: 24, count: 3, edgesMs: Float64Array.of(0, 24, 47, 72) };
    expect([...new TimesOnGrid(Float64Array.of(0, 23, 24, 46, 47, 71, 72), days, 0, 72).steps]).toEqual([
      0, 0, 1, 1, 2, 2, -1,
    ]);
    expect([...new TimesOnGrid(Float64Array.of(0, 30, 60), days, 0, 72).heldSpans.covered]).toEqual([24, 23, 13]);
  });
});
