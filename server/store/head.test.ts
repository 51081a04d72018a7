import { describe, expect, test, vi } from "vitest";
import { absentHigh, absentLow, viewRowBlock } from "../../core/chunk/row-block.ts";
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

describe("an answer that comes late", () => {
  const answered = (head: Head, ...seconds: readonly number[]) => {
    for (const second of seconds) head.put(batchOf([1, 2, 3].map((id) => [id, at(second), second + id / 10] as const)));
  };
  const all = (seconds: readonly number[], id: number) =>
    shifted(...[...seconds].sort((a, b) => a - b).map((one) => [one, one + id / 10] as const));
  const first64 = Array.from({ length: 66 }, (_, i) => i + 1).filter((second) => second !== 5 && second !== 40);
  test.each<[string, readonly number[], readonly number[]]>([
    ["among few", [1, 2, 4, 8], [3, 5, 0.5]],
    ["among as many as there is room for", first64, [5]],
    ["before those that have been put together", [...first64, 67, 69], [40, 68, 66.5]],
  ])("%s has its place by its time", (_name, seconds, late) => {
    for (const one of late) {
      const head = new Head(0);
      answered(head, ...seconds, one);
      for (const id of [1, 2, 3]) expect(read(head, id)).toEqual(all([...seconds, one], id));
    }
  });
  test("replaces what stood at its time alone", () => {
    const head = new Head(0);
    answered(head, 1, 2, 4, 8);
    head.put(batchOf([[2, at(3), 99]]));
    answered(head, 3);
    for (const id of [1, 2, 3]) expect(read(head, id)).toEqual(all([1, 2, 3, 4, 8], id));
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
      const late = random() < 0.05 ? Math.floor(random() * (round % 2 === 0 ? 3000 : 30)) : 0;
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

test("row blocks of the last hour stand plain, those before are packed, by and by", async () => {
  vi.useFakeTimers();
  try {
    const head = new Head(0);
    for (let second = 0; second < 7200; second += 5)
      head.put(batchOf(Array.from({ length: 20 }, (_, k) => [k, at(second), second + k])));
    const blocks = () => head.snapshot([0], at(0), at(7200)).parts[0]?.rowBlocks ?? [];
    expect(blocks().every(isPlain)).toBe(true); // nobody who writes waits for it
    await vi.advanceTimersByTimeAsync(1000);
    // 22 of 64 answers each; the one that was closed last ends at 7035 s
    expect(blocks().map(isPlain)).toEqual(Array.from({ length: 22 }, (_, i) => (i + 1) * 320 - 5 >= 7035 - 3600));
    expect(blocks()[0]?.byteLength).toBeLessThan(0.2 * (blocks()[21]?.byteLength as number));
    expect(vi.getTimerCount()).toBe(0);
  } finally {
    vi.useRealTimers();
  }
});

const isPlain = (rowBlock: Uint8Array) => viewRowBlock(rowBlock).numbers !== undefined;

test("row blocks of a start are packed by and by, also while new samples come; what is read stays the same", async () => {
  const head = new Head(0, 0);
  const answer = (round: number) =>
    head.put(batchOf(Array.from({ length: 50 }, (_, k) => [k, start + round * 1000, (round * k) % 97])));
  head.packLater(64e6);
  for (let round = 0; round < 640; round++) answer(round);
  const plainBytes = head.sizeBytes;
  const before = head.read([7], 0, 1e15)[0]?.value;
  vi.useFakeTimers();
  try {
    head.packSoon();
    for (let round = 640; round < 705; round++) answer(round);
    expect(head.sizeBytes).toBeLessThan(0.8 * plainBytes); // the new row block has had some packed
    expect(head.sizeBytes).toBeGreaterThan(0.3 * plainBytes);
    await vi.advanceTimersByTimeAsync(1000);
    expect(head.sizeBytes).toBeLessThan(0.3 * plainBytes);
    expect(vi.getTimerCount()).toBe(0);
  } finally {
    vi.useRealTimers();
  }
  expect(head.read([7], 0, start + 640_000)[0]?.value).toEqual(before);
});
