import { describe, expect, test } from "vitest";
import { readRollupBlock, writeRollupBlock } from "../chunk/rollup-block.ts";
import { BlockError } from "../chunk/cursor.ts";
import { column } from "../testing/column.ts";
import { seeded } from "../testing/random.ts";
import { SeriesReducer } from "../reading/reduce.ts";
import { fiveMinutesMs, hourMs, type LevelRollup, rollUp, rollUpFurther, type TotalRollup } from "./rollup.ts";

const firstLevel =
  "010002c200c0cf240007010000c004010107010000c00c020c07010000c002020c0801000106c00001020801000106c0000102";
const firstTotal =
  "010102c200c0cf240007010000c004010108010000c43c01040908010000c44601051d0c010006c0cf24c400010d69181703000099b3a6fd0316000000000008001d808080800a000900000000a09999c93f08010000c45001051d";
const bytesOf = (hex: string) => Uint8Array.from(hex.match(/../g) ?? [], (pair) => Number.parseInt(pair, 16));
const plain = (rollup: object) =>
  Object.fromEntries(
    Object.entries(rollup).map(([name, plane]) => [name, plane instanceof Float64Array ? [...plane] : plane]),
  );

describe("levels", () => {
  test("by hand: NaN, infinities and what lies outside are left out, empty buckets are not there; what holds is weighted by for how long", () => {
    // The usual distance is 100 s: each value holds for 300 s at most.
    const found = rollUp(
      column(
        [-1, 99],
        [0, 5],
        [100, Number.NaN],
        [101, Number.POSITIVE_INFINITY],
        [200, 2],
        [299, 8],
        [900, 4],
        [1200, 88],
      ),
      "level",
      fiveMinutesMs,
      0,
      1_200_000,
    );
    expect(plain(found)).toEqual({
      kind: "level",
      startMs: [0, 900_000],
      firstMs: [0, 900_000],
      lastMs: [299_000, 900_000],
      count: [3, 1],
      infinite: [1, 0],
      sum: [15, 4],
      integral: [5 * 200_000 + 2 * 99_000, 0],
      coveredMs: [299_000, 0],
      min: [2, 4],
      max: [8, 4],
      last: [8, 4],
    });
  });
});

describe("totals", () => {
  test("by hand: a bucket says how it grew from its first sample to its last; a restart counts from 0", () => {
    const found = rollUp(
      column([50, 100], [150, 120], [250, 140], [350, 180], [450, 10], [550, 20], [650, 50]),
      "total",
      fiveMinutesMs,
      0,
      600_000,
    );
    expect(plain(found)).toEqual({
      kind: "total",
      startMs: [0, 300_000],
      firstMs: [50_000, 350_000],
      lastMs: [250_000, 550_000],
      count: [3, 3],
      first: [100, 180],
      last: [140, 20],
      infinite: [0, 0],
      grown: [40, 20],
      gapMs: [0, 0],
      gapGrown: [0, 0],
      slowest: [Math.fround(0.2), Math.fround(0.1)],
      fastest: [Math.fround(0.2), Math.fround(0.1)],
    });
  });
  test("growth over a silence inside a bucket is told apart: it counts, but is no rate", () => {
    const samples = column([0, 0], [10, 10], [20, 20], [30, 30], [200, 500], [210, 510]);
    const found = rollUp(samples, "total", fiveMinutesMs, 0, 300_000) as TotalRollup;
    expect(plain(found)).toMatchObject({ startMs: [0], grown: [510], gapMs: [170_000], gapGrown: [470], fastest: [1] });
  });
});

