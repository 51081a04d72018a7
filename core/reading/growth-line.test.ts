import { describe, expect, test } from "vitest";
import type { Column } from "../series/batch.ts";
import { rollUp } from "../series/rollup.ts";
import { seeded } from "../testing/random.ts";
import { SeriesReducer } from "./reduce.ts";
import { type Grid, stepStart } from "./step.ts";

// The oracle is written from the definitions of docs/figures.md: what grew between two readings is spread evenly over
// the time between them; a fall is a restart at 0.
const intervalMs = 20_000;
const traits = { falls: "restart" as const, intervalMs };

function beats(random: () => number, count: number): Column {
  const rows: [number, number][] = [];
  let total = Math.floor(random() * 1e6);
  for (let at = 3000; rows.length < count; at += intervalMs) {
    if (random() < 0.04) at += Math.floor(4 + 20 * random()) * intervalMs;
    total = random() < 0.02 ? Math.floor(random() * 50) : total + Math.floor(random() * 900);
    rows.push([at, total]);
  }
  return { timeMs: Float64Array.from(rows, ([at]) => at), value: Float64Array.from(rows, ([, value]) => value) };
}

const grids: readonly Grid[] = [
  { fromMs: 0, stepMs: 30_000, count: 150 },
  { fromMs: 0, stepMs: 20_000, count: 225 },
  { fromMs: 0, stepMs: 7000, count: 600 },
  { fromMs: 0, stepMs: 300_000, count: 15 },
  { fromMs: 0, stepMs: 600_000, count: 4, edgesMs: Float64Array.of(0, 500_000, 1_100_000, 1_137_000, 4_500_000) },
];

interface Stretch {
  readonly from: number;
  readonly to: number;
  readonly grown: number;
  readonly isTogether: boolean;
}

function stretches({ timeMs, value }: Column): readonly Stretch[] {
  return Array.from({ length: timeMs.length - 1 }, (_, i) => {
    const [from, to, before, after] = [
      timeMs[i] as number,
      timeMs[i + 1] as number,
      value[i] as number,
      value[i + 1] as number,
    ];
    return { from, to, grown: after >= before ? after - before : after, isTogether: to - from <= 3 * intervalMs };
  });
}

function expected(column: Column, grid: Grid, what: "rate" | "increase"): readonly number[] {
  const all = stretches(column).filter(({ isTogether }) => what === "increase" || isTogether);
  return Array.from({ length: grid.count }, (_, k) => {
    const parts = all
      .map(({ from, to, grown }) => ({
        ms: Math.max(0, Math.min(to, stepStart(grid, k + 1)) - Math.max(from, stepStart(grid, k))),
        perMs: grown / (to - from),
      }))
      .filter(({ ms }) => ms > 0);
    const grown = parts.reduce((sum, { ms, perMs }) => sum + ms * perMs, 0);
    const covered = parts.reduce((sum, { ms }) => sum + ms, 0);
    return covered === 0 ? Number.NaN : what === "increase" ? grown : (grown * 1000) / covered;
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
      ).toBeLessThan(1e-6);
  });
}

describe("totals", () => {
  test.each([
    ["rate", "mean"],
    ["increase", "sum"],
  ] as const)("%s of every step, as worked out one stretch at a time (seeds 1 to 40)", (as, ofEvery) => {
    for (let seed = 1; seed <= 40; seed++) {
      const column = beats(seeded(seed), 150);
      for (const grid of grids)
        expectAlike(
          new SeriesReducer(grid).reduce([column], as, ofEvery, traits).values,
          expected(column, grid, as),
          `seed ${seed}, steps of ${grid.stepMs}`,
        );
    }
  });
  test("in pieces they are the same, wherever they are cut (seeds 41 to 60)", () => {
    for (let seed = 41; seed <= 60; seed++) {
      const random = seeded(seed);
      const column = beats(random, 150);
      const cut = 20 + Math.floor(random() * 100);
      const pieces = [
        { timeMs: column.timeMs.slice(0, cut), value: column.value.slice(0, cut) },
        { timeMs: column.timeMs.slice(cut), value: column.value.slice(cut) },
      ];
      for (const grid of grids) {
        expectAlike(
          new SeriesReducer(grid).reduce(pieces, "increase", "sum", traits).values,
          expected(column, grid, "increase"),
          `seed ${seed}`,
        );
        expectAlike(
          new SeriesReducer(grid).reduce(pieces, "rate", "mean", traits).values,
          expected(column, grid, "rate"),
          `seed ${seed}`,
        );
      }
    }
  });
  test("over a silence between two pieces no rate is taken, but what grew is counted (hand-worked)", () => {
    const piece = (...rows: readonly (readonly [number, number])[]) => ({
      timeMs: Float64Array.from(rows, ([at]) => at),
      value: Float64Array.from(rows, ([, value]) => value),
    });
    const pieces = [piece([0, 0], [20_000, 100], [40_000, 200]), piece([240_000, 1200], [260_000, 1300])];
    const grid = { fromMs: 0, stepMs: 60_000, count: 5 };
    expectAlike(
      new SeriesReducer(grid).reduce(pieces, "rate", "mean", traits).values,
      [5, Number.NaN, Number.NaN, Number.NaN, 5],
      "rate",
    );
    expectAlike(
      new SeriesReducer(grid).reduce(pieces, "increase", "sum", traits).values,
      [300, 300, 300, 300, 100],
      "increase",
    );
  });
  test("slowest and fastest are those of the stretches that lie together (seeds 61 to 80)", () => {
    for (let seed = 61; seed <= 80; seed++) {
      const column = beats(seeded(seed), 150);
      const rates = stretches(column)
        .filter(({ isTogether }) => isTogether)
        .map(({ from, to, grown }) => (grown * 1000) / (to - from));
      const { least, most } = new SeriesReducer({ fromMs: 0, stepMs: 6_000_000, count: 1 }).reduce(
        [column],
        "rate",
        "mean",
        traits,
        true,
      );
      expect(least, `seed ${seed}`).toBeCloseTo(Math.min(...rates), 9);
      expect(most, `seed ${seed}`).toBeCloseTo(Math.max(...rates), 9);
    }
  });
  test("buckets of five minutes grow as their samples do, seams included (seeds 1 to 20)", () => {
    for (let seed = 1; seed <= 20; seed++) {
      const column = beats(seeded(seed), 400);
      const grid = { fromMs: 0, stepMs: 900_000, count: 20 };
      const whole = expected(column, grid, "increase").reduce((sum, v) => sum + (v || 0), 0);
      const rolled = rollUp(column, "total", 300_000, 0, 18_000_000);
      expect(
        new SeriesReducer(grid)
          .reduce([rolled], "increase", "sum", traits)
          .values.reduce((sum, v) => sum + (v || 0), 0),
        `seed ${seed}`,
      ).toBeCloseTo(whole, 6);
    }
  });
  test("a window's increase is clipped to it, between two readings as well (hand-worked)", () => {
    const column = { timeMs: Float64Array.of(0, 20_000, 40_000), value: Float64Array.of(0, 100, 300) };
    const { values } = new SeriesReducer({ fromMs: 0, stepMs: 60_000, count: 1 }, 10_000, 25_000).reduce(
      [column],
      "increase",
      "sum",
      traits,
    );
    expect(values[0]).toBeCloseTo(50 + 50, 9);
  });
});
