import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { batchOf, type Column } from "../series/batch.ts";
import { seeded } from "../testing/random.ts";
import { readChunkBlock, writeChunkBlock } from "./chunk-block.ts";
import { BlockError } from "./cursor.ts";
import { readJournalBlock, writeJournalBlock } from "./journal-block.ts";

/** The bits of a column: −0, 0 and every NaN are different. */
const bits = (column: { timeMs: Float64Array; value: Float64Array }) => ({ times: [...column.timeMs], values: [...new BigUint64Array(column.value.slice().buffer)] });

const anyDouble = fc.oneof(
  fc.double(),
  fc.integer(),
  fc.bigInt({ min: 0n, max: 2n ** 64n - 1n }).map((pattern) => new Float64Array(new BigUint64Array([pattern]).buffer)[0] as number),
  fc.constantFrom(0, -0, Number.NaN, Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY, 5e-324, 2 ** 53, -(2 ** 53), 2 ** 50, 2 ** 50 + 1),
);
const columns: fc.Arbitrary<Column> = fc
  .array(fc.tuple(fc.integer({ min: 0, max: 4e12 }), anyDouble), { maxLength: 60 })
  .map((rows) => new Map(rows))
  .map((rows) => [...rows].sort((a, b) => a[0] - b[0]))
  .map((rows) => ({ timeMs: Float64Array.from(rows, ([time]) => time), value: Float64Array.from(rows, ([, value]) => value) }));

describe("chunk blocks", () => {
  test("give back every bit of what was written (property)", () => {
    fc.assert(fc.property(columns, (column) => {
        expect(bits(readChunkBlock(writeChunkBlock(column)))).toEqual(bits(column));
      }), { numRuns: 400 });
  });
  test("of a NaN with a payload keep the payload, constant or not", () => {
    const payload = new Float64Array(new BigUint64Array([0x7ff8_0000_dead_beefn, 0x7ff8_0000_dead_beefn, 0xfff0_0000_0000_0001n]).buffer);
    for (const length of [2, 3]) {
      const column = { timeMs: Float64Array.of(1, 2, 3).subarray(0, length), value: payload.subarray(0, length) };
      expect(bits(readChunkBlock(writeChunkBlock(column)))).toEqual(bits(column));
    }
  });
  test("are small: regular times cost a byte a sample, a constant nothing, slowly growing integers a byte or two", () => {
    const regular = Float64Array.from({ length: 480 }, (_, i) => 1.7e12 + i * 15_000);
    expect(writeChunkBlock({ timeMs: regular, value: new Float64Array(480).fill(42.5) }).length).toBeLessThan(480 + 30);
    expect(writeChunkBlock({ timeMs: regular, value: Float64Array.from({ length: 480 }, (_, i) => 1e9 + i * 50) }).length).toBeLessThan(480 * 2 + 30);
  });
});

describe("journal blocks", () => {
  test("give back rows in their order, duplicates included (property)", () => {
    const rows = fc.array(fc.tuple(fc.integer({ min: 0, max: 2 ** 32 - 1 }), fc.constantFrom(1000, 2000, 1.7e12, 0.5), anyDouble), { maxLength: 80 });
    fc.assert(
      fc.property(rows, (list) => {
        const batch = batchOf(list);
        const back = readJournalBlock(writeJournalBlock(batch));
        expect([...back.series]).toEqual([...batch.series]);
        expect(bits(back)).toEqual(bits(batch));
      }),
      { numRuns: 300 },
    );
  });
});

const samples: readonly (readonly [string, Uint8Array, (bytes: Uint8Array) => unknown])[] = [
  ["journal", writeJournalBlock(batchOf([[1, 1000, 0.1], [2, 1000, 2], [3, 2000, 3]])), readJournalBlock],
  ["chunk of floats", writeChunkBlock({ timeMs: Float64Array.of(1, 2, 3), value: Float64Array.of(0.1, 0.2, 0.3) }), readChunkBlock],
  ["chunk of integers", writeChunkBlock({ timeMs: Float64Array.of(1, 2, 3), value: Float64Array.of(1, 2, 300) }), readChunkBlock],
  ["chunk of one value", writeChunkBlock({ timeMs: Float64Array.of(1, 2), value: Float64Array.of(7, 7) }), readChunkBlock],
];

describe.each(samples)("a damaged %s", (_name, block, read) => {
  test("cut short anywhere: an error with the position", () => {
    for (let length = 0; length < block.length; length++) expect(() => read(block.subarray(0, length)), `${length} bytes`).toThrow(/^byte \d+: /);
  });
  test("with bytes too many", () => {
    expect(() => read(Uint8Array.of(...block, 0))).toThrow("1 bytes too many");
  });
  test("of another version", () => {
    expect(() => read(Uint8Array.of(9, ...block.subarray(1)))).toThrow("byte 0: version 9 is not known, 1 is");
  });
  test("that claims billions of entries allocates nothing", () => {
    expect(() => read(Uint8Array.of(1, 0xff, 0xff, 0xff, 0xff, 0xff, 0x0f, 1, 2, 3))).toThrow(/entries are claimed, 3 bytes remain/);
  });
  test("with bits turned over at random (seed 7): an error of ours or other values, never a crash", () => {
    const random = seeded(7);
    for (let i = 0; i < 3000; i++) {
      const broken = block.slice();
      const at = Math.floor(random() * broken.length);
      broken[at] = (broken[at] as number) ^ (1 << Math.floor(random() * 8));
      try {
        read(broken);
      } catch (error) {
        expect(error).toBeInstanceOf(BlockError);
      }
    }
  });
});
