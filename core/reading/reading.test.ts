import { describe, expect, test } from "vitest";
import { column } from "../testing/column.ts";
import { combineLines } from "./combine.ts";
import type { ReadingDocument, Sentence } from "./document.ts";
import { evaluateReading, type SeriesColumn } from "./evaluate.ts";
import { FigureError, parseFigure } from "./figure.ts";
import { planReading } from "./plan.ts";
import { reduceSeries } from "./reduce.ts";
import { autoStepMs, gridOf, spanMs } from "./step.ts";
import { isLike, meets } from "./where.ts";

const grid = (fromSecond: number, stepSeconds: number, count: number) => ({ fromMs: fromSecond * 1000, stepMs: stepSeconds * 1000, count });
const nan = Number.NaN;

function expectClose(found: ArrayLike<number>, expected: readonly number[]): void {
  expect(found).toHaveLength(expected.length);
  for (const [i, value] of expected.entries()) expect(found[i]).toBeCloseTo(value, 12);
}

describe("steps", () => {
  test.each([
    [900, 600, nan, 2],
    [3600, 600, nan, 10],
    [300, 600, 5000, 5],
    [86_400, 600, 15_000, 300],
    [365 * 86_400, 300, nan, 172_800],
  ])("a window of %d s in %d points, gathered every %d ms, is read every %d s", (seconds, points, interval, expected) => {
    expect(autoStepMs(0, seconds * 1000, points, interval)).toBe(expected * 1000);
  });
  test("a grid starts at a whole multiple of its step and covers the window", () => {
    expect(gridOf(12_345, 20_000, 5000)).toEqual({ fromMs: 10_000, stepMs: 5000, count: 2 });
    expect(gridOf(10_000, 10_001, 5000).count).toBe(1);
  });
  test.each([["7d", 604_800_000], ["45s", 45_000], ["12h", 43_200_000], ["1.5h", undefined], ["d", undefined], ["7 d", undefined]])("the span %s is %s ms", (text, ms) => {
    expect(spanMs(text)).toBe(ms);
  });
});

describe("conditions", () => {
  const tags = { machine: "vault", device: "sda" };
  test.each([
    [[{ tag: "machine", is: ["vault", "hive"] }], true],
    [[{ tag: "machine", not: ["vault"] }], false],
    [[{ tag: "device", like: "sd*" }], true],
    [[{ tag: "device", like: "sd" }], false],
    [[{ tag: "machine", is: ["vault"] }, { tag: "device", is: ["sdb"] }], false],
    [[{ tag: "site", not: ["studio"] }], true],
    [[{ tag: "site", is: [""] }], true],
  ])("%j is %s", (where, expected) => expect(meets(tags, where)).toBe(expected));
  test.each([["abc", "a*c", true], ["abc", "a*b", false], ["a", "a*a", false], ["aa", "a*a", true], ["axbxc", "a*b*c", true], ["", "*", true], ["abab", "*ab", true], ["x.y", "x*", true]])("%j is like %j: %s", (value, pattern, expected) => expect(isLike(value, pattern)).toBe(expected));
  test("a pattern of many stars is matched in linear time", () => expect(isLike("a".repeat(5000), `${"a*".repeat(200)}b`)).toBe(false));
});

describe("levels within steps (hand-worked)", () => {
  const level = column([0, 10], [5, 20], [10, 6], [15, 4], [20, 100]);
  test.each([
    ["mean", [15, 5, 100]],
    ["min", [10, 4, 100]],
    ["max", [20, 6, 100]],
    ["sum", [30, 10, 100]],
    ["first", [10, 6, 100]],
    ["last", [20, 4, 100]],
    ["count", [2, 2, 1]],
    ["p50", [15, 5, 100]],
    ["p90", [19, 5.8, 100]],
    ["deviation", [Math.SQRT2 * 5, Math.SQRT2, 0]],
  ] as const)("%s of every 10 s", (ofEvery, expected) => {
    expectClose(reduceSeries(level, grid(0, 10, 3), "value", ofEvery), expected);
  });
  test("a gap stays a gap; a step between two readings that belong together holds the earlier value", () => {
    const gappy = column([0, 1], [10, 2], [20, 3], [90, 4], [100, 5]);
    expect([...reduceSeries(gappy, grid(0, 5, 21), "value", "mean")]).toEqual([1, 1, 2, 2, 3, nan, nan, nan, nan, nan, nan, nan, nan, nan, nan, nan, nan, nan, 4, 4, 5]);
  });
  test("NaN is no value", () => expect([...reduceSeries(column([0, 1], [1, nan], [2, 3]), grid(0, 10, 1), "value", "mean")]).toEqual([2]));
});

