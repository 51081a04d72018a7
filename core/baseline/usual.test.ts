import { describe, expect, test } from "vitest";
import { unusualAmong } from "./usual.ts";

describe("what is unusual at this hour", () => {
  test.each([
    ["three times the middle of four weeks", 30, [9, 10, 10, 11], 1, { usual: 10, factor: 3 }],
    ["more, but those weeks differ as much", 30, [2, 10, 18, 26], 1, undefined],
    ["less than twice as much", 17, [10, 10, 10, 10], 1, undefined],
    ["below what anybody cares for", 0.5, [0.1, 0.1, 0.1], 1, undefined],
    ["one earlier week is not a usual", 30, [10], 1, undefined],
    ["never before", 5, [0, 0, 0], 1, { usual: 0, factor: Number.POSITIVE_INFINITY }],
    ["less than usual is not told", 1, [10, 10, 10], 0.1, undefined],
  ] as const)("%s", (_, now, before, floor, expected) => expect(unusualAmong(now, before, floor)).toEqual(expected));
});
