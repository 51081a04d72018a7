import { expect, test } from "vitest";
import { fittingFlag } from "./fitting-flag.ts";

test.each([
  [400, "90 % for 30 min, clears 80 %"],
  [140, "90 % for 30 min"],
  [100, "90 %"],
  [20, "90 %"],
])("in %s px", (roomPx, words) => {
  expect(fittingFlag("90 % for 30 min, clears 80 %", roomPx)).toBe(words);
});
