import { describe, expect, test } from "vitest";
import { column } from "../testing/column.ts";
import { combineLines } from "./combine.ts";
import type { ReadingDocument, Sentence } from "./document.ts";
import { evaluateReading, type SeriesColumn } from "./evaluate.ts";
import { FigureError, parseFigure } from "./figure.ts";
import { planReading } from "./plan.ts";
import { rollUp, rollUpFurther } from "../series/rollup.ts";
import { seeded } from "../testing/random.ts";
import { type Piece, reduceSeries, SeriesReducer } from "./reduce.ts";
import { autoStepMs, gridOf, spanMs } from "./step.ts";
import { isLike, meets } from "./where.ts";

const grid = (fromSecond: number, stepSeconds: number, count: number) => ({
  fromMs: fromSecond * 1000,
  stepMs: stepSeconds * 1000,
  count,
});
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
    [3600, 600, 20_000, 20],
    [14_000, 600, 20_010, 60], // 30 is no multiple of 20
    [3600, 600, 7000, 7],
    [7200, 600, 7003, 14],
    [86_400, 600, 3_600_000, 3600],
  ])(
    "a window of %d s in %d points, gathered every %d ms, is read every %d s",
    (seconds, points, interval, expected) => {
      expect(autoStepMs(0, seconds * 1000, points, interval)).toBe(expected * 1000);
    },
  );
  test("a grid starts at a whole multiple of its step and covers the window", () => {
    expect(gridOf(12_345, 20_000, 5000)).toEqual({ fromMs: 10_000, stepMs: 5000, count: 2 });
    expect(gridOf(10_000, 10_001, 5000).count).toBe(1);
  });
  test.each([
    ["7d", 604_800_000],
    ["45s", 45_000],
    ["12h", 43_200_000],
    ["1.5h", undefined],
    ["d", undefined],
    ["7 d", undefined],
  ])("the span %s is %s ms", (text, ms) => {
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
    [
      [
        { tag: "machine", is: ["vault"] },
        { tag: "device", is: ["sdb"] },
      ],
      false,
    ],
    [[{ tag: "site", not: ["studio"] }], true],
    [[{ tag: "site", is: [""] }], true],
  ])("%j is %s", (where, expected) => expect(meets(tags, where)).toBe(expected));
  test.each([
    ["abc", "a*c", true],
    ["abc", "a*b", false],
    ["a", "a*a", false],
    ["aa", "a*a", true],
    ["axbxc", "a*b*c", true],
    ["", "*", true],
    ["abab", "*ab", true],
    ["x.y", "x*", true],
  ])("%j is like %j: %s", (value, pattern, expected) => expect(isLike(value, pattern)).toBe(expected));
  test("a pattern of many stars is matched in linear time", () =>
    expect(isLike("a".repeat(5000), `${"a*".repeat(200)}b`)).toBe(false));
});

