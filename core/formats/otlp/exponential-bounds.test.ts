import { describe, expect, test } from "vitest";
import { seeded } from "../../testing/random.ts";
import { ExponentialBounds } from "./exponential-bounds.ts";

const countsOf = (of: ReturnType<ExponentialBounds["read"]>) =>
  of?.map(([, count]) => count).reduce((sum, n) => sum + n, 0);

describe("bounds of an exponential histogram", () => {
  test("ascend from the lowest negative one over zero, and count everything once (seeds 1 to 60)", () => {
    for (let seed = 1; seed <= 60; seed++) {
      const random = seeded(seed);
      const bounds = new ExponentialBounds();
      for (let request = 0; request < 5; request++) {
        const side = () => ({
          offset: Math.floor(random() * 40 - 20),
          bucketCounts: Array.from({ length: Math.floor(random() * 200) }, () => Math.floor(random() * 4)),
        });
        const [positive, negative, zeroCount] = [side(), side(), Math.floor(random() * 3)];
        const found = bounds.read({
          timeUnixNano: "1",
          scale: Math.floor(random() * 9) - 2,
          zeroCount,
          positive,
          negative,
        });
        expect(countsOf(found), `seed ${seed}`).toBe(
          [...positive.bucketCounts, ...negative.bucketCounts].reduce((sum, n) => sum + n, zeroCount),
        );
        for (const [i, [upTo]] of (found ?? []).entries())
          if (i > 0) expect(upTo, `seed ${seed}`).toBeGreaterThan(found?.[i - 1]?.[0] as number);
      }
    }
  });
  test("stay from request to request, so that a series goes on, with nothing in them", () => {
    const bounds = new ExponentialBounds();
    bounds.read({ timeUnixNano: "1", scale: 0, positive: { offset: 3, bucketCounts: [5] } });
    expect(bounds.read({ timeUnixNano: "2", scale: 0, positive: { offset: 0, bucketCounts: [1] } })).toEqual([
      [1, 0],
      [2, 1],
      [8, 0],
      [16, 0],
      [Number.POSITIVE_INFINITY, 0],
    ]);
  });
  test("what is zero is counted at its threshold", () => {
    expect(
      new ExponentialBounds().read({
        timeUnixNano: "1",
        scale: 0,
        zeroCount: "4",
        zeroThreshold: 0.25,
        positive: { offset: 0, bucketCounts: [1] },
      }),
    ).toEqual([
      [0.25, 4],
      [1, 0],
      [2, 1],
      [Number.POSITIVE_INFINITY, 0],
    ]);
  });
  test("a bound beyond the numbers is infinite; counts there are not lost", () => {
    expect(
      new ExponentialBounds().read({ timeUnixNano: "1", scale: -10, positive: { offset: 0, bucketCounts: [1, 2] } }),
    ).toEqual([
      [1, 0],
      [Number.POSITIVE_INFINITY, 3],
    ]);
  });
  test.each([41, -41, 0.5, Number.NaN])("a scale of %d is none", (scale) =>
    expect(new ExponentialBounds().read({ timeUnixNano: "1", scale })).toBeUndefined(),
  );
});
