import fc from "fast-check";
import { describe, expect, test } from "vitest";
import type { Column } from "../series/batch.ts";
import { seeded } from "../testing/random.ts";
import {
  chunkCount,
  readChunkBlock,
  readChunkInto,
  readChunkSummary,
  readTimesBlock,
  writeChunkBlock,
  writeTimesBlock,
} from "./chunk-block.ts";
import { BlockError } from "./cursor.ts";
import { anyDouble, bitsOf, doubleOf } from "./testing/doubles.ts";

const columnOf = (values: ArrayLike<number>, everyMs = 15_000): Column => ({
  timeMs: Float64Array.from(values, (_, i) => 1.7e12 + i * everyMs),
  value: Float64Array.from(values),
});
const expectSame = (found: Column, expected: Column) => {
  expect([...found.timeMs]).toEqual([...expected.timeMs]);
  expect(bitsOf(found.value)).toEqual(bitsOf(expected.value));
};
const columns: fc.Arbitrary<Column> = fc
  .array(fc.tuple(fc.integer({ min: 0, max: 4e12 }), anyDouble), { maxLength: 80 })
  .map((rows) => [...new Map(rows)].sort((a, b) => a[0] - b[0]))
  .map((rows) => ({
    timeMs: Float64Array.from(rows, ([time]) => time),
    value: Float64Array.from(rows, ([, value]) => value),
  }));

describe("a chunk", () => {
  test("gives back every bit of what was written, its times inside or shared (property)", () => {
    fc.assert(
      fc.property(columns, (column) => {
        expectSame(readChunkBlock(writeChunkBlock(column)), column);
        const times = readTimesBlock(writeTimesBlock(column.timeMs));
        expectSame(readChunkBlock(writeChunkBlock(column, true), times), column);
      }),
      { numRuns: 1000, seed: 1 },
    );
  });

  // Mostly of one kind with odd ones between: the ways that planes, patches, decimals and shifts are chosen.
  const habits: Readonly<Record<string, (random: () => number, i: number) => number>> = {
    "whole numbers, one in forty NaN": (random, i) => (i % 40 === 7 ? Number.NaN : Math.floor(random() * 1000)),
    "NaN first": (random, i) => (i === 0 ? Number.NaN : 1e12 + Math.floor(random() * 10)),
    "−0 among zeros": (random) => (random() < 0.02 ? -0 : 0),
    "two decimals": (random) => Math.round(random() * 10_000) / 100,
    "nine decimals": (random) => Math.round(random() * 1e9) / 1e9,
    pages: (random) => 8192 + Math.floor(random() * 1e5) * 4096,
    "halves of words": (random) => Math.fround(random()),
    "full precision": (random) => random() * 1e-300,
    subnormals: (random) => random() * 1e-310,
    "any pattern": (random) =>
      doubleOf((BigInt(Math.floor(random() * 2 ** 32)) << 32n) | BigInt(Math.floor(random() * 2 ** 32))),
    "wide jumps": (random) => Math.floor((random() - 0.5) * 2 ** 50),
  };
  test.each(Object.entries(habits))("of %s comes back", (_name, habit) => {
    const random = seeded(9);
    for (const length of [1, 2, 31, 32, 33, 480]) {
      const column = columnOf(Array.from({ length }, (_, i) => habit(random, i)));
      expectSame(readChunkBlock(writeChunkBlock(column)), column);
    }
  });

  test("of a NaN with a payload keeps the payload, constant or not", () => {
    const payload = new Float64Array(
      new BigUint64Array([0x7ff8_0000_dead_beefn, 0x7ff8_0000_dead_beefn, 0xfff0_0000_0000_0001n]).buffer,
    );
    for (const length of [1, 2, 3]) {
      const column = { timeMs: Float64Array.of(1, 2, 3).subarray(0, length), value: payload.subarray(0, length) };
      expectSame(readChunkBlock(writeChunkBlock(column)), column);
    }
  });

  test("is small: regular times, constants and steady growth cost next to nothing", () => {
    expect(writeChunkBlock(columnOf(new Array(480).fill(42.5))).length).toBeLessThan(50);
    expect(writeChunkBlock(columnOf(Array.from({ length: 480 }, (_, i) => 1e9 + i * 50))).length).toBeLessThan(65);
    expect(writeChunkBlock(columnOf(Array.from({ length: 480 }, (_, i) => 3.5 + (i % 2) / 10))).length).toBeLessThan(
      480 / 8 + 60,
    );
  });

  test("tells its summary without its values being decoded: a block cut after it will do", () => {
    const block = writeChunkBlock(columnOf([3, Number.NaN, -1.5, 10, 4.25]));
    const expected = { count: 5, numbers: 4, sum: 15.75, min: -1.5, max: 10, first: 3, last: 4.25 };
    expect(readChunkSummary(block)).toEqual(expected);
    expect(readChunkSummary(block.subarray(0, 22))).toEqual(expected);
    expect(() => readChunkBlock(block.subarray(0, 22))).toThrow(BlockError);
    expect(readChunkSummary(writeChunkBlock(columnOf([7, 7])))).toEqual({
      count: 2,
      numbers: 2,
      sum: 14,
      min: 7,
      max: 7,
      first: 7,
      last: 7,
    });
    expect(readChunkSummary(writeChunkBlock(columnOf([Number.NaN])))).toMatchObject({ count: 1, numbers: 0 });
    expect(readChunkSummary(writeChunkBlock(columnOf([])))).toMatchObject({ count: 0, numbers: 0 });
  });

  test("sums with compensation: ten million and ten tenths", () => {
    expect(readChunkSummary(writeChunkBlock(columnOf([1e16, ...new Array(10).fill(0.1), -1e16]))).sum).toBeCloseTo(
      1,
      12,
    );
  });

  test("goes into arrays of the caller; too little room and missing times are told", () => {
    const block = writeChunkBlock(columnOf([1, 2, 3]));
    const into = new Float64Array(5).fill(-1);
    const times = new Float64Array(5);
    expect(readChunkInto(block, 0, block.length, undefined, times, into, 1)).toBe(3);
    expect([...into]).toEqual([-1, 1, 2, 3, -1]);
    expect(() => readChunkInto(block, 0, block.length, undefined, times, into, 3)).toThrow(
      "byte 1: 3 samples are claimed, there is room for 2",
    );
    const shared = writeChunkBlock(columnOf([1, 2, 3]), true);
    expect(() => readChunkBlock(shared)).toThrow("the block shares its times, but 0 are given for 3 samples");
    expect(chunkCount(shared)).toBe(3);
  });
});