describe("levels within steps (hand-worked)", () => {
  const level = column([0, 10], [5, 20], [10, 6], [15, 4], [20, 100]);
  test.each([
    ["mean", [15, 5, 100]], // the last holds to the end
    ["min", [10, 4, 100]],
    ["max", [20, 6, 100]],
    ["sum", [(10 * 5 + 20 * 5) * 1000, (6 * 5 + 4 * 5) * 1000, 100 * 10 * 1000]], // over time, in ms
    ["first", [10, 6, 100]],
    ["last", [20, 4, 100]],
    ["count", [2, 2, 1]],
    ["p50", [15, 5, 100]],
    ["p90", [19, 5.8, 100]],
    ["deviation", [Math.SQRT2 * 5, Math.SQRT2, 0]],
  ] as const)("%s of every 10 s", (ofEvery, expected) => {
    expectClose(reduceSeries(level, grid(0, 10, 3), "value", ofEvery), expected);
  });
  test("a value holds for three intervals, then there is a gap", () => {
    const gappy = column([0, 1], [10, 2], [20, 3], [90, 4], [100, 5]);
    expect([...reduceSeries(gappy, grid(0, 5, 21), "value", "mean")]).toEqual([
      1,
      1,
      2,
      2,
      3,
      3,
      3,
      3,
      3,
      3,
      nan,
      nan,
      nan,
      nan,
      nan,
      nan,
      nan,
      nan,
      4,
      4,
      5,
    ]);
  });
  test("NaN and infinities are no values, and blank nothing but their own time", () => {
    expect([
      ...reduceSeries(column([0, 1], [1, nan], [2, 3], [3, Number.POSITIVE_INFINITY]), grid(0, 4, 1), "value", "mean"),
    ]).toEqual([2]);
    expect([
      ...reduceSeries(column([0, 1], [1, Number.POSITIVE_INFINITY], [2, 3]), grid(0, 3, 1), "value", "max"),
    ]).toEqual([3]);
  });
  test("a mean is weighted by for how long each value holds: 100 a minute for half an hour, then 400 every five seconds", () => {
    const changed = column(
      ...Array.from({ length: 30 }, (_, i) => [i * 60, 100] as const),
      ...Array.from({ length: 360 }, (_, i) => [1800 + i * 5, 400] as const),
    );
    expectClose(reduceSeries(changed, grid(0, 900, 4), "value", "mean"), [100, 100, 400, 400]);
    expectClose(reduceSeries(changed, grid(0, 3600, 1), "value", "mean"), [250]);
  });
  test("the mean over buckets is that over samples, for every resolution and across the seam of both", () => {
    const random = seeded(15);
    const uneven = column(
      ...Array.from(
        { length: 400 },
        (_, i) => [i * 20 + Math.floor(random() * 12), Math.round(random() * 100)] as const,
      ),
    );
    const until = 3_600_000;
    const samples = {
      timeMs: uneven.timeMs.filter((ms) => ms >= until),
      value: uneven.value.filter((_, i) => (uneven.timeMs[i] as number) >= until),
    };
    const hourly = grid(0, 1800, 4);
    const mixed = new SeriesReducer(hourly).reduce(
      [rollUp(uneven, "level", 300_000, 0, until), samples],
      "value",
      "mean",
    ).values;
    const plain = reduceSeries(uneven, hourly, "value", "mean");
    for (const [i, v] of plain.entries()) expect(mixed[i]).toBeCloseTo(v, 6);
  });
});

