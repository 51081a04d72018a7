import { describe, expect, test } from "vitest";
import { fillOf } from "./fill.ts";

const hour = 3_600_000;
const day = 24 * hour;

describe("when something is full", () => {
  const hours = (n: number, shareAt: (h: number) => number | null) => Array.from({ length: n }, (_, h) => shareAt(h));
  test("at one per cent a day from 80 %, after two days at 82 %, it is 18 days", () => {
    const found = fillOf(
      hours(49, (h) => 0.8 + (0.01 * h) / 24),
      hour,
    );
    expect(found?.share).toBeCloseTo(0.82, 9);
    expect((found?.full?.likelyMs ?? 0) / day).toBeCloseTo(18, 1);
    expect((found?.full?.latestMs ?? 0) - (found?.full?.earliestMs ?? 0)).toBeLessThan(hour);
  });
  test("gaps do not bend it", () =>
    expect(
      (fillOf(
        hours(73, (h) => (h % 3 === 1 ? null : 0.1 + h / 1000)),
        hour,
      )?.full?.likelyMs ?? 0) / hour,
    ).toBeCloseTo(828, -1));
  test.each([
    ["it empties", hours(48, (h) => 0.9 - h / 1000), expect.closeTo(0.853, 9)],
    ["it stays", hours(48, () => 0.5), 0.5],
    ["hardly anything is known", hours(3, (h) => h / 100), 0.02],
  ])("never, or nobody knows, where %s", (_, values, share) =>
    expect(fillOf(values, hour)).toEqual({ share, full: null }),
  );
  test("nothing is known of nothing", () => expect(fillOf([null, null], hour)).toBeUndefined());
});