describe("further", () => {
  test.each(["level", "total"] as const)(
    "hours out of five minutes are the hours out of samples: %s (seed 6)",
    (kind) => {
      const random = seeded(6);
      let total = 0;
      const samples = column(
        ...Array.from({ length: 4000 }, (_, i) => {
          total += Math.floor(random() * 100);
          if (random() < 0.001) total = 0;
          return [
            i * 10 + Math.floor(random() * 3),
            kind === "total" ? total : Math.round(random() * 1e4) / 100,
          ] as const;
        }),
      );
      const fine = [0, 1, 2, 3].map((part) =>
        rollUp(samples, kind, fiveMinutesMs, part * 3 * hourMs, (part + 1) * 3 * hourMs),
      );
      const coarse = rollUpFurther(fine, kind, hourMs, 0, 12 * hourMs);
      const direct = rollUp(samples, kind, hourMs, 0, 12 * hourMs);
      for (const [name, plane] of Object.entries(direct)) {
        if (!(plane instanceof Float64Array)) continue;
        const found = (coarse as unknown as Record<string, Float64Array>)[name] as Float64Array;
        expect(found.length, name).toBe(plane.length);
        for (let i = 0; i < plane.length; i++)
          expect(
            found[i] === plane[i] ? 1 : (found[i] as number) / (plane[i] as number) || 1,
            `${name} ${i}`,
          ).toBeCloseTo(1, 6);
      }
    },
  );
});

test("blocks give back every plane, integrals to six digits; damaged ones are refused with the position", () => {
  const random = seeded(8);
  const samples = column(
    ...Array.from(
      { length: 500 },
      (_, i) => [i * 15 + (i === 200 ? 4 : 0), i === 300 ? 0 : Math.round(random() * 100)] as const,
    ),
  );
  for (const kind of ["level", "total"] as const) {
    const rollup = rollUp(samples, kind, fiveMinutesMs, 0, 3 * hourMs);
    const block = writeRollupBlock(rollup);
    const found = plain(readRollupBlock(block));
    for (const [name, plane] of Object.entries(plain(rollup))) {
      if (name !== "integral") expect(found[name], name).toEqual(plane);
      else
        for (const [i, v] of (plane as number[]).entries())
          expect(((found[name] as number[])[i] as number) / v || 1).toBeCloseTo(1, 4);
    }
    for (let length = 0; length < block.length; length++)
      expect(() => readRollupBlock(block.subarray(0, length))).toThrow(/^byte \d+: /);
    expect(() => readRollupBlock(Uint8Array.of(...block, 1))).toThrow(BlockError);
    const some = readRollupBlock(block, 0, block.length, new Set(["firstMs", "lastMs", "count", "last"]));
    expect([some.firstMs, some.last]).toEqual([rollup.firstMs, rollup.last]);
  }
  const empty = rollUp(column(), "level", fiveMinutesMs, 0, hourMs) as LevelRollup;
  expect(readRollupBlock(writeRollupBlock(empty)).startMs.length).toBe(0);
});

describe("blocks of the first version are still read", () => {
  // Written by the version before this one, of samples every 100 s from 0: levels 1, 2, 3, 4, 5; totals 10, 20, 40, 5
  // (restarted), 25.
  const level = bytesOf(firstLevel);
  const total = bytesOf(firstTotal);
  test("a level's mean fills its bucket", () => {
    expect(plain(readRollupBlock(level))).toMatchObject({
      startMs: [0, 300_000],
      firstMs: [0, 300_000],
      lastMs: [300_000, 600_000],
      integral: [2 * 300_000, 4.5 * 300_000],
      coveredMs: [300_000, 300_000],
      count: [3, 2],
      min: [1, 4],
      max: [3, 5],
      last: [3, 5],
    });
  });
  test("a total's growth is conserved", () => {
    const found = readRollupBlock(total);
    expect(plain(found)).toMatchObject({ startMs: [0, 300_000], first: [10, 0], last: [40, 25], grown: [30, 25] });
    const steps = new SeriesReducer({ fromMs: 0, stepMs: 600_000, count: 1 }).reduce([found], "increase", "sum").values;
    expect([...steps]).toEqual([55]);
  });
});
