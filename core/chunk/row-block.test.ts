import { expect, test } from "vitest";
import { seeded } from "../testing/random.ts";
import {
  absentHigh,
  absentLow,
  packRowBlock,
  plainRowBlock,
  readRowBlockLane,
  readRowBlockTimes,
  viewRowBlock,
} from "./row-block.ts";
import { bitsOf, doubleOf } from "./testing/doubles.ts";

const absent = doubleOf((BigInt(absentHigh) << 32n) | BigInt(absentLow));

test.each(["plain", "packed"])(
  "lanes of a %s row block come back one by one, with the rows that they have (seed 12)",
  (form) => {
    const random = seeded(12);
    const rows = 61;
    const share = [1, 0, 0.5, 0.1, 0.98, 1, 1, 0.2, 1, 0.7, 1];
    const matrix = new Float64Array(share.length * rows);
    const placeOf = (lane: number, row: number) => row * share.length + lane;
    const words = new Uint32Array(matrix.buffer);
    share.forEach((present, lane) => {
      for (let i = 0; i < rows; i++) {
        if (random() < present) matrix[placeOf(lane, i)] = lane === 3 ? random() : Math.floor(random() * 1000);
        else {
          words[2 * placeOf(lane, i)] = absentLow;
          words[2 * placeOf(lane, i) + 1] = absentHigh;
        }
      }
    });
    const times = Float64Array.from({ length: rows + 3 }, (_, i) => 1.7e12 + i * 5000);
    const rowBlock = viewRowBlock(
      form === "packed"
        ? packRowBlock(plainRowBlock(times, rows, matrix, share.length))
        : plainRowBlock(times, rows, matrix, share.length),
    );
    expect(rowBlock.bytes.buffer).toBeInstanceOf(SharedArrayBuffer);
    expect(rowBlock.rows).toBe(rows);
    const time = new Float64Array(rows + 1);
    readRowBlockTimes(rowBlock, time, 1);
    expect([...time.subarray(1)]).toEqual([...times.subarray(0, rows)]);
    const places = new Uint16Array(64);
    share.forEach((_, lane) => {
      const value = new Float64Array(rows);
      const count = readRowBlockLane(rowBlock, lane, value, 0, places);
      const expected = Array.from({ length: rows }, (_, i) => [i, matrix[placeOf(lane, i)] as number] as const).filter(
        ([i]) =>
          bitsOf(matrix.subarray(placeOf(lane, i), placeOf(lane, i) + 1))[0] !== bitsOf(Float64Array.of(absent))[0],
      );
      expect([...value.subarray(0, count)]).toEqual(expected.map(([, v]) => v));
      if (count < rows) expect([...places.subarray(0, count)]).toEqual(expected.map(([i]) => i));
    });
    expect(() => readRowBlockLane(rowBlock, share.length, new Float64Array(64), 0, places)).toThrow(
      "the row block has no lane 11",
    );
  },
);
