import { describe, expect, test } from "vitest";
import { batchOf } from "../../core/series/batch.ts";
import { seeded } from "../../core/testing/random.ts";
import { admit, mostAheadMs } from "./admission.ts";
import { Growing } from "./growing.ts";
import { keptFromMs, retentionSchema, defaultRetention } from "./retention.ts";
import { slotMs } from "./slots.ts";
import { splitBySlot } from "./split-by-slot.ts";

const now = 1000 * slotMs;
const rowsOf = ({ series, timeMs, value, length }: ReturnType<typeof batchOf>) =>
  Array.from({ length }, (_, i) => [series[i], timeMs[i], value[i]]);

describe("admission", () => {
  const kept = now - 10 * slotMs;
  test("a batch that is all right goes on as it is", () => {
    const batch = batchOf([
      [1, kept, 1],
      [2, kept, 2],
      [1, now + mostAheadMs, 3],
    ]);
    expect(admit(batch, kept, now)).toEqual({ batch, refused: {} });
    expect(admit(batch, kept, now).batch).toBe(batch);
  });
  test("what is too old, too far ahead or without a time is left out and counted; fractions of a ms are rounded", () => {
    const { batch, refused } = admit(
      batchOf([
        [1, kept - 1, 1],
        [2, now + mostAheadMs + 1, 2],
        [3, Number.NaN, 3],
        [4, Number.POSITIVE_INFINITY, 4],
        [5, now + 0.4, 5],
        [6, kept, Number.NaN],
      ]),
      kept,
      now,
    );
    expect(rowsOf(batch)).toEqual([
      [5, now, 5],
      [6, kept, Number.NaN],
    ]);
    expect(refused).toEqual({ "older than retention": 1, "ahead of time": 1, "no time": 2 });
  });
});

describe("splitting by slot", () => {
  test("a batch of one slot is not copied", () => {
    const batch = batchOf([
      [1, now, 1],
      [2, now + 1, 2],
    ]);
    expect(splitBySlot(batch).get(1000)).toBe(batch);
  });
  test("every row goes to its slot, in its order (seed 17)", () => {
    const random = seeded(17);
    const batch = batchOf(
      Array.from(
        { length: 500 },
        (_, i) => [i, Math.floor(random() * 5) * slotMs + Math.floor(random() * 3), random()] as const,
      ),
    );
    const parts = splitBySlot(batch);
    for (const [slot, part] of parts)
      expect(rowsOf(part)).toEqual(rowsOf(batch).filter(([, time]) => Math.floor((time as number) / slotMs) === slot));
    expect([...parts.values()].reduce((sum, { length }) => sum + length, 0)).toBe(500);
  });
});

test("samples put out of order, twice, and taken out again stand as a sorted map would have them (seed 18)", () => {
  const random = seeded(18);
  const growing = new Growing();
  const expected = new Map<number, number>();
  for (let i = 0; i < 2000; i++) {
    const time = Math.floor(random() * 300);
    if (random() < 0.2) {
      growing.remove(time);
      expected.delete(time);
    } else {
      growing.put(time, Float64Array.of(i), 0);
      expected.set(time, i);
    }
  }
  const { timeMs, value } = growing.column;
  expect([...timeMs].map((time, i) => [time, value[i]])).toEqual([...expected].sort((a, b) => a[0] - b[0]));
});

describe("retention", () => {
  test("each table is kept as long as its tier", () => {
    const dayMs = 86_400_000;
    expect(
      (["chunk", "chunk_times", "rollup_5m", "rollup_1h"] as const).map(
        (table) => (now - keptFromMs(table, defaultRetention, now)) / dayMs,
      ),
    ).toEqual([30, 30, 180, 1825]);
  });
  test.each([
    [defaultRetention, undefined],
    [{ rawDays: 2, fiveMinuteDays: 14, hourDays: 14 }, undefined],
    [{ rawDays: 20, fiveMinuteDays: 19, hourDays: 30 }, "5 min buckets must be kept as long as raw samples at least"],
    [{ rawDays: 20, fiveMinuteDays: 40, hourDays: 39 }, "1 h buckets must be kept as long as 5 min buckets at least"],
    [{ rawDays: 20, fiveMinuteDays: 13, hourDays: 39 }, '"5 min buckets" must be greater than or equal to 14'],
  ])("%j: %s", (wish, problem) => {
    expect(retentionSchema.validate(wish).error?.message).toBe(problem);
  });
});