describe("rates and increases (hand-worked)", () => {
  const total = column([0, 0], [10, 100], [20, 400], [30, 400]);
  test("the rate of a step is the growth over its time", () =>
    expect([...reduceSeries(total, grid(0, 10, 3), "rate", "mean")]).toEqual([10, 30, 0]));
  test("growth is spread evenly over the time between readings", () =>
    expect([...reduceSeries(total, grid(0, 15, 2), "rate", "mean")]).toEqual([(100 + 150) / 15, 150 / 15]));
  test("max of every step is the fastest stretch that touches it", () =>
    expect([...reduceSeries(total, grid(0, 30, 1), "rate", "max")]).toEqual([30]));
  test("no rate is taken over a gap, nothing is drawn across it", () => {
    const gappy = column([0, 0], [10, 10], [20, 20], [200, 5000], [210, 5010]);
    expect([...reduceSeries(gappy, grid(0, 10, 21), "rate", "mean")]).toEqual([1, 1, ...Array(18).fill(nan), 1]);
  });
  test("an increase over a gap did happen, and is spread over it", () => {
    const found = reduceSeries(column([0, 0], [10, 10], [20, 20], [200, 5000]), grid(0, 110, 2), "increase", "sum");
    expectClose(found, [20 + (4980 * 90) / 180, (4980 * 90) / 180]);
  });
  test("readings every 20 s in steps of 30 s, and with jitter on a boundary, grow evenly", () => {
    const every20 = column(...Array.from({ length: 10 }, (_, i) => [i * 20, i * 100] as const));
    expectClose(reduceSeries(every20, grid(0, 30, 4), "increase", "sum"), [150, 150, 150, 150]);
    const jitter = column([-0.1, 0], [10.1, 10], [19.9, 20], [30.1, 30], [39.9, 40]);
    for (const v of reduceSeries(jitter, grid(0, 10, 3), "increase", "sum")) expect(Math.abs(v - 10)).toBeLessThan(0.3);
  });
  test("growth is conserved for every step, tier and seam: random totals with restarts and silences (seed 16)", () => {
    const random = seeded(16);
    for (let round = 0; round < 40; round++) {
      const times: number[] = [];
      const values: number[] = [];
      let at = 0;
      let total = 0;
      while (at < 20_000) {
        times.push(at);
        values.push(total);
        at += random() < 0.01 ? 2000 + Math.floor(random() * 3000) : 15 + Math.floor(random() * 10);
        total = random() < 0.01 ? Math.floor(random() * 20) : total + Math.floor(random() * 500);
      }
      const all = column(...times.map((second, i) => [second, values[i] as number] as const));
      const grown = values.reduce(
        (sum, v, i) => sum + (i === 0 ? 0 : v >= (values[i - 1] as number) ? v - (values[i - 1] as number) : v),
        0,
      );
      const seam = 300_000 * Math.floor(random() * 60);
      const rest = {
        timeMs: all.timeMs.filter((ms) => ms >= seam),
        value: all.value.filter((_, i) => (all.timeMs[i] as number) >= seam),
      };
      for (const stepSeconds of [300, 600, 900, 3600]) {
        const wide = grid(0, stepSeconds, Math.ceil(30_000 / stepSeconds));
        const sum = (pieces: readonly Piece[]) =>
          new SeriesReducer(wide)
            .reduce(pieces, "increase", "sum")
            .values.reduce((a, b) => a + (Number.isNaN(b) ? 0 : b), 0);
        expect(sum([all]), `round ${round}, ${stepSeconds} s`).toBeCloseTo(grown, 4);
        expect(
          sum([rollUp(all, "total", 300_000, 0, seam), rest]),
          `round ${round}, ${stepSeconds} s, seam ${seam}`,
        ).toBeCloseTo(grown, 4);
        const fine = rollUp(all, "total", 300_000, 0, 36_000_000);
        expect(sum([rollUpFurther([fine], "total", 300_000, 0, 36_000_000)])).toBeCloseTo(grown, 4);
      }
    }
  });
  test("the slowest and the fastest of buckets are of those that lie in the window (hand-worked)", () => {
    const beats = column(
      ...Array.from(
        { length: 61 },
        (_, i) => [i * 15, i < 20 ? i * 15 : i < 40 ? 300 + (i - 20) * 30 : 900 + (i - 40) * 1500] as [number, number],
      ),
    );
    const rolled = rollUp(beats, "total", 300_000, 0, 900_000);
    const { least, most } = new SeriesReducer(grid(0, 900, 1), 300_000, 600_000).reduce(
      [rolled],
      "rate",
      "mean",
      { falls: "restart", intervalMs: 15_000 },
      true,
    );
    expect([least, most]).toEqual([2, 2]);
  });
  test("a restart makes no spike", () =>
    expect([
      ...reduceSeries(column([0, 1e9], [10, 1e9 + 100], [20, 50], [30, 150]), grid(0, 10, 3), "rate", "mean"),
    ]).toEqual([10, 5, 10]));
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

const series = (
  tags: Record<string, string>,
  kind: SeriesColumn["kind"],
  unit: string,
  ...pairs: readonly (readonly [number, number])[]
): SeriesColumn => ({ tags, kind, unit, column: column(...pairs) });
const ask = (sentences: Record<string, Partial<Sentence>>, more: Partial<ReadingDocument> = {}): ReadingDocument => ({
  window: { from: 0, to: 30_000 },
  step: 10,
  sentences: Object.fromEntries(
    Object.entries(sentences).map(([name, sentence]) => [name, { counter: name, ...sentence }]),
  ),
  ...more,
});

describe("a whole reading", () => {
  const used = [
    series({ machine: "a", state: "used" }, "level", "By", [0, 30], [10, 40], [20, 50]),
    series({ machine: "b", state: "used" }, "level", "By", [0, 10], [10, 10], [20, 10]),
  ];
  const total = [
    series({ machine: "a" }, "level", "By", [0, 100], [10, 100], [20, 100]),
    series({ machine: "b" }, "level", "By", [0, 50], [10, 0], [20, 50]),
  ];

  test("a figure matches lines by the tags they have in common; a division by zero is a gap", () => {
    const answer = evaluateReading(ask({ used: {}, total: {} }, { figure: "used / total * 100", unit: "%" }), {
      used,
      total,
    });
    expect(answer).toMatchObject({ from: 0, stepMs: 10_000, count: 3, tier: "raw", notes: [] });
    expect(answer.lines).toEqual([
      {
        of: "figure",
        tags: { machine: "a", state: "used" },
        unit: "%",
        values: [30, 40, 50],
        last: 50,
        min: 30,
        mean: 40,
        max: 50,
      },
      {
        of: "figure",
        tags: { machine: "b", state: "used" },
        unit: "%",
        values: [20, null, 20],
        last: 20,
        min: 20,
        mean: 20,
        max: 20,
      },
    ]);
  });
  test("totals default to their rate per second and its unit, levels to their value", () => {
    const answer = evaluateReading(ask({ bytes: {}, level: {}, time: {} }), {
      bytes: [series({}, "total", "By", [0, 0], [10, 50], [20, 150])],
      level: [series({}, "level", "Cel", [0, 20], [10, 21])],
      time: [series({}, "total", "s", [0, 0], [10, 5])],
    });
    expect(answer.lines.map(({ of, unit, values }) => [of, unit, values])).toEqual([
      ["bytes", "By/s", [5, 10, null]],
      ["level", "Cel", [20, 21, 21]],
      ["time", "1", [0.5, null, null]],
    ]);
  });
  test("only the highest are kept", () => {
    const three = [1, 9, 5].map((value, i) => series({ machine: `m${i}` }, "level", "1", [0, value]));
    const spiky = [
      series({ machine: "even" }, "level", "1", ...Array.from({ length: 30 }, (_, i) => [i, 50] as const)),
      series(
        { machine: "spiky" },
        "level",
        "1",
        ...Array.from({ length: 30 }, (_, i) => [i, i === 12 ? 9999 : 1] as const),
      ),
    ];
    const highest = evaluateReading(ask({ x: { keep: { highest: 1, by: "max" } } }), { x: spiky }).lines;
    // of the samples: the mean of its step is 1000.8
    expect(highest).toMatchObject([{ tags: { machine: "spiky" }, max: 9999, min: 1 }]);
    const names = (keep: Sentence["keep"]) =>
      evaluateReading(ask({ x: { ...(keep && { keep }) } }), { x: three }).lines.map(({ tags }) => tags["machine"]);
    expect(names({ highest: 2, by: "max" })).toEqual(["m1", "m2"]);
    expect(names({ lowest: 1 })).toEqual(["m0"]);
  });
  test("an earlier time is shown at the window's", () => {
    const document = { ...ask({ x: { earlier: "1h" } }), window: { from: 3_600_000, to: 3_630_000 } };
    expect(
      evaluateReading(document, { x: [series({}, "level", "1", [0, 1], [10, 2], [20, 3])] }).lines[0]?.values,
    ).toEqual([1, 2, 3]);
    expect(planReading(document, {}).sentences[0]).toMatchObject({ fromMs: -60_000, toMs: 30_000 });
  });
  test("extremes stand beside the means where they are asked for (hand-worked)", () => {
    const one = series({}, "level", "1", [0, 1], [10, 9], [20, 2], [30, 4]);
    const document = { ...ask({ x: {} }), window: { from: 0, to: 40_000 }, step: 20 };
    expect(evaluateReading({ ...document, extremes: true }, { x: [one] }).lines[0]).toMatchObject({
      values: [5, 3],
      lows: [1, 2],
      highs: [9, 4],
    });
    expect(evaluateReading(document, { x: [one] }).lines[0]?.lows).toBeUndefined();
  });
  test("a sentence that finds nothing says so", () => {
    expect(evaluateReading(ask({ x: {} }), { x: [] })).toMatchObject({
      lines: [],
      notes: ['x: nothing here reports "x" with these tags in this window.'],
    });
  });
});

describe("arithmetic", () => {
  const of = (figure: string, a: number, b: number) =>
    evaluateReading(ask({ a: {}, b: {} }, { figure }), {
      a: [series({}, "level", "1", [0, a])],
      b: [series({}, "level", "1", [0, b])],
    }).lines[0]?.values[0];
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
    const many = (tag: string) =>
      Array.from({ length: 60 }, (_, i) => series({ [tag]: String(i) }, "level", "1", [0, 1]));
    expect(() => evaluateReading(ask({ a: {}, b: {} }, { figure: "a + b" }), { a: many("x"), b: many("y") })).toThrow(
      "more than 2000 lines",
    );
  });
});
