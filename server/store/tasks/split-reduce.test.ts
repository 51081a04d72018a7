import { describe, expect, test } from "vitest";
import { planReading } from "../../../core/reading/plan.ts";
import type { LineValues } from "../../../core/reading/line-values.ts";
import { emptySnapshot } from "../head-snapshot.ts";
import { joinLines, splitReduce } from "./split-reduce.ts";
import type { ReduceTask } from "./task.ts";

const series = Array.from({ length: 70 }, (_, i) => ({
  tags: { machine: `m${i % 7}` },
  unit: "1",
  kind: "level" as const,
}));
function task(sentence: object): ReduceTask {
  const [plan] = planReading(
    { window: { from: 0, to: 60_000 }, step: 15, sentences: { x: { counter: "x", ...sentence } } },
    { x: series },
  ).sentences;
  if (!plan) throw new Error("no plan");
  return {
    sentences: [{ plan, ids: Int32Array.from(series, (_, i) => i + 1), snapshot: emptySnapshot(70) }],
    headFromMs: 0,
    fiveMinutesUntilMs: 0,
    hoursUntilMs: 0,
    rawFromMs: 0,
  };
}

describe("a large reading", () => {
  test("is cut into shares that hold every series once, with its line", () => {
    const whole = task({ lines: { per: ["machine"] }, combine: "sum" });
    const shares = splitReduce(whole, 1e6, 3).map(({ sentences }) => sentences[0]);
    expect(shares.map((share) => share?.ids.length)).toEqual([24, 24, 22]);
    expect(shares.flatMap((share) => [...(share?.ids ?? [])])).toEqual([...(whole.sentences[0]?.ids ?? [])]);
    expect(shares.flatMap((share) => [...(share?.plan.lineOf ?? [])])).toEqual([
      ...(whole.sentences[0]?.plan.lineOf ?? []),
    ]);
    expect(shares.every((share) => share?.plan.lineCount === 7)).toBe(true);
  });
  test.each([
    ["is small", { combine: "sum" }, 99_999, 2],
    ["has one thread", { combine: "sum" }, 1e6, 1],
    ["has lines whose mean cannot be joined", { lines: "together", combine: "mean" }, 1e6, 2],
    ["has lines whose percentile cannot be joined", { lines: { per: ["machine"] }, combine: "p95" }, 1e6, 2],
  ])("stays whole where it %s", (_name, sentence, samples, threads) => {
    const whole = task(sentence);
    expect(splitReduce(whole, samples, threads)).toEqual([whole]);
  });
  test("is cut for means as well where every line is one series", () => {
    expect(splitReduce(task({ lines: "each", combine: "mean" }), 1e6, 2)).toHaveLength(2);
  });
});

test.each([
  ["sum", [11, 2, 30, Number.NaN]],
  ["count", [11, 2, 30, Number.NaN]],
  ["min", [1, 2, 30, Number.NaN]],
  ["max", [10, 2, 30, Number.NaN]],
] as const)("lines of shares are joined by %s; a gap in one is the other's value", (combine, expected) => {
  const line = (toldUntilMs: number, ...values: number[]): LineValues => ({
    values: Float64Array.from(values),
    members: Int32Array.from(values, (v) => (Number.isNaN(v) ? 0 : 1)),
    least: Number.NaN,
    most: Number.NaN,
    sum: Number.NaN,
    mean: Number.NaN,
    newest: Number.NaN,
    newestUntilMs: Number.NaN,
    toldUntilMs,
    infinite: 1,
  });
  const joined = joinLines(
    [[line(5, 1, 2, Number.NaN, Number.NaN)], [line(3, 10, Number.NaN, 30, Number.NaN)]],
    combine,
  );
  expect(joined).toMatchObject([{ members: Int32Array.of(2, 1, 1, 0), toldUntilMs: 3, infinite: 2 }]);
  expect([...(joined[0]?.values ?? [])]).toEqual(expected);
});

describe("what is known of lines beside their values", () => {
  const line = (values: number[], more: Partial<LineValues>): LineValues => ({
    values: Float64Array.from(values),
    least: Number.NaN,
    most: Number.NaN,
    sum: Number.NaN,
    mean: Number.NaN,
    newest: Number.NaN,
    newestUntilMs: Number.NaN,
    toldUntilMs: Number.POSITIVE_INFINITY,
    infinite: 0,
    ...more,
  });
  const nothing = () => line([Number.NaN], {});
  test("a line that one share has is that share's, whichever comes first", () => {
    const known = () =>
      line([7], {
        lows: Float64Array.of(5),
        highs: Float64Array.of(9),
        least: 4,
        most: 11,
        mean: 6,
        newest: 8,
        newestUntilMs: 60,
        sum: 70,
        toldUntilMs: 50,
      });
    expect(joinLines([[nothing()], [known()]], "sum")).toEqual([known()]);
    expect(joinLines([[known()], [nothing()]], "sum")).toEqual([known()]);
  });
  test("sums are added up, where one share has none as well; of lines that are shared no mean and no newest sample is known", () => {
    expect(
      joinLines([[line([1], { sum: 10, mean: 1, newest: 1 })], [line([2], { sum: 30, mean: 2, newest: 2 })]], "sum"),
    ).toMatchObject([{ values: Float64Array.of(3), sum: 40, mean: Number.NaN, newest: Number.NaN }]);
    expect(joinLines([[line([1], { sum: 10 })], [line([2], {})]], "sum")).toMatchObject([
      { values: Float64Array.of(3), sum: 10 },
    ]);
  });
  test("growth over a silence and infinite values are told by a share that has no value to show", () => {
    expect(
      joinLines([[line([Number.NaN], { sum: 10, infinite: 2, toldUntilMs: 5 })], [line([2], { sum: 1 })]], "sum"),
    ).toMatchObject([{ values: Float64Array.of(2), sum: 11, infinite: 2, toldUntilMs: 5 }]);
  });
});
