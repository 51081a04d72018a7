import { expect, test } from "vitest";
import { answersTo, typedWords } from "./typed-words.ts";

const score = (typed: string, text: string) => answersTo(typedWords(typed), text);

test.each([
  ["processor vm", "Processor of the guest vm"],
  ["vm proc", "Processor of the guest vm"],
  ["how hot", "hive: Temperatures"],
  ["vm", "guest's processor time"],
  ["new rule", "make a rule"],
  ["which disk is full", "volume of a drive, filesystem"],
  ["dark", "by night"],
  ["what", "what gathering costs"],
])("%j finds %j", (typed, text) => expect(score(typed, text)).toBeGreaterThan(0));

test.each([
  ["processor gate", "hive: Processor"],
  ["hot", "hive: Processor"],
  ["zzz", "anything"],
])("%j does not find %j", (typed, text) => expect(score(typed, text)).toBe(0));

test("a word's beginning counts more than its middle, and a word more than another for it; nothing typed finds all", () => {
  expect(score("mem", "memory")).toBe(1);
  expect(score("mory", "memory")).toBe(0.5);
  expect(score("ram", "memory")).toBeCloseTo(0.7, 9);
  expect(score("", "memory")).toBe(1);
});

test("ten thousand words are gone through in one go", () => {
  expect(score("a ".repeat(10_000), "b".repeat(10_000))).toBe(0);
  expect(score("x", "ax".repeat(20_000))).toBe(0.5);
});
