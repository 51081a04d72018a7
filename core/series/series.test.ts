import fc from "fast-check";
import { quantile as reference, sampleStandardDeviation } from "simple-statistics";
import { describe, expect, test } from "vitest";
import { column } from "../testing/column.ts";
import { batchOf, joinBatches } from "./batch.ts";
import { type Falls, wrap32 } from "../counters/counter.ts";
import { increases } from "./increase.ts";
import { isTogether, reachMs, medianIntervalMs } from "./interval.ts";
import { columnFromRows, cutColumn, mergeColumns } from "./merge-columns.ts";
import { deviation, quantile } from "./quantile.ts";

describe("quantile: type 7 of Hyndman & Fan 1996", () => {
  // Their definition: h = (n − 1)p + 1, linear between the neighbours; worked by hand for 1, 2, 3, 4, 10.
  test.each([
    [0, 1],
    [0.25, 2],
    [0.5, 3],
    [0.9, 7.6],
    [0.95, 8.8],
    [1, 10],
  ])("p = %d of 1, 2, 3, 4, 10 is %d", (p, expected) => {
    expect(quantile([1, 2, 3, 4, 10], p)).toBeCloseTo(expected, 12);
  });
  test("the median is that of simple-statistics (property)", () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: -1e6, max: 1e6 }), { minLength: 1, maxLength: 50 }), (values) => {
        const sorted = [...values].sort((a, b) => a - b);
        expect(quantile(sorted, 0.5)).toBeCloseTo(reference(sorted, 0.5), 9);
      }),
    );
  });
  test("of nothing is NaN", () => expect(quantile([], 0.5)).toBeNaN());
});

describe("deviation", () => {
  test("NIST StRD univariate NumAcc1 (10000001, 10000003, 10000002): certified sample standard deviation 1", () => {
    expect(deviation([10000001, 10000003, 10000002])).toBeCloseTo(1, 14);
  });
  test("NIST StRD NumAcc2: 1.2 once, then 1.1 and 1.3 five hundred times each: certified 0.1", () => {
    const values = [1.2];
    for (let i = 0; i < 500; i++) values.push(1.1, 1.3);
    expect(deviation(values)).toBeCloseTo(0.1, 13);
  });
  test("is that of simple-statistics (property)", () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: -1e6, max: 1e6 }), { minLength: 2, maxLength: 50 }), (values) => {
        expect(deviation(values)).toBeCloseTo(sampleStandardDeviation(values), 6);
      }),
    );
  });
});

describe("increases of totals", () => {
  const as = (falls: Falls, ...values: readonly number[]) => [
    ...increases(column(...values.map((value, i) => [i * 10, value] as const)), falls),
  ];
  const of = (...values: readonly number[]) => as("restart", ...values);

  test("growth is growth", () => expect(of(5, 5, 8, 108)).toEqual([0, 3, 100]));
  test("a restart at 0 counts what came since, and is no spike", () =>
    expect(of(1_000_000, 1_000_050, 20, 70)).toEqual([50, 20, 50]));
  test("a restart of a total above 2^31 is no wrap where a wrap would be a spike", () => {
    const begin = 2 ** 31 + 1000;
    expect(as(wrap32, begin, begin + 100, 40, 140)).toEqual([100, 40, 100]);
  });
  test("a counter of 64 bits never wraps at 32: 2.95e9, restarted and silent for 45 s, has counted 0.2 MB since, not 1,341", () => {
    const restarted = column([0, 2_900_000_000], [5, 2_950_000_000], [10, 3_000_000_000], [55, 200_000]);
    expect(increases(restarted)[2]).toBe(200_000);
    expect(increases(restarted, wrap32)[2]).toBe(2 ** 32 - 3_000_000_000 + 200_000);
  });
  test("a 32-bit octet counter at 100 Mbit/s wraps after 5.7 min (RFC 2863 §3.1.6): the wrap is seen and keeps the rate", () => {
    const perSecond = 100e6 / 8;
    const seconds = Array.from({ length: 60 }, (_, i) => i * 10);
    const grown = [
      ...increases(column(...seconds.map((second) => [second, (second * perSecond) % 2 ** 32] as const)), wrap32),
    ];
    const wrapsAfter = 2 ** 32 / perSecond / 60;
    expect(wrapsAfter).toBeCloseTo(5.7, 1);
    expect(grown.every((step) => step === 10 * perSecond)).toBe(true);
  });
  test("a small fall is a correction only where the format says that they occur: iowait may decrease (proc(5))", () => {
    expect(as("corrected", 1000, 990, 1005)).toEqual([0, 15]);
    expect(of(1000, 990, 1005)).toEqual([990, 15]);
    expect(as("corrected", 1000, 20, 35)).toEqual([20, 15]);
  });
  test("what is not a finite number stays unknown", () => {
    expect(of(1, Number.NaN, 3)).toEqual([Number.NaN, Number.NaN]);
    expect(of(1, Number.POSITIVE_INFINITY, 3)).toEqual([Number.NaN, Number.NaN]);
  });
  test("is never negative (property)", () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 2 ** 33 }), { maxLength: 30 }), (values) => {
        expect(of(...values).every((step) => step >= 0)).toBe(true);
      }),
    );
  });
});

