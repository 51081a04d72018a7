import { linearRegression } from "simple-statistics";
import { describe, expect, test } from "vitest";
import { medianSlope } from "../series/slope.ts";
import { fillOf } from "./fill.ts";

const hour = 3_600_000;
const day = 24 * hour;

describe("the median of slopes", () => {
  // NIST StRD, linear regression, dataset NoInt1 has the model y = bx and is exactly linear in its points (60..70 against 130..140, from memory): slope 1.
  test("of NIST's NoInt1 points is 1", () => expect(medianSlope([60, 61, 62, 63, 64, 65, 66, 67, 68, 69, 70], [130, 131, 132, 133, 134, 135, 136, 137, 138, 139, 140])).toBe(1));
  test("lies beside least squares where errors are even", () => {
    const x = Array.from({ length: 60 }, (_, i) => i);
    const y = x.map((v) => 3 + 0.25 * v + (v % 2 === 0 ? 0.1 : -0.1));
    expect(medianSlope(x, y)).toBeCloseTo(linearRegression(x.map((v, i) => [v, y[i] as number])).m, 2);
  });
  test("is not bent by outliers, as least squares are", () => {
    const x = Array.from({ length: 50 }, (_, i) => i);
    const y = x.map((v) => (v % 10 === 9 ? 500 : 2 * v));
    expect(medianSlope(x, y)).toBeCloseTo(2, 1);
    expect(Math.abs(linearRegression(x.map((v, i) => [v, y[i] as number])).m - 2)).toBeGreaterThan(0.2);
  });
  test("of a point is not a number; of thousands it is thinned out and stays", () => {
    expect(medianSlope([1], [1])).toBeNaN();
    const x = Array.from({ length: 5000 }, (_, i) => i);
    expect(medianSlope(x, x.map((v) => 7 * v))).toBeCloseTo(7, 9);
  });
});

describe("when something is full", () => {
  const hours = (n: number, shareAt: (h: number) => number | null) => Array.from({ length: n }, (_, h) => shareAt(h));
  test("at one per cent a day from 80 %, after two days at 82 %, it is 18 days", () => {
    const found = fillOf(hours(49, (h) => 0.8 + (0.01 * h) / 24), hour);
    expect(found?.share).toBeCloseTo(0.82, 9);
    expect((found?.full?.likelyMs ?? 0) / day).toBeCloseTo(18, 1);
    expect((found?.full?.latestMs ?? 0) - (found?.full?.earliestMs ?? 0)).toBeLessThan(hour);
  });
  test("gaps do not bend it", () => expect((fillOf(hours(73, (h) => (h % 3 === 1 ? null : 0.1 + h / 1000)), hour)?.full?.likelyMs ?? 0) / hour).toBeCloseTo(828, -1));
  test.each([
    ["it empties", hours(48, (h) => 0.9 - h / 1000), expect.closeTo(0.853, 9)],
    ["it stays", hours(48, () => 0.5), 0.5],
    ["hardly anything is known", hours(3, (h) => h / 100), 0.02],
  ])("never, or nobody knows, where %s", (_, values, share) => expect(fillOf(values, hour)).toEqual({ share, full: null }));
  test("nothing is known of nothing", () => expect(fillOf([null, null], hour)).toBeUndefined());
});
