import { describe, expect, test } from "vitest";
import { batchOf } from "../../core/series/batch.ts";
import { column } from "../../core/testing/column.ts";
import { Head } from "./head.ts";
import { partitionStatement, slotMs, slotOf } from "./slots.ts";

const start = 10 * slotMs;
const at = (second: number) => start + second * 1000;
const shifted = (...pairs: readonly (readonly [number, number])[]) => column(...pairs.map(([second, value]) => [start / 1000 + second, value] as const));

describe("the head", () => {
  test("gives samples in ascending time whatever the order of writing, across slots, half-open", () => {
    const head = new Head(0);
    head.put(batchOf([[1, at(50), 5], [1, at(10), 1], [1, at(30), 3], [1, at(7300), 9], [2, at(20), 2], [1, at(30), 33]]));
    expect(head.read(1, 0, 1e15)).toEqual(shifted([10, 1], [30, 33], [50, 5], [7300, 9]));
    expect(head.read(1, at(30), at(7300))).toEqual(shifted([30, 33], [50, 5]));
    expect(head.read(3, 0, 1e15)).toEqual(column());
    expect(head.slots).toEqual([start, start + slotMs]);
    expect(head.lastTimeMs(1)).toBe(at(7300));
    expect(head.lastTimeMs(3)).toBeUndefined();
  });
  test("grows to many samples", () => {
    const head = new Head(0);
    head.put(batchOf(Array.from({ length: 1000 }, (_, i) => [1, at(i), i] as const)));
    expect([...head.read(1, 0, 1e15).value]).toEqual(Array.from({ length: 1000 }, (_, i) => i));
  });
  test("what it gives is a copy: later writes do not change it", () => {
    const head = new Head(0);
    head.put(batchOf([[1, at(1), 1]]));
    const before = head.read(1, 0, 1e15);
    head.put(batchOf([[1, at(1), 2]]));
    expect([...before.value]).toEqual([1]);
  });
  test("dropping a slot forgets it and says from when on all is held", () => {
    const head = new Head(Number.NEGATIVE_INFINITY);
    head.put(batchOf([[1, at(1), 1], [1, at(7300), 2]]));
    head.drop(start);
    expect(head.completeFromMs).toBe(start + slotMs);
    expect(head.read(1, 0, 1e15)).toEqual(shifted([7300, 2]));
    expect([...head.perMinute.keys()]).toEqual([Math.floor(at(7300) / 60_000)]);
  });
});

test("slots are two hours, partitions UTC days", () => {
  expect(slotOf(Date.UTC(2026, 10, 23, 15, 59, 59))).toBe(Date.UTC(2026, 10, 23, 14));
  expect(partitionStatement(Date.UTC(1970, 0, 3, 22))).toBe("create table if not exists chunk_day_2 partition of chunk for values from (172800000) to (259200000)");
});
