import { describe, expect, test } from "vitest";
import type { Line } from "../reading/document.ts";
import { figureOfLine, figuresOfLines } from "./shown-figures.ts";

const line = (machine: string, more: Partial<Line> = {}): Line => ({
  of: "power",
  tags: { machine },
  unit: "W",
  values: [null, 100, 300],
  last: 300,
  min: 90,
  mean: 200,
  max: 410,
  sum: { value: 4823.3, unit: "W.h" },
  ...more,
});

describe("the figure of a line", () => {
  test.each([
    ["min", 90],
    ["max", 410],
    ["mean", 200],
    ["last", 300],
    ["first", 100],
    ["sum", 4823.3],
  ] as const)("%s is %d: of the samples and the window, not of the steps", (shows, expected) =>
    expect(figureOfLine(line("gate"), shows)).toBe(expected),
  );
  test("a sum that was not asked for, or does not add up, is none", () => {
    expect(figureOfLine(line("gate", { sum: null }), "sum")).toBeNull();
    const { sum: _, ...plain } = line("gate");
    expect(figureOfLine(plain, "sum")).toBeNull();
  });
  test("sums stand in the unit that they are in, from the least to the most of them", () => {
    const figures = figuresOfLines(
      [line("gate"), line("hive", { sum: { value: 12, unit: "W.h" } })],
      "sum",
      ({ tags }) => tags["machine"] ?? "",
    );
    expect(figures.columns).toMatchObject([{ unit: "W.h", least: 12, most: 4823.3 }]);
  });
});