const blocks: Readonly<Record<string, Uint8Array>> = {
  "whole numbers": writeChunkBlock(columnOf(Array.from({ length: 70 }, (_, i) => i * i))),
  decimals: writeChunkBlock(
    columnOf(
      Array.from({ length: 70 }, (_, i) => Math.round(Math.sin(i) * 1e4) / 100),
      15_001,
    ),
  ),
  floats: writeChunkBlock({ timeMs: Float64Array.of(1, 20, 300), value: Float64Array.of(Math.PI, Math.E, Math.SQRT2) }),
  pages: writeChunkBlock(columnOf(Array.from({ length: 40 }, (_, i) => ((i * 37) % 11) * 4096 + 5))),
  patched: writeChunkBlock(columnOf(Array.from({ length: 70 }, (_, i) => (i === 5 ? Number.NaN : i)))),
  "rare changes": writeChunkBlock(columnOf(Array.from({ length: 70 }, (_, i) => (i < 40 ? 1 : 1e9)))),
  constant: writeChunkBlock(columnOf([7, 7])),
};

describe.each(Object.entries(blocks))("a damaged chunk of %s", (_name, block) => {
  test("cut short anywhere: an error with the position", () => {
    for (let length = 0; length < block.length; length++)
      expect(() => readChunkBlock(block.subarray(0, length)), `${length} bytes`).toThrow(/^byte \d+: /);
  });
  test("with bytes too many, or of another version", () => {
    expect(() => readChunkBlock(Uint8Array.of(...block, 0))).toThrow("1 bytes too many");
    expect(() => readChunkBlock(Uint8Array.of(9, ...block.subarray(1)))).toThrow(
      "byte 0: version 9 is not known, 2 is",
    );
  });
});

test("a block that claims billions of entries allocates nothing", () => {
  expect(() => readChunkBlock(Uint8Array.of(2, 0xff, 0xff, 0xff, 0xff, 0xff, 0x0f, 1, 2, 3))).toThrow(
    /entries are claimed, 3 bytes remain/,
  );
});

test("100,000 blocks with bits and bytes turned over (seed 7): other values or an error of ours, never a crash, a hang or a large allocation", () => {
  const random = seeded(7);
  const originals = Object.values(blocks);
  const times = new Float64Array(2000);
  const values = new Float64Array(2000);
  let refused = 0;
  for (let i = 0; i < 100_000; i++) {
    const broken = (originals[i % originals.length] as Uint8Array).slice();
    for (let k = 1 + Math.floor(random() * 3); k > 0; k--) {
      const at = Math.floor(random() * broken.length);
      broken[at] =
        random() < 0.5 ? (broken[at] as number) ^ (1 << Math.floor(random() * 8)) : Math.floor(random() * 256);
    }
    const length = random() < 0.2 ? Math.floor(random() * broken.length) : broken.length;
    try {
      readChunkInto(broken, 0, length, undefined, times, values, 0);
    } catch (error) {
      if (!(error instanceof BlockError)) throw error;
      refused++;
    }
  }
  expect(refused).toBeGreaterThan(20_000);
});
