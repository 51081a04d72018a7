import { describe, expect, test } from "vitest";
import type { Line } from "../../../core/reading/document.ts";
import { chartCsv } from "./chart-csv.ts";
import { axisOfLines, chartLines, indexAt } from "./chart-lines.ts";

const line = (values: readonly (number | null)[], more: Partial<Line> = {}): Line => ({
  of: "a",
  tags: { machine: "gate" },
  unit: "By",
  values,
  last: null,
  min: null,
  mean: null,
  max: null,
  ...more,
});
const shown = (one: Line) => chartLines([one], () => "gate")[0]?.line;

describe("a line as far as it is told", () => {
  test("ends at its last whole step, with its least and most", () => {
    expect(shown(line([1, 2, 3], { whole: 2, lows: [0, 1, 2], highs: [2, 3, 4] }))).toMatchObject({
      values: [1, 2, null],
      lows: [0, 1, null],
      highs: [2, 3, null],
    });
  });
  test("is as it came where all of it is told, or nothing follows", () => {
    const [all, ended] = [line([1, 2, 3]), line([1, 2, null], { whole: 2 })];
    expect(shown(all)).toBe(all);
    expect(shown(ended)).toBe(ended);
  });
  test("the axis holds what is drawn, and not what is not told yet", () => {
    const lines = chartLines([line([1, 2, 5000], { whole: 2, max: 5000 })], () => "gate");
    expect(axisOfLines(lines, false, "1", []).max).toBeLessThan(5);
    expect(
      axisOfLines(
        chartLines([line([1, 2, 5000])], () => "gate"),
        false,
        "1",
        [],
      ).max,
    ).toBeGreaterThanOrEqual(5000);
  });
});

describe("steps of a calendar", () => {
  const edges = [Date.UTC(2026, 0, 1), Date.UTC(2026, 1, 1), Date.UTC(2026, 2, 1)];
  const month = line([31, 28]);
  test("are pointed at by their bounds", () => {
    const at = (ms: number) => indexAt(month, edges[0] as number, 30 * 86_400_000, ms, edges);
    expect([Date.UTC(2026, 0, 31, 23), Date.UTC(2026, 1, 1), Date.UTC(2026, 1, 28)].map(at)).toEqual([0, 1, 1]);
    expect([Date.UTC(2025, 11, 31), Date.UTC(2026, 2, 2)].map(at)).toEqual([-1, -1]);
  });
  test("begin in a table when they begin", () => {
    const csv = chartCsv(
      { from: edges[0] as number, stepMs: 30 * 86_400_000, count: 2, edges },
      chartLines([month], () => "gate"),
    );
    expect(csv.split("\r\n").slice(0, 3)).toEqual([
      "time,gate (By)",
      "2026-01-01T00:00:00.000Z,31",
      "2026-02-01T00:00:00.000Z,28",
    ]);
  });
});
