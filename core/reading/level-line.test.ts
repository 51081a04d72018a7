import { describe, expect, test } from "vitest";
import type { Column } from "../series/batch.ts";
import { rollUp } from "../series/rollup.ts";
import { seeded } from "../testing/random.ts";
import type { OfEvery } from "../series/of-every.ts";
import { SeriesReducer } from "./reduce.ts";
import { type Grid, stepStart } from "./step.ts";

// The oracle is written from the definitions of docs/figures.md: a sample holds until the next one, for three intervals
// at most.
const intervalMs = 10_000;
const reachMs = 3 * intervalMs;
const traits = { falls: "restart" as const, intervalMs };

/** Samples on whole intervals, with silences, gaps in the values and infinities. */
function samples(random: () => number, count: number): Column {
  const rows: [number, number][] = [];
  for (let at = Math.floor(random() * 4) * intervalMs; rows.length < count; at += intervalMs) {
    if (random() < 0.03) at += Math.floor(4 + 20 * random()) * intervalMs;
    rows.push([at, Math.round(random() * 1000)]);
  }
  return { timeMs: Float64Array.from(rows, ([at]) => at), value: Float64Array.from(rows, ([, value]) => value) };
}

function grids(random: () => number): readonly Grid[] {
  const stepMs = [7000, 10_000, 25_000, 60_000, 300_000][Math.floor(random() * 5)] as number;
  const edges = [0];
  while (edges.length < 12) edges.push((edges.at(-1) as number) + Math.floor(1 + random() * 30) * 5000);
  return [
    { fromMs: 0, stepMs, count: Math.ceil(1_200_000 / stepMs) },
    { fromMs: 0, stepMs: 60_000, count: edges.length - 1, edgesMs: Float64Array.from(edges) },
  ];
}

interface Hold {
  readonly from: number;
  readonly to: number;
  readonly value: number;
}

function holds({ timeMs, value }: Column): readonly Hold[] {
  return Array.from(timeMs, (from, i) => ({
    from,
    to: Math.min(timeMs[i + 1] ?? Number.POSITIVE_INFINITY, from + reachMs),
    value: value[i] as number,
  }));
}

function expected(column: Column, grid: Grid, ofEvery: OfEvery): readonly number[] {
  return Array.from({ length: grid.count }, (_, k) => {
    const [start, end] = [stepStart(grid, k), stepStart(grid, k + 1)];
    const parts = holds(column)
      .map(({ from, to, value }) => ({ ms: Math.max(0, Math.min(to, end) - Math.max(from, start)), value }))
      .filter(({ ms }) => ms > 0);
    const integral = parts.reduce((sum, { ms, value }) => sum + ms * value, 0);
    const covered = parts.reduce((sum, { ms }) => sum + ms, 0);
    const own = Array.from(column.value).filter(
      (_, i) => (column.timeMs[i] as number) >= start && (column.timeMs[i] as number) < end,
    );
    const held = holds(column)
      .filter(({ from, to }) => from < start && to > start)
      .map(({ value }) => value);
    const seen = own.length > 0 ? own : held;
    switch (ofEvery) {
      case "mean":
        return integral / covered;
      case "sum":
        return covered === 0 ? Number.NaN : integral;
      case "count":
        return own.length || Number.NaN;
      case "min":
        return seen.length === 0 ? Number.NaN : Math.min(...seen);
      case "max":
        return seen.length === 0 ? Number.NaN : Math.max(...seen);
      case "first":
        return seen[0] ?? Number.NaN;
      default:
        return seen.at(-1) ?? Number.NaN;
    }
  });
}

function expectAlike(found: ArrayLike<number>, wanted: readonly number[], what: string): void {
  expect(found.length, what).toBe(wanted.length);
  wanted.forEach((value, i) => {
    if (Number.isNaN(value)) expect(found[i], `${what}, step ${i}`).toBeNaN();
    else
      expect(
        Math.abs((found[i] as number) - value) / Math.max(1, Math.abs(value)),
        `${what}, step ${i}: ${found[i]} for ${value}`,
      ).toBeLessThan(1e-9);
  });
}

