import { describe, expect, test } from "vitest";
import { readRollupBlock, writeRollupBlock } from "../chunk/rollup-block.ts";
import { BlockError } from "../chunk/cursor.ts";
import { column } from "../testing/column.ts";
import { seeded } from "../testing/random.ts";
import { fiveMinutesMs, hourMs, type LevelRollup, rollUp, rollUpFurther, type TotalRollup } from "./rollup.ts";

const plain = (rollup: object) => Object.fromEntries(Object.entries(rollup).map(([name, plane]) => [name, plane instanceof Float64Array ? [...plane] : plane]));

describe("levels", () => {
  test("by hand: NaN and what lies outside is left out, empty buckets are not there", () => {
    const found = rollUp(column([-1, 99], [0, 5], [100, Number.NaN], [299, 2], [900, 4], [1200, 88]), "level", fiveMinutesMs, 0, 1_200_000);
    expect(plain(found)).toEqual({ kind: "level", startMs: [0, 900_000], count: [2, 1], sum: [7, 4], min: [2, 4], max: [5, 4], last: [2, 4] });
  });
});

describe("totals", () => {
  test("by hand: an increase counts whole where it ends, and is spread for rates; a restart counts from 0", () => {
    // 100 s apart; from 250 s to 350 s half of 40 falls into each bucket; at 450 s the total restarted and stands at 10.
    const found = rollUp(column([50, 100], [150, 120], [250, 140], [350, 180], [450, 10], [550, 20], [650, 50]), "total", fiveMinutesMs, 0, 600_000);
    expect(plain(found)).toEqual({
      kind: "total",
      startMs: [0, 300_000],
      count: [3, 3],
      increase: [40, 60],
      grown: [60, 20 + 10 + 10 + 15],
      coveredMs: [250_000, 300_000],
      slowest: [Math.fround(0.2), Math.fround(0.1)],
      fastest: [Math.fround(0.4), Math.fround(0.4)],
      last: [140, 20],
    });
  });
  test("no rate is taken over a gap, what was counted meanwhile is", () => {
    const samples = column([0, 0], [10, 10], [20, 20], [30, 30], [1000, 500], [1010, 510]);
    const found = rollUp(samples, "total", fiveMinutesMs, 0, 1_200_000) as TotalRollup;
    expect(plain(found)).toMatchObject({ startMs: [0, 900_000], increase: [30, 480], grown: [30, 10], coveredMs: [30_000, 10_000] });
  });
});

describe("further", () => {
  test.each(["level", "total"] as const)("hours out of five minutes are the hours out of samples: %s (seed 6)", (kind) => {
    const random = seeded(6);
    let total = 0;
    const samples = column(
      ...Array.from({ length: 4000 }, (_, i) => {
        total += Math.floor(random() * 100);
        if (random() < 0.001) total = 0;
        return [i * 10 + Math.floor(random() * 3), kind === "total" ? total : Math.round(random() * 1e4) / 100] as const;
      }),
    );
    const fine = [0, 1, 2, 3].map((part) => rollUp(samples, kind, fiveMinutesMs, part * 3 * hourMs, (part + 1) * 3 * hourMs));
    const coarse = rollUpFurther(fine, kind, hourMs, 0, 12 * hourMs);
    const direct = rollUp(samples, kind, hourMs, 0, 12 * hourMs);
    for (const [name, plane] of Object.entries(direct)) {
      if (!(plane instanceof Float64Array)) continue;
      const found = (coarse as unknown as Record<string, Float64Array>)[name] as Float64Array;
      expect(found.length, name).toBe(plane.length);
      for (let i = 0; i < plane.length; i++) expect((found[i] as number) / (plane[i] as number) || 1, `${name} ${i}`).toBeCloseTo(1, 6);
    }
  });
});

test("blocks give back every plane; damaged ones are refused with the position", () => {
  const random = seeded(8);
  const samples = column(...Array.from({ length: 500 }, (_, i) => [i * 15, Math.round(random() * 100)] as const));
  for (const kind of ["level", "total"] as const) {
    const rollup = rollUp(samples, kind, fiveMinutesMs, 0, 2 * hourMs);
    const block = writeRollupBlock(rollup);
    expect(plain(readRollupBlock(block))).toEqual(plain(rollup));
    for (let length = 0; length < block.length; length++) expect(() => readRollupBlock(block.subarray(0, length))).toThrow(/^byte \d+: /);
    expect(() => readRollupBlock(Uint8Array.of(...block, 1))).toThrow(BlockError);
  }
  const empty = rollUp(column(), "level", fiveMinutesMs, 0, hourMs) as LevelRollup;
  expect(readRollupBlock(writeRollupBlock(empty)).startMs.length).toBe(0);
});
