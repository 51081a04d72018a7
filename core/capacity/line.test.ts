import { describe, expect, test } from "vitest";
import { gaussian, seeded } from "../testing/random.ts";
import { lineThrough } from "./line.ts";

/** y and x of NIST StRD, linear regression, Norris; certified slope and intercept (from memory of the data set). */
const norris = `0.1 0.2 338.8 337.4 118.1 118.2 888.0 884.6 9.2 10.1 228.1 226.5 668.5 666.3 998.5 996.3 449.1 448.6
 778.9 777.0 559.2 558.2 0.3 0.4 0.1 0.6 778.1 775.5 668.8 666.9 339.3 338.0 448.9 447.5 10.8 11.6 557.7 556.0
 228.3 228.1 998.0 995.8 888.8 887.6 119.6 120.2 0.3 0.3 0.6 0.3 557.6 556.8 339.3 339.1 888.0 887.2 998.5 999.0
 778.9 779.0 10.2 11.1 117.6 118.3 228.9 229.2 668.4 669.1 449.2 448.9 0.2 0.5`
  .split(/\s+/)
  .map(Number);
const pairs = Array.from(
  { length: norris.length / 2 },
  (_, i) => [norris[2 * i], norris[2 * i + 1]] as [number, number],
);

describe("least squares", () => {
  test("NIST StRD Norris: slope 1.00211681802045, intercept −0.262323073774029 (certified)", () => {
    expect(pairs).toHaveLength(36);
    const { slope, meanX, meanY } = lineThrough(
      pairs.map(([, x]) => x),
      pairs.map(([y]) => y),
    );
    expect(slope).toBeCloseTo(1.00211681802045, 11);
    expect(meanY - slope * meanX).toBeCloseTo(-0.262323073774029, 9);
  });
  test("NIST StRD NoInt1's points, 130 to 140 over 60 to 70, lie on a line of slope 1 (from memory of the data set)", () => {
    const x = Array.from({ length: 11 }, (_, i) => 60 + i);
    const { slope, error } = lineThrough(
      x,
      x.map((v) => v + 70),
    );
    expect(slope).toBeCloseTo(1, 12);
    expect(error).toBeCloseTo(0, 9);
  });
  test("its interval for the slope holds about as many as it says, of noise that is and is not correlated (seeds 1 to 400)", () => {
    for (const [correlated, least] of [
      [0, 0.88],
      [0.6, 0.82],
    ] as const) {
      let within = 0;
      for (let seed = 1; seed <= 400; seed++) {
        const random = seeded(seed);
        let before = 0;
        const x = Array.from({ length: 60 }, (_, i) => i);
        const y = x.map((v) => {
          before = correlated * before + Math.sqrt(1 - correlated ** 2) * gaussian(random);
          return 0.05 * v + before;
        });
        const { slope, error } = lineThrough(x, y);
        if (Math.abs(slope - 0.05) <= error) within++;
      }
      // 92 % of the normal distribution; what is correlated is judged from the residuals, and a little short.
      expect(within / 400, String(correlated)).toBeGreaterThan(least);
      expect(within / 400, String(correlated)).toBeLessThan(0.98);
    }
  });
});
