import { expect, test } from "vitest";
import { readTypedNumber } from "./typed-number.ts";

test.each([
  ["12", 12],
  [" 12.5 ", 12.5],
  ["12,5", 12.5],
  [",5", 0.5],
  ["-3", -3],
  ["−3", -3],
  ["2e3", 2000],
  ["007", 7],
  ["", undefined],
  ["  ", undefined],
])("%j is read as %j", (typed, value) => expect(readTypedNumber(typed)).toEqual({ value }));

test.each([
  ["abc", "abc is no number"],
  ["0x10", "0x10 is no number"],
  ["1 000", "write it in one piece: 1000"],
  ["1'000", "write it in one piece: 1000"],
  ["5 %", "write the number alone: 5"],
  ["20GiB", "write the number alone: 20"],
  ["1.000,5", "1.000,5 has more than one point or comma"],
  ["1,000,5", "1,000,5 has more than one point or comma"],
  ["Infinity", "Infinity is no number"],
  ["NaN", "NaN is no number"],
  ["1e999", "1e999 is more than can be counted"],
  ["-", "- is no number"],
])("%j is told: %s", (typed, problem) => expect(readTypedNumber(typed)).toEqual({ problem }));

test("what is outside says what would do", () => {
  const bounds = { least: 0, most: 100, isWhole: true };
  expect(readTypedNumber("-5", bounds)).toEqual({ problem: "0 or more is wanted here" });
  expect(readTypedNumber("175", bounds)).toEqual({ problem: "100 or less is wanted here" });
  expect(readTypedNumber("2.5", bounds)).toEqual({ problem: "a whole number is wanted here" });
  expect(readTypedNumber("100", bounds)).toEqual({ value: 100 });
});

test("a long text is told in short, and read in linear time", () => {
  const found = readTypedNumber("9 ".repeat(100_000));
  expect(found).toHaveProperty("problem");
  expect(readTypedNumber("x".repeat(1e6))).toEqual({ problem: `${"x".repeat(40)}… is no number` });
});