describe("rates and increases (hand-worked)", () => {
  const total = column([0, 0], [10, 100], [20, 400], [30, 400]);
  test("the rate of a step is the growth over its time", () => expect([...reduceSeries(total, grid(0, 10, 3), "rate", "mean")]).toEqual([10, 30, 0]));
  test("growth is spread evenly over the time between readings", () => expect([...reduceSeries(total, grid(0, 15, 2), "rate", "mean")]).toEqual([(100 + 150) / 15, 150 / 15]));
  test("max of every step is the fastest stretch that touches it", () => expect([...reduceSeries(total, grid(0, 30, 1), "rate", "max")]).toEqual([30]));
  test("no rate is taken over a gap, nothing is drawn across it", () => {
    const gappy = column([0, 0], [10, 10], [20, 20], [200, 5000], [210, 5010]);
    expect([...reduceSeries(gappy, grid(0, 10, 21), "rate", "mean")]).toEqual([1, 1, ...Array(18).fill(nan), 1]);
  });
  test("an increase over a gap did happen and counts where it was seen", () => {
    expect([...reduceSeries(column([0, 0], [10, 10], [20, 20], [200, 5000]), grid(0, 110, 2), "increase", "sum")]).toEqual([20, 4980]);
  });
  test("a restart makes no spike", () => expect([...reduceSeries(column([0, 1e9], [10, 1e9 + 100], [20, 50], [30, 150]), grid(0, 10, 3), "rate", "mean")]).toEqual([10, 5, 10]));
});

describe("series that share a line", () => {
  const lines = [
    { tags: { machine: "a", disk: "x" }, values: Float64Array.of(1, nan) },
    { tags: { machine: "a", disk: "y" }, values: Float64Array.of(3, nan) },
    { tags: { machine: "b", disk: "x" }, values: Float64Array.of(5, 7) },
  ];
  test.each([
    ["sum", [9, 7]],
    ["mean", [3, 7]],
    ["min", [1, 7]],
    ["max", [5, 7]],
    ["count", [3, 1]],
    ["p95", [4.8, 7]],
  ] as const)("together, %s", (combine, expected) => {
    const [line] = combineLines(lines, "together", combine);
    expectClose(line?.values ?? [], expected);
  });
  test("one line per tag keeps the tags that its series share; a gap of all of them stays one", () => {
    expect(combineLines(lines, { per: ["machine"] }, "sum")).toEqual([
      { tags: { machine: "a" }, values: Float64Array.of(4, nan) },
      { tags: { machine: "b", disk: "x" }, values: Float64Array.of(5, 7) },
    ]);
  });
  test("each stays as it is", () => expect(combineLines(lines, "each", "sum")).toBe(lines));
});

const series = (tags: Record<string, string>, kind: SeriesColumn["kind"], unit: string, ...pairs: readonly (readonly [number, number])[]): SeriesColumn => ({ tags, kind, unit, column: column(...pairs) });
const ask = (sentences: Record<string, Partial<Sentence>>, more: Partial<ReadingDocument> = {}): ReadingDocument => ({
  window: { from: 0, to: 30_000 },
  step: 10,
  sentences: Object.fromEntries(Object.entries(sentences).map(([name, sentence]) => [name, { counter: name, ...sentence }])),
  ...more,
});

