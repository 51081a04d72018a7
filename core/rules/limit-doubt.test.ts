import { expect, test } from "vitest";
import { limitDoubt } from "./limit-doubt.ts";

test.each([
  ["%", 175, 60, "175 % is never passed: its values lie between 0 and 100 %."],
  ["%", -5, 60, "-5 % is never passed: its values lie between 0 and 100 %."],
  ["%", 100, 60, undefined],
  ["%", 0, 60, undefined],
  // Processes of many cores are told in per cent of one.
  ["%", 175, 260, undefined],
  ["By", 175, 60, undefined],
  ["%", undefined, 60, undefined],
])("%s %s, seen up to %s", (unit, value, most, words) => {
  expect(limitDoubt(unit, value, most)).toBe(words);
});
