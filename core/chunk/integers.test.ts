import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { readFileSync } from "node:fs";
import { unpackSource } from "../../scripts/generate-unpack.mjs";
import { seeded } from "../testing/random.ts";
import { BlockReader, BlockWriter } from "./cursor.ts";
import { largestInteger } from "./integers-layout.ts";
import { readIntegers } from "./read-integers.ts";
import { writeIntegers } from "./write-integers.ts";
import { unpackers } from "./unpack.ts";
import { readValues, writeValues } from "./values.ts";

function packed(ints: readonly number[]): Uint8Array {
  const out = new BlockWriter();
  writeIntegers(out, Float64Array.from(ints), ints.length);
  return out.finish();
}

function unpacked(block: Uint8Array, n: number): number[] {
  const reader = new BlockReader(block);
  const into = new Float64Array(n + 2).fill(7);
  readIntegers(reader, into, 1, n);
  reader.end();
  expect([into[0], into[n + 1]]).toEqual([7, 7]); // nothing beside its place is touched
  return [...into.subarray(1, n + 1)];
}

test("the unrolled functions are what their generator makes", () => {
  expect(readFileSync("core/chunk/unpack.ts", "utf8")).toBe(unpackSource);
});

test("every width is unpacked as a plain loop over bits would", () => {
  const random = seeded(3);
  const words = Uint32Array.from({ length: 40 }, () => random() * 2 ** 32);
  for (let width = 0; width <= 32; width++) {
    const into = new Uint32Array(34);
    unpackers[width]?.(words, 2, into, 1);
    for (let i = 0; i < 32; i++) {
      let expected = 0;
      for (let bit = 0; bit < width; bit++) {
        const at = 64 + i * width + bit;
        expected += (((words[at >>> 5] as number) >>> (at & 31)) & 1) * 2 ** bit;
      }
      expect(into[i + 1], `width ${width}, number ${i}`).toBe(expected);
    }
  }
});

const shapes: Readonly<Record<string, readonly [ints: readonly number[], mostBytes: number]>> = {
  one: [[42], 4],
  two: [[-5, 1e12], 12],
  "all equal": [new Array(480).fill(17), 4],
  rising: [Array.from({ length: 480 }, (_, i) => 1.7e12 + i * 15_000), 14],
  bending: [Array.from({ length: 480 }, (_, i) => i * i), 3 * 60 + 10],
  "changing rarely": [Array.from({ length: 480 }, (_, i) => 1e9 + Math.floor(i / 100) * 1e6), 110],
  "small noise": [Array.from({ length: 480 }, (_, i) => 5000 + ((i * 7919) % 16)), 480 / 2 + 20],
  "one spike": [Array.from({ length: 480 }, (_, i) => (i === 200 ? 1e15 : i % 4)), 480 / 4 + 250],
  "steps wider than a word": [Array.from({ length: 70 }, (_, i) => (i % 2 ? 1 : -1) * (2 ** 40 + i)), 70 * 6],
  "the largest there are": [[largestInteger, -largestInteger, largestInteger, 0, -largestInteger], 45],
};

describe.each(Object.entries(shapes))("%s", (_name, [ints, mostBytes]) => {
  test("comes back, in few bytes", () => {
    const block = packed(ints);
    expect(unpacked(block, ints.length)).toEqual(ints);
    expect(block.length).toBeLessThanOrEqual(mostBytes);
  });
});

test("any integers come back (property)", () => {
  const size = fc.constantFrom(1, 8, 31, 32, 33, 45, 50);
  const column = size.chain((bits) =>
    fc.array(
      fc.oneof(
        { weight: 9, arbitrary: fc.integer({ min: -100, max: 100 }) },
        fc.maxSafeInteger().map((n) => n % 2 ** bits),
      ),
      { minLength: 1, maxLength: 130 },
    ),
  );
  const summed = column.map((steps) => {
    let sum = 0;
    return steps.map((step) => {
      sum += step % 2 ** 43;
      return sum;
    });
  });
  fc.assert(
    fc.property(fc.oneof(column, summed), (ints) => {
      const plain = ints.map((n) => n + 0); // no −0
      expect(unpacked(packed(plain), plain.length)).toEqual(plain);
    }),
    { numRuns: 2000, seed: 4 },
  );
});

// Up to 8,192 numbers are read in memory that is always the same, more in memory of their own.
describe.each([8191, 8192, 8193, 20_000])("%d numbers", (n) => {
  const random = seeded(n);
  const summed = (next: (i: number) => number) => {
    let sum = 0;
    return Array.from({ length: n }, (_, i) => (sum += next(i)));
  };
  let slope = 0;
  const columns: Readonly<Record<string, readonly number[]>> = {
    frame: Array.from({ length: n }, () => Math.floor(random() * 1000)),
    delta: summed(() => Math.floor((random() - 0.5) * 60)),
    rise: summed(() => 1500 + Math.floor(random() * 30)),
    bend: summed(() => (slope += Math.floor((random() - 0.5) * 3))),
    changes: summed(() => (random() < 0.02 ? Math.floor((random() - 0.5) * 5000) : 0)),
    far: summed((i) => (i % 2 ? 1 : -1) * 2 ** 33),
  };
  test.each(Object.keys(columns))("of the kind %s come back, as they are, by a unit, and divided", (kind) => {
    const ints = columns[kind] as readonly number[];
    const block = packed(ints);
    expect(unpacked(block, n)).toEqual(ints);
    const into = new Float64Array(n);
    readIntegers(new BlockReader(block), into, 0, n, 5, 4096, 100);
    expect([...into]).toEqual(ints.map((v) => (5 + v * 4096) / 100));
  });
  test("of full precision come back, with a NaN of its own", () => {
    const values = Float64Array.from({ length: n }, () => (random() - 0.5) * 2 ** Math.floor(random() * 40));
    new Uint32Array(values.buffer).set([0xbeef7373, 0x7ffcdead], 14);
    const out = new BlockWriter();
    writeValues(out, values, 0, n);
    const into = new Float64Array(n + 2).fill(7);
    readValues(new BlockReader(out.finish()), into, 1, n);
    expect(new Uint32Array(into.buffer, 8, 2 * n)).toEqual(new Uint32Array(values.buffer));
    expect([into[0], into[n + 1]]).toEqual([7, 7]);
  });
});
