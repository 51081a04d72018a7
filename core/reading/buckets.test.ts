import { describe, expect, test } from "vitest";
import { bucketsApart, quantilesOfBuckets } from "./buckets.ts";
import type { Line } from "./document.ts";
import { evaluateReading, type SeriesColumn } from "./evaluate.ts";

const bucket = (le: string, ...values: number[]) => ({ tags: { machine: "m", le }, values: Float64Array.from(values) });

describe("a quantile from buckets", () => {
  // Marks of 30 pupils in classes 0-10, 10-20, 20-30, 30-40, 40-50 with 3, 5, 9, 8, 5 in each: a schoolbook's grouped
  // data; the median is
  // 20 + (15 - 8) / 9 * 10 = 27.78, the 90th percentile 40 + (27 - 25) / 5 * 10 = 44 (worked by hand).
  const marks = [
    bucket("10", 3),
    bucket("20", 8),
    bucket("30", 17),
    bucket("40", 25),
    bucket("50", 30),
    bucket("+Inf", 30),
  ];
  test.each([
    [0.5, 20 + 70 / 9],
    [0.9, 44],
    [0.1, 10],
    [1, 50],
  ])("p = %d of grouped data is %d", (p, expected) =>
    expect(quantilesOfBuckets(marks, p).lines[0]?.values[0]).toBeCloseTo(expected, 10),
  );
  test("in any order of the buckets; the bound is gone from the tags", () =>
    expect(quantilesOfBuckets([...marks].reverse(), 0.9).lines).toMatchObject([
      { tags: { machine: "m" }, values: Float64Array.of(44) },
    ]));
  test("nothing counted is a gap, one step at a time", () =>
    expect([...(quantilesOfBuckets([bucket("1", 0, 2), bucket("+Inf", 0, 2)], 0.5).lines[0]?.values ?? [])]).toEqual([
      Number.NaN,
      0.5,
    ]));
  test("beyond the highest bound it is above that bound, and says so, step by step", () => {
    const { lines, above } = quantilesOfBuckets([bucket("1", 1, 9), bucket("5", 2, 10), bucket("+Inf", 10, 10)], 0.95);
    expect(lines[0]).toMatchObject({ values: Float64Array.of(5, 3), above: [0] });
    expect(above).toBe(1);
  });
  test("without a finite bound nothing is known", () =>
    expect(quantilesOfBuckets([bucket("+Inf", 10)], 0.5).lines[0]?.values[0]).toBeNaN());
  test("bounds below zero begin at themselves", () =>
    expect(quantilesOfBuckets([bucket("-10", 4), bucket("10", 8), bucket("+Inf", 8)], 0.5).lines[0]?.values[0]).toBe(
      -10,
    ));
});

test("buckets apart hold what falls into each alone", () => {
  const line = (le: string, ...values: (number | null)[]): Line => ({
    of: "a",
    tags: { le },
    unit: "1/s",
    values,
    last: null,
    min: null,
    mean: null,
    max: null,
  });
  expect(
    bucketsApart([line("+Inf", 9, null), line("1", 2, 1), line("5", 7, 1)]).map(({ bound, values }) => [bound, values]),
  ).toEqual([
    [1, [2, 1]],
    [5, [5, 0]],
    [Number.POSITIVE_INFINITY, [2, null]],
  ]);
});

test("a sentence asks for it by of_every: rates of the buckets of two machines are added, the unit is that of what was measured", () => {
  const series = (machine: string, le: string, perSecond: number): SeriesColumn & { boundUnit: string } => ({
    tags: { machine, le },
    unit: "1",
    kind: "distribution",
    boundUnit: "s",
    column: { timeMs: Float64Array.of(0, 1000, 2000), value: Float64Array.of(0, perSecond, 2 * perSecond) },
  });
  const all = [
    series("a", "1", 1),
    series("a", "2", 2),
    series("a", "+Inf", 2),
    series("b", "1", 3),
    series("b", "2", 6),
    series("b", "+Inf", 6),
  ];
  const read = (lines: "each" | "together" | { per: string[] }) =>
    evaluateReading(
      { window: { from: 0, to: 2000 }, step: 1, sentences: { x: { counter: "latency", of_every: "p50", lines } } },
      { x: all },
    ).lines;
  expect(read("together")).toMatchObject([{ unit: "s", values: [1, 1] }]);
  expect(read({ per: ["machine"] }).map(({ tags }) => tags)).toEqual([{ machine: "a" }, { machine: "b" }]);
  expect(read("each").map(({ values }) => values)).toEqual([
    [1, 1],
    [1, 1],
  ]);
});

test("two distributions at once do not mix", () => {
  const line = (machine: string, le: string, value: number): Line => ({
    of: "a",
    tags: { machine, le },
    unit: "1/s",
    values: [value],
    last: null,
    min: null,
    mean: null,
    max: null,
  });
  expect(
    bucketsApart([line("a", "1", 2), line("b", "1", 10), line("a", "+Inf", 5), line("b", "+Inf", 11)]).map(
      ({ line: { tags }, values }) => [tags["machine"], values[0]],
    ),
  ).toEqual([
    ["a", 2],
    ["b", 10],
    ["a", 3],
    ["b", 1],
  ]);
});