describe("columns", () => {
  test("rows become a column: sorted, of equal times the last written stays", () => {
    expect(columnFromRows([3000, 1000, 2000, 1000], [3, 1, 2, 11])).toEqual(column([1, 11], [2, 2], [3, 3]));
  });
  test("merging is what sorting all rows would give, newer last (property)", () => {
    const rows = fc.array(fc.tuple(fc.integer({ min: 0, max: 30 }), fc.integer()), { maxLength: 20 });
    fc.assert(
      fc.property(rows, rows, (older, newer) => {
        const made = (list: readonly (readonly [number, number])[]) =>
          columnFromRows(
            list.map(([time]) => time * 1000),
            list.map(([, value]) => value),
          );
        expect(mergeColumns(made(older), made(newer))).toEqual(made([...older, ...newer]));
      }),
    );
  });
  test("cutting is half-open", () => {
    expect(cutColumn(column([1, 1], [2, 2], [3, 3]), 1000, 3000)).toEqual(column([1, 1], [2, 2]));
    expect(cutColumn(column([1, 1]), 5000, 9000)).toEqual(column());
  });
  test("batches join in their order", () => {
    const joined = joinBatches([
      batchOf([[1, 10, 1]]),
      batchOf([]),
      batchOf([
        [2, 20, 2],
        [1, 10, 3],
      ]),
    ]);
    expect([joined.length, [...joined.series], [...joined.timeMs], [...joined.value]]).toEqual([
      3,
      [1, 2, 1],
      [10, 20, 10],
      [1, 2, 3],
    ]);
  });
  test("the usual interval is the median; three of it are still together; a source says its own", () => {
    expect(medianIntervalMs(Float64Array.of(0, 5000, 10_000, 70_000, 75_000))).toBe(5000);
    expect(reachMs(Float64Array.of(0, 5000, 10_000))).toBe(15_000);
    expect(reachMs(Float64Array.of(7))).toBe(0);
    expect(reachMs(Float64Array.of(7), 60_000)).toBe(180_000);
  });
  test("what was gathered every minute stays together after the interval has become five seconds; a gap in it stays a gap", () => {
    const slow = Array.from({ length: 20 }, (_, i) => i * 60_000).filter((ms) => ms < 600_000 || ms > 900_000);
    const quick = Array.from({ length: 400 }, (_, i) => 1_200_000 + i * 5000).filter(
      (ms) => ms < 2_000_000 || ms > 2_060_000,
    );
    const times = Float64Array.from([...slow, ...quick]);
    const reach = reachMs(times);
    expect(reach).toBe(15_000);
    const apart = [...times].flatMap((ms, i) => (i > 0 && !isTogether(times, i, reach) ? [ms] : []));
    expect(apart).toEqual([960_000, 2_065_000]); // after each of the two gaps
  });
});
