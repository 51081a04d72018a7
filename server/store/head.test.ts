import { describe, expect, test } from "vitest";
import { absentHigh, absentLow } from "../../core/chunk/row-block.ts";
import { doubleOf } from "../../core/chunk/testing/doubles.ts";
import type { Column } from "../../core/series/batch.ts";
import { batchOf } from "../../core/series/batch.ts";
import { column } from "../../core/testing/column.ts";
import { seeded } from "../../core/testing/random.ts";
import { Head } from "./head.ts";
import { columnsOfSnapshot, subSnapshot } from "./head-snapshot.ts";
import { slotMs, slotOf } from "./slots.ts";

const start = 10 * slotMs;
const at = (second: number) => start + second * 1000;
const shifted = (...pairs: readonly (readonly [number, number])[]) =>
  column(...pairs.map(([second, value]) => [start / 1000 + second, value] as const));

const read = (head: Head, id: number, fromMs = 0, toMs = 1e15) => head.read([id], fromMs, toMs)[0] as Column;

describe("the head", () => {
  test("gives samples in ascending time whatever the order of writing, across slots, half-open", () => {
    const head = new Head(0);
    head.put(
      batchOf([
        [1, at(50), 5],
        [1, at(10), 1],
        [1, at(30), 3],
        [1, at(7300), 9],
        [2, at(20), 2],
        [1, at(30), 33],
      ]),
    );
    expect(read(head, 1)).toEqual(shifted([10, 1], [30, 33], [50, 5], [7300, 9]));
    expect(read(head, 1, at(30), at(7300))).toEqual(shifted([30, 33], [50, 5]));
    expect(read(head, 3)).toEqual(column());
    expect(head.slots).toEqual([10, 11]);
    expect(head.lastTimeMs(1)).toBe(at(7300));
    expect(head.lastTimeMs(3)).toBeUndefined();
  });
  test("grows to many samples", () => {
    const head = new Head(0);
    head.put(batchOf(Array.from({ length: 1000 }, (_, i) => [1, at(i), i] as const)));
    expect([...read(head, 1).value]).toEqual(Array.from({ length: 1000 }, (_, i) => i));
  });
  test("what it gives is a copy: later writes do not change it", () => {
    const head = new Head(0);
    head.put(batchOf([[1, at(1), 1]]));
    const before = read(head, 1);
    head.put(batchOf([[1, at(1), 2]]));
    expect([...before.value]).toEqual([1]);
  });
  test("dropping a slot forgets it and says from when on all is held", () => {
    const head = new Head(Number.NEGATIVE_INFINITY);
    head.put(
      batchOf([
        [1, at(1), 1],
        [1, at(7300), 2],
      ]),
    );
    head.drop(10);
    expect(head.completeFromMs).toBe(start + slotMs);
    expect(read(head, 1)).toEqual(shifted([7300, 2]));
    expect([...head.perMinute.keys()]).toEqual([Math.floor(at(7300) / 60_000)]);
  });
});

test("slots are two hours of UTC", () => {
  expect(slotOf(Date.UTC(2026, 10, 23, 15, 59, 59)) * slotMs).toBe(Date.UTC(2026, 10, 23, 14));
});

test.each([
  ["plain", 64e6],
  ["packed", 0],
])(
  "answers of sources, late, doubled, odd and partial, against a plain map; row blocks are %s (seed 21)",
  (_form, mostPlainBytes) => {
    const random = seeded(21);
    const head = new Head(0, mostPlainBytes);
    const expected = new Map<string, number>();
    // Three sources of 40 series; now and then a part of an answer, one out of its time, one with odd numbers.
    for (let round = 0; round < 900; round++) {
      const source = round % 3;
      const late = random() < 0.05 ? Math.floor(random() * 3000) : 0;
      const time = start + Math.floor(round / 3) * 5000 + source - late * 5000;
      const share = random() < 0.1 ? random() : 1;
      const rows: [number, number, number][] = [];
      for (let k = 0; k < 40; k++) {
        if (random() >= share) continue;
        rows.push([
          source * 40 + k,
          time,
          random() < 0.001 ? Number.NaN : random() < 0.001 ? absent : Math.floor(random() * 1000),
        ]);
      }
      if (random() < 0.02 && rows.length > 0) rows.push(rows[0] as [number, number, number]);
      head.put(batchOf(rows));
      for (const [id, at, value] of rows) expected.set(`${id} ${at}`, value);
    }
    const ids = Array.from({ length: 120 }, (_, id) => id);
    const whole = head.read(ids, 0, 1e15);
    expectSame(whole, ids, expected, 0, 1e15);
    expectSame(head.read(ids, at(300), at(777)), ids, expected, at(300), at(777));
    const snapshot = head.snapshot(ids, 0, 1e15);
    expectSame(columnsOfSnapshot(subSnapshot(snapshot, 35, 90), 0, 1e15), ids.slice(35, 90), expected, 0, 1e15);
  },
);

const absent = doubleOf((BigInt(absentHigh) << 32n) | BigInt(absentLow));

function expectSame(
  columns: readonly Column[],
  ids: readonly number[],
  expected: ReadonlyMap<string, number>,
  fromMs: number,
  toMs: number,
): void {
  const found = new Map<string, number>();
  columns.forEach((column, i) => {
    column.timeMs.forEach((time, k) => {
      expect(k === 0 || time > (column.timeMs[k - 1] as number)).toBe(true);
      found.set(`${ids[i]} ${time}`, column.value[k] as number);
    });
  });
  const wanted = [...expected].filter(([key]) => {
    const [id, time] = key.split(" ").map(Number) as [number, number];
    return ids.includes(id) && time >= fromMs && time < toMs;
  });
  expect(new Map([...found].sort())).toEqual(new Map(wanted.sort()));
}

describe("compaction's share", () => {
  test("is all of a slot first, what changed since afterwards, and what failed again", () => {
    const head = new Head(0);
    head.put(
      batchOf([
        [1, at(1), 1],
        [2, at(1), 2],
      ]),
    );
    const first = head.takeSlot(10);
    expect([...first.ids]).toEqual([1, 2]);
    expect(head.isChanged(10)).toBe(false);
    head.put(batchOf([[2, at(2), 3]]));
    expect([...head.takeSlot(10).ids]).toEqual([2]);
    first.restore();
    expect([...head.takeSlot(10).ids]).toEqual([1, 2]);
    expect(head.takeSlot(99).ids.length).toBe(0);
  });
});
