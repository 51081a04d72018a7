import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { type Batch, batchOf, batchOfRuns } from "../series/batch.ts";
import { seeded } from "../testing/random.ts";
import { BlockError } from "./cursor.ts";
import { JournalSegmentReader, JournalSegmentWriter } from "./journal-block.ts";
import { anyDouble, bitsOf } from "./testing/doubles.ts";

const plain = (batch: Batch) => ({ series: [...batch.series], times: [...batch.timeMs], values: bitsOf(batch.value) });

test("a segment gives back its batches in their order, duplicates included (property)", () => {
  const row = fc.tuple(fc.integer({ min: 0, max: 300 }), fc.constantFrom(1000, 2000, 1.7e12, 0), anyDouble);
  fc.assert(
    fc.property(fc.array(fc.array(row, { maxLength: 40 }), { maxLength: 6 }), (lists) => {
      const writer = new JournalSegmentWriter();
      const reader = new JournalSegmentReader();
      for (const list of lists) {
        const batch = batchOf(list);
        expect(plain(batchOfRuns(reader.read(writer.write(batch))))).toEqual(plain(batch));
      }
    }),
    { numRuns: 500, seed: 2 },
  );
});

test("answers of sources that take turns cost a byte or two a value, their ids nothing", () => {
  const writer = new JournalSegmentWriter();
  const reader = new JournalSegmentReader();
  const random = seeded(5);
  const totals = new Float64Array(300);
  let bytes = 0;
  let samples = 0;
  for (let round = 0; round < 60; round++) {
    const rows: [number, number, number][] = [];
    for (const source of [0, 1, 2]) {
      for (let k = 0; k < 100; k++) {
        const id = source * 100 + k;
        totals[id] = (totals[id] as number) + Math.floor(random() * 20);
        rows.push([id + 1, 1.7e12 + round * 5000 + source, totals[id] as number]);
      }
    }
    const batch = batchOf(rows);
    const block = writer.write(batch);
    expect(plain(batchOfRuns(reader.read(block)))).toEqual(plain(batch));
    if (round > 0) {
      bytes += block.length;
      samples += batch.length;
    }
  }
  expect(bytes / samples).toBeLessThan(1.7);
});

test("more lists of ids than a segment remembers", () => {
  const writer = new JournalSegmentWriter();
  const reader = new JournalSegmentReader();
  for (let i = 0; i < 700; i++) {
    const batch = batchOf([
      [i % 300, 1000, i],
      [(i * 7) % 300, 1000, i / 8],
    ]);
    expect(plain(batchOfRuns(reader.read(writer.write(batch))))).toEqual(plain(batch));
  }
});

describe("a damaged block", () => {
  const block = new JournalSegmentWriter().write(
    batchOf([
      [1, 1000, 0.1],
      [2, 1000, 2],
      [3, 2000, 3.25],
      [3, 3000, Math.PI],
    ]),
  );
  const read = (bytes: Uint8Array) => new JournalSegmentReader().read(bytes);
  test("cut short anywhere: an error with the position", () => {
    for (let length = 0; length < block.length; length++)
      expect(() => read(block.subarray(0, length)), `${length} bytes`).toThrow(/^byte \d+: /);
  });
  test("with bytes too many, of another version, or claiming too much", () => {
    expect(() => read(Uint8Array.of(...block, 0))).toThrow("1 bytes too many");
    expect(() => read(Uint8Array.of(1, ...block.subarray(1)))).toThrow("byte 0: version 1 is not known, 2 is");
    expect(() => read(Uint8Array.of(2, 0xff, 0xff, 0xff, 0xff, 0xff, 0x0f, 1, 2, 3))).toThrow(
      /entries are claimed, 3 bytes remain/,
    );
  });
  test("read without the block before it, where it leans on a list in that", () => {
    const writer = new JournalSegmentWriter();
    const batch = batchOf([
      [1, 1000, 1],
      [2, 1000, 2],
    ]);
    writer.write(batch);
    expect(() => read(writer.write(batch))).toThrow("the list of ids 1 has not been read in this segment");
  });
  test("with bits turned over at random (seed 7): an error of ours or other values, never a crash", () => {
    const random = seeded(7);
    for (let i = 0; i < 20_000; i++) {
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
