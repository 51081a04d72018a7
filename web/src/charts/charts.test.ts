import fc from "fast-check";
import { describe, expect, test } from "vitest";
import type { Line } from "../../../core/reading/document.ts";
import { axisOfLines, chartLines, indexAt } from "./chart-lines.ts";
import { spreadLabels } from "./spread-labels.ts";
import { bandPaths } from "./strip-paths.ts";

describe("labels are moved apart", () => {
  test.each([
    [[10, 50, 90], 16, 100, [10, 50, 90]],
    [[50, 50], 16, 100, [42, 58]],
    [[50, 40], 16, 100, [53, 37]],
    [[0, 0, 0], 16, 100, [8, 24, 40]],
    [[100, 99], 16, 100, [92, 76]],
    [[], 16, 100, []],
    [[500], 16, 100, [92]],
  ])("%j with gap %d in %d: %j", (wishes, gap, height, expected) =>
    expect(spreadLabels(wishes, gap, height)).toEqual(expected),
  );
  test("they never touch, stay inside and keep their order (property)", () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: -50, max: 200, noNaN: true }), { maxLength: 7 }), (wishes) => {
        const places = spreadLabels(wishes, 16, 116);
        const order = wishes.map((_, i) => i).sort((a, b) => (wishes[a] as number) - (wishes[b] as number) || a - b);
        order.forEach((index, k) => {
          const place = places[index] as number;
          expect(place).toBeGreaterThanOrEqual(8 - 1e-9);
          expect(place).toBeLessThanOrEqual(108 + 1e-9);
          if (k > 0) expect(place - (places[order[k - 1] as number] as number)).toBeGreaterThanOrEqual(16 - 1e-9);
        });
      }),
    );
  });
  test("more than fit are spaced evenly", () =>
    expect(spreadLabels([5, 5, 5, 5, 5], 16, 56)).toEqual([8, 18, 28, 38, 48]));
});

const line = (name: string, values: readonly (number | null)[]): Line => {
  const known = values.filter((value) => value !== null);
  return {
    of: "x",
    tags: { state: name },
    unit: "By",
    values,
    last: known[known.length - 1] ?? null,
    min: known.length ? Math.min(...known) : null,
    mean: null,
    max: known.length ? Math.max(...known) : null,
  };
};
const named = (lines: readonly Line[], order: readonly string[] = []) =>
  chartLines(lines, ({ tags }) => tags["state"] ?? "", order);

describe("lines of a chart", () => {
  test("stand in the order given, others by name with numbers as numbers; their colours follow", () => {
    expect(
      named([line("core 10", []), line("core 2", []), line("free", []), line("used", [])], ["used", "free"]).map(
        ({ name, colourIndex }) => [name, colourIndex],
      ),
    ).toEqual([
      ["used", 0],
      ["free", 1],
      ["core 2", 2],
      ["core 10", 3],
    ]);
  });
  test("the axis holds a stack's sum, the limits, and ends at 100 % while all is below it", () => {
    const lines = named([line("a", [1, 2, null]), line("b", [3, 4, 5])]);
    expect(axisOfLines(lines, true, "1", []).max).toBeGreaterThanOrEqual(6);
    expect(axisOfLines(lines, false, "1", [9]).max).toBeGreaterThanOrEqual(9);
    expect(axisOfLines(lines, true, "%", [], 100).max).toBe(100);
    expect(axisOfLines(named([line("a", [250])]), false, "%", [], 100).max).toBeGreaterThanOrEqual(250);
    expect(axisOfLines(named([line("a", [-7])]), false, "Cel", []).min).toBeLessThanOrEqual(-7);
  });
  test("the value read is the one at the hair, or the newest", () => {
    const one = line("a", [1, 2, null]);
    expect([
      indexAt(one, 1000, 10, null),
      indexAt(one, 1000, 10, 1015),
      indexAt(one, 1000, 10, 1029),
      indexAt(one, 1000, 10, 999),
      indexAt(one, 1000, 10, 1030),
      indexAt(line("a", [null]), 0, 1, null),
    ]).toEqual([1, 1, 2, -1, -1, -1]);
  });
});

test("a horizon strip: three bands over one another, the higher only where the value reaches, gaps empty", () => {
  const paths = bandPaths([10, 40, null, 90], 0, 50, { fromMs: 0, toMs: 200 }, { least: 0, most: 90 }, 30);
  expect(paths).toEqual([
    "M0 30V20H50V0H100V30ZM150 30V0H200V30Z",
    "M50 30V20H100V30ZM150 30V0H200V30Z",
    "M150 30V0H200V30Z",
  ]);
});
