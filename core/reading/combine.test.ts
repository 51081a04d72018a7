import { describe, expect, test } from "vitest";
import { combineLines, groupLines, LineCombiner } from "./combine.ts";
import type { Combine } from "./document.ts";

const nan = Number.NaN;
const three = [
  { tags: { machine: "vault", disk: "sda", site: "quay" }, values: Float64Array.of(1, nan, 5, nan) },
  { tags: { machine: "vault", disk: "sdb", site: "quay" }, values: Float64Array.of(3, 4, nan, nan) },
  { tags: { machine: "hive", disk: "sda", site: "quay" }, values: Float64Array.of(8, 2, 1, nan) },
];

describe("lines (hand-worked)", () => {
  test.each<[Combine, number[]]>([
    ["sum", [12, 6, 6, nan]],
    ["mean", [4, 3, 3, nan]],
    ["min", [1, 2, 1, nan]],
    ["max", [8, 4, 5, nan]],
    ["count", [3, 2, 2, nan]],
    ["p95", [7.5, 3.9, 4.8, nan]], // type 7 of Hyndman & Fan: h = (n − 1) · 0.95
  ])("%s together; a gap is where nobody has a value", (combine, expected) => {
    const [line] = combineLines(three, "together", combine);
    expect(line?.tags).toEqual({ site: "quay" });
    expected.forEach((value, i) => {
      if (Number.isNaN(value)) expect(line?.values[i]).toBeNaN();
      else expect(line?.values[i]).toBeCloseTo(value, 12);
    });
  });
  test("series are grouped by tags, in the order of their first; a line keeps the tags that all have alike", () => {
    const tags = three.map((one) => one.tags);
    expect(groupLines(tags, { per: ["machine"] })).toEqual({
      lineOf: Int32Array.of(0, 0, 1),
      count: 2,
      tags: [
        { machine: "vault", site: "quay" },
        { machine: "hive", disk: "sda", site: "quay" },
      ],
    });
    expect(groupLines(tags, { per: ["disk", "rack"] })).toMatchObject({ lineOf: Int32Array.of(0, 1, 0), count: 2 });
    expect(groupLines(tags, "each").tags).toBe(tags);
    expect(groupLines([], "together").count).toBe(0);
  });
  test("texts of tags cannot be taken for one another: a comma is no boundary", () => {
    expect(
      groupLines(
        [
          { a: "x,y", b: "z" },
          { a: "x", b: "y,z" },
        ],
        { per: ["a", "b"] },
      ).count,
    ).toBe(2);
  });
  test("a line of which no series came is all gaps", () => {
    const combiner = new LineCombiner("sum", 2, 3);
    combiner.add(1, Float64Array.of(1, 2, 3), true);
    expect(combiner.finish().map((values) => [...values])).toEqual([
      [nan, nan, nan],
      [1, 2, 3],
    ]);
  });
});
