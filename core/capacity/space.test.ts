import { describe, expect, test } from "vitest";
import { gaussian, seeded } from "../testing/random.ts";
import { spaceOf } from "./space.ts";
import { whatIf } from "./what-if.ts";

const hour = 3_600_000;
const day = 24 * hour;
const hours = (days: number, at: (d: number) => number) =>
  Float64Array.from({ length: days * 24 + 1 }, (_, h) => at(h / 24));

describe("how something fills", () => {
  test("one per cent a day, at 80 %: full in twenty days, seven per cent more than a week ago, and foreseen so", () => {
    const found = spaceOf(
      hours(40, (d) => 0.4 + 0.01 * d),
      hour,
    );
    expect(found?.share).toBeCloseTo(0.8, 9);
    expect(found?.perDay).toBeCloseTo(0.01, 6);
    expect(found?.weekChange).toBeCloseTo(0.07, 9);
    expect((found?.full?.likelyMs ?? 0) / day).toBeCloseTo(20, 3);
    for (const error of Object.values(found?.error ?? {})) expect(error).toBeCloseTo(0, 6);
  });
  test("a forecast that was wrong says by how much: it grew twice as fast since ten days", () => {
    const found = spaceOf(
      hours(40, (d) => (d < 30 ? 0.2 + 0.01 * d : 0.5 + 0.02 * (d - 30))),
      hour,
    );
    // Two weeks ago 1 % a day was foreseen: 0.46 + 14 × 0.01 = 0.6, and 0.7 came.
    expect(found?.error.days14).toBeCloseTo(-0.1, 2);
  });
  test("neither a clean-up nor the days of the week bend the rate of what does not fill", () => {
    const random = seeded(9);
    const flat = spaceOf(
      hours(40, (d) => 0.5 + (d > 36 ? -0.2 : 0) + (d % 7 < 5 ? 0.01 : 0) + 0.001 * gaussian(random)),
      hour,
    );
    expect(flat?.full).toBeNull();
    expect(Math.abs(flat?.perDay ?? 1)).toBeLessThan(0.001);
  });
  test("of a day nothing is foreseen, of nothing nothing is known", () => {
    const found = spaceOf(
      hours(1, () => 0.3),
      hour,
    );
    expect(found).toMatchObject({ share: 0.3, perDay: 0, weekChange: null, full: null });
    expect(found?.error).toEqual({ days7: null, days14: null, days28: null });
    expect(spaceOf(Float64Array.of(Number.NaN), hour)).toBeUndefined();
  });
});

describe("what if", () => {
  const now = Date.UTC(2026, 10, 1);
  const filling = { used: 60, size: 100, perDay: 2, fullFromMs: now + 18 * day, fullToMs: now + 22 * day };
  test.each([
    [{}, 18, 22],
    [{ faster: 2 }, 9, 11],
    [{ added: 20 }, 9, 11],
    [{ moved: 40 }, 36, 44],
    [{ size: 200 }, 63, 77],
    [{ faster: 0.5, added: 10, size: 150 }, 72, 88],
  ])("%j: full after %d to %d days (arithmetic)", (supposed, from, to) => {
    const found = whatIf(filling, supposed, now);
    expect([found.fullFromMs, found.fullToMs].map((ms) => ((ms ?? 0) - now) / day)).toEqual([
      expect.closeTo(from, 9),
      expect.closeTo(to, 9),
    ]);
  });
  test("what would not hold is full at once; what does not fill stays so, whatever its size", () => {
    expect(whatIf(filling, { size: 50 }, now)).toMatchObject({ fullFromMs: now, fullToMs: now });
    const still = { ...filling, perDay: -1, fullFromMs: null, fullToMs: null };
    expect(whatIf(still, { faster: 9, size: 70 }, now)).toEqual({ ...still, size: 70 });
  });
});
