import { expect, test } from "vitest";
import { metersOf } from "./meters.ts";
import type { ShownFigures } from "./shown-figures.ts";
import { steadyFirst } from "./steady-first.ts";

interface Row {
  readonly key: string;
  readonly value: number;
}
const rows = (values: Readonly<Record<string, number>>): Row[] =>
  Object.entries(values)
    .map(([key, value]) => ({ key, value }))
    .sort((a, b) => b.value - a.value);
const clearly = (a: Row, b: Row) => a.value > b.value + 5;
const order = (values: Readonly<Record<string, number>>, before: readonly string[]) =>
  steadyFirst(rows(values), before, clearly)
    .map(({ key }) => key)
    .join(" ");

test.each<[string, Readonly<Record<string, number>>, readonly string[], string]>([
  ["without a before, by value", { a: 1, b: 3, c: 2 }, [], "b c a"],
  ["what is nearly alike keeps its place", { a: 10, b: 13, c: 12 }, ["a", "b", "c"], "a b c"],
  ["what has clearly passed takes it", { a: 10, b: 13, c: 16 }, ["a", "b"], "c a b"],
  ["a new one that is nearly alike stands behind", { a: 10, b: 9, c: 14 }, ["a", "b"], "a b c"],
  ["one that has gone leaves its place", { b: 9, c: 14 }, ["a", "b"], "b c"],
  ["one that fell falls past all that are clearly above", { a: 1, b: 9, c: 14 }, ["a", "b", "c"], "c b a"],
])("%s", (_, values, before, expected) => {
  expect(order(values, before)).toBe(expected);
});

test("a hundred refreshes of values that move by less than what is clear change nothing", () => {
  let before: readonly string[] = [];
  const seen = new Set<string>();
  for (let i = 0; i < 100; i++) {
    const values = Object.fromEntries(["a", "b", "c", "d"].map((key, k) => [key, 50 + 2 * Math.sin(i * (k + 1.3))]));
    before = steadyFirst(rows(values), before, clearly).map(({ key }) => key);
    seen.add(before.join(" "));
  }
  expect(seen.size).toBe(1);
});

test("two meters of four stay the two that they were, until another is ahead by a twentieth of the scale", () => {
  const figures = (values: readonly number[]): ShownFigures => ({
    columns: [{ name: "busy", unit: "%", least: 0, most: 100 }],
    rows: values.map((value, i) => ({ key: `m${i}`, name: `m${i}`, tags: {}, values: [value] })),
    shown: "last",
  });
  const look = { order: "highest" } as const;
  const names = (values: readonly number[], before?: readonly string[]) =>
    metersOf(figures(values), look, [], 2, before).meters.map(({ name }) => name);
  const keys = (values: readonly number[]) => metersOf(figures(values), look, [], 2).meters.map(({ key }) => key);
  const before = keys([50, 40, 38, 10]);
  expect(names([50, 40, 42, 10], before)).toEqual(["m0", "m1"]);
  expect(names([50, 40, 48, 10], before)).toEqual(["m0", "m2"]);
  expect(names([50, 40, 42, 10])).toEqual(["m0", "m2"]);
});
