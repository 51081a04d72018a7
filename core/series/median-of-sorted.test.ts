import { describe, expect, test } from "vitest";
import { seeded } from "../testing/random.ts";
import { medianOfSorted } from "./median-of-sorted.ts";

/** The median by its definition: all numbers in order, the middle one or the mean of the two in the middle. */
function byDefinition(lists: readonly Float64Array[]): number {
  const all = lists.flatMap((list) => [...list]).sort((a, b) => a - b);
  if (all.length === 0) return Number.NaN;
  const middle = all.length >> 1;
  return all.length % 2 === 1 ? (all[middle] as number) : ((all[middle - 1] as number) + (all[middle] as number)) / 2;
}

describe("the median of several sorted lists", () => {
  test("is that of all their numbers, from whatever guess: even and odd counts, equal numbers, empty lists", () => {
    const random = seeded(11);
    for (let round = 0; round < 500; round++) {
      const lists = Array.from({ length: 1 + Math.floor(random() * 6) }, () =>
        Float64Array.from({ length: Math.floor(random() * 12) }, () => Math.round(random() * 20) / 2).sort(),
      );
      const guess = [0, 5, 10, -1, 99, Number.NaN, random() * 10][round % 7] as number;
      expect(medianOfSorted(lists, guess)).toBe(byDefinition(lists));
    }
  });
  test("of none is NaN", () => {
    expect(medianOfSorted([], 1)).toBeNaN();
    expect(medianOfSorted([new Float64Array(0)], 1)).toBeNaN();
  });
});