describe.each(["mean", "sum", "count", "min", "max", "first", "last"] as const)(
  "levels, %s of every step",
  (ofEvery) => {
    test("as worked out one sample at a time, on even grids and on a calendar's (seeds 1 to 40)", () => {
      for (let seed = 1; seed <= 40; seed++) {
        const random = seeded(seed);
        const column = samples(random, 90);
        for (const grid of grids(random))
          expectAlike(
            new SeriesReducer(grid).reduce([column], "value", ofEvery, traits).values,
            expected(column, grid, ofEvery),
            `seed ${seed}`,
          );
      }
    });
    test("the same where the samples come in several pieces (seeds 41 to 60)", () => {
      for (let seed = 41; seed <= 60; seed++) {
        const random = seeded(seed);
        const column = samples(random, 90);
        const cut = 20 + Math.floor(random() * 50);
        const pieces = [
          { timeMs: column.timeMs.slice(0, cut), value: column.value.slice(0, cut) },
          { timeMs: column.timeMs.slice(cut), value: column.value.slice(cut) },
        ];
        for (const grid of grids(random))
          expectAlike(
            new SeriesReducer(grid).reduce(pieces, "value", ofEvery, traits).values,
            expected(column, grid, ofEvery),
            `seed ${seed}`,
          );
      }
    });
  },
);

describe("levels out of buckets of five minutes", () => {
  test.each(["mean", "sum", "count", "min", "max"] as const)(
    "%s of every ten minutes is that of the samples (seeds 1 to 20)",
    (ofEvery) => {
      for (let seed = 1; seed <= 20; seed++) {
        const column = samples(seeded(seed), 400);
        const grid = { fromMs: 0, stepMs: 600_000, count: 10 };
        const wanted = expected(column, grid, ofEvery);
        const found = new SeriesReducer(grid).reduce(
          [rollUp(column, "level", 300_000, 0, 6_000_000)],
          "value",
          ofEvery,
          traits,
        ).values;
        // The last bucket may be cut off by the grid's end in the samples, but not in the buckets.
        expectAlike(found.subarray(0, 9), wanted.slice(0, 9), `seed ${seed}`);
      }
    },
  );
});

describe("what is told of a line beside its steps", () => {
  test("least, most and newest are of the samples in the window alone; the newest holds for its reach (hand-worked)", () => {
    const column = {
      timeMs: Float64Array.of(0, 10_000, 20_000, 30_000, 40_000),
      value: Float64Array.of(1, 500, 20, 30, 9000),
    };
    const reducer = new SeriesReducer({ fromMs: 0, stepMs: 60_000, count: 1 }, 15_000, 35_000);
    expect(reducer.reduce([column], "value", "mean", traits, true)).toMatchObject({
      least: 20,
      most: 30,
      newest: 30,
      newestUntilMs: 40_000,
    });
    const whole = new SeriesReducer({ fromMs: 0, stepMs: 60_000, count: 1 });
    expect(whole.reduce([column], "value", "mean", traits, true)).toMatchObject({
      least: 1,
      most: 9000,
      newest: 9000,
      newestUntilMs: 70_000,
    });
  });
  test("the same out of buckets, of those that the window touches (hand-worked)", () => {
    const column = {
      timeMs: Float64Array.from({ length: 90 }, (_, i) => i * 10_000),
      value: Float64Array.from({ length: 90 }, (_, i) => (i < 30 ? 1000 : i < 60 ? 50 + (i % 7) : 3)),
    };
    const reducer = new SeriesReducer({ fromMs: 0, stepMs: 900_000, count: 1 }, 300_000, 600_000);
    expect(reducer.reduce([rollUp(column, "level", 300_000, 0, 900_000)], "value", "mean", traits, true)).toMatchObject(
      { least: 50, most: 56, newest: 50 + (59 % 7), newestUntilMs: 620_000 },
    );
  });
  test("infinite samples are left out and counted, whatever is asked for", () => {
    const column = {
      timeMs: Float64Array.of(0, 10_000, 20_000, 30_000),
      value: Float64Array.of(1, Number.POSITIVE_INFINITY, Number.NaN, 5),
    };
    for (const ofEvery of ["mean", "sum", "max", "last"] as const) {
      const reducer = new SeriesReducer({ fromMs: 0, stepMs: 40_000, count: 1 });
      const { values, most } = reducer.reduce([column], "value", ofEvery, traits, true);
      expect(Number.isFinite(values[0]), ofEvery).toBe(true);
      expect([reducer.infinite, most], ofEvery).toEqual([1, 5]);
    }
  });
  test("until when it is told: its newest sample while that holds, nothing where it has fallen silent", () => {
    const column = { timeMs: Float64Array.of(0, 10_000), value: Float64Array.of(1, 2) };
    const reducer = new SeriesReducer({ fromMs: 0, stepMs: 10_000, count: 9 });
    expect(reducer.toldUntilMs([column], traits, 39_999)).toBe(10_000);
    expect(reducer.toldUntilMs([column], traits, 40_000)).toBe(Number.POSITIVE_INFINITY);
    expect(reducer.toldUntilMs([], traits, 20_000)).toBe(Number.POSITIVE_INFINITY);
    expect(reducer.toldUntilMs([rollUp(column, "level", 300_000, 0, 300_000)], traits, 39_999)).toBe(10_000);
  });
});