describe("a whole reading", () => {
  const used = [series({ machine: "a", state: "used" }, "level", "By", [0, 30], [10, 40], [20, 50]), series({ machine: "b", state: "used" }, "level", "By", [0, 10], [10, 10], [20, 10])];
  const total = [series({ machine: "a" }, "level", "By", [0, 100], [10, 100], [20, 100]), series({ machine: "b" }, "level", "By", [0, 50], [10, 0], [20, 50])];

  test("a figure matches lines by the tags they have in common; a division by zero is a gap", () => {
    const answer = evaluateReading(ask({ used: {}, total: {} }, { figure: "used / total * 100", unit: "%" }), { used, total });
    expect(answer).toMatchObject({ from: 0, stepMs: 10_000, count: 3, tier: "raw", notes: [] });
    expect(answer.lines).toEqual([
      { of: "figure", tags: { machine: "a", state: "used" }, unit: "%", values: [30, 40, 50], last: 50, min: 30, mean: 40, max: 50 },
      { of: "figure", tags: { machine: "b", state: "used" }, unit: "%", values: [20, null, 20], last: 20, min: 20, mean: 20, max: 20 },
    ]);
  });
  test("totals default to their rate per second and its unit, levels to their value", () => {
    const answer = evaluateReading(ask({ bytes: {}, level: {}, time: {} }), { bytes: [series({}, "total", "By", [0, 0], [10, 50], [20, 150])], level: [series({}, "level", "Cel", [0, 20], [10, 21])], time: [series({}, "total", "s", [0, 0], [10, 5])] });
    expect(answer.lines.map(({ of, unit, values }) => [of, unit, values])).toEqual([
      ["bytes", "By/s", [5, 10, null]],
      ["level", "Cel", [20, 21, null]],
      ["time", "1", [0.5, null, null]],
    ]);
  });
  test("only the highest are kept", () => {
    const three = [1, 9, 5].map((value, i) => series({ machine: `m${i}` }, "level", "1", [0, value]));
    const names = (keep: Sentence["keep"]) => evaluateReading(ask({ x: { ...(keep && { keep }) } }), { x: three }).lines.map(({ tags }) => tags["machine"]);
    expect(names({ highest: 2, by: "max" })).toEqual(["m1", "m2"]);
    expect(names({ lowest: 1 })).toEqual(["m0"]);
  });
  test("an earlier time is shown at the window's", () => {
    const document = { ...ask({ x: { earlier: "1h" } }), window: { from: 3_600_000, to: 3_630_000 } };
    expect(evaluateReading(document, { x: [series({}, "level", "1", [0, 1], [10, 2], [20, 3])] }).lines[0]?.values).toEqual([1, 2, 3]);
    expect(planReading(document, {}).sentences[0]).toMatchObject({ fromMs: -60_000, toMs: 90_000 });
  });
  test("extremes stand beside the means where they are asked for (hand-worked)", () => {
    const one = series({}, "level", "1", [0, 1], [10, 9], [20, 2], [30, 4]);
    const document = { ...ask({ x: {} }), window: { from: 0, to: 40_000 }, step: 20 };
    expect(evaluateReading({ ...document, extremes: true }, { x: [one] }).lines[0]).toMatchObject({ values: [5, 3], lows: [1, 2], highs: [9, 4] });
    expect(evaluateReading(document, { x: [one] }).lines[0]?.lows).toBeUndefined();
  });
  test("a sentence that finds nothing says so", () => {
    expect(evaluateReading(ask({ x: {} }), { x: [] })).toMatchObject({ lines: [], notes: ['x: nothing here reports "x" with these tags in this window.'] });
  });
});

describe("arithmetic", () => {
  const of = (figure: string, a: number, b: number) => evaluateReading(ask({ a: {}, b: {} }, { figure }), { a: [series({}, "level", "1", [0, a])], b: [series({}, "level", "1", [0, b])] }).lines[0]?.last;
  test.each([
    ["a + b * 2", 7, 3, 13],
    ["(a + b) * 2", 7, 3, 20],
    ["-a - -b", 7, 3, -4],
    ["min(a, b) + max(a, b) - abs(b)", 7, -3, 1],
    ["100 - a / b * 100", 1, 4, 75],
    ["a - b - 1", 7, 3, 3],
  ])("%s of %d and %d is %d", (figure, a, b, expected) => expect(of(figure, a, b)).toBe(expected));

  test.each([
    ["usd / b", '"usd" at character 1 is not the name of a sentence; there are "a", "b"'],
    ["a + ", '"a + " cannot be read at character 5'],
    ["a ** 2", "not arithmetic"],
    ["a.constructor", "not arithmetic (MemberExpression)"],
    ["a[0]", "not arithmetic"],
    ["eval(a)", "not arithmetic (CallExpression)"],
    ["min(a)", "min() takes 2 values, not 1"],
    ["'x'", "not arithmetic (Literal)"],
    ["a ? b : 1", "not arithmetic"],
    ["constructor(a)", "not arithmetic"],
    ["a; b", "not arithmetic"],
    ["", "not arithmetic"],
  ])("%j is refused: %s", (figure, message) => {
    expect(() => parseFigure(figure, ["a", "b"])).toThrow(FigureError);
    expect(() => parseFigure(figure, ["a", "b"])).toThrow(message);
  });
  test("lines without common tags would multiply: refused", () => {
    const many = (tag: string) => Array.from({ length: 60 }, (_, i) => series({ [tag]: String(i) }, "level", "1", [0, 1]));
    expect(() => evaluateReading(ask({ a: {}, b: {} }, { figure: "a + b" }), { a: many("x"), b: many("y") })).toThrow("more than 2000 lines");
  });
});
