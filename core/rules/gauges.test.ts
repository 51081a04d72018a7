import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { gaugePlan, gaugesOf } from "./gauges.ts";
import { extremesLength, fillExtremes } from "./block-extremes.ts";
import { rehearse, type RehearsedRule } from "./rehearse.ts";
import { readyMadeRules } from "./ready-made-rules.ts";
import { catalogue } from "../counters/catalogue.ts";
import { parseFigure } from "../reading/figure.ts";
import type { RuleDocument, Watch } from "./rule.ts";

const s = 1000;
const gauge = (watch: Watch, values: readonly (number | null)[], stepMs: number) => [
  ...gaugesOf(
    watch,
    Float64Array.from(values, (value) => value ?? Number.NaN),
    0,
    stepMs,
    0,
  ),
];
const last = (watch: Watch, values: readonly (number | null)[], stepMs = 15 * s) => gauge(watch, values, stepMs).at(-1);
const value = (of: "last" | "mean" | "min" | "max" | "p50" | "p90", overSeconds: number): Watch => ({
  kind: "value",
  of,
  overSeconds,
});

describe("what is compared, worked by hand", () => {
  test("a step that holds no value has none: what holds is in the reading already", () =>
    expect(gauge(value("last", 0), [5, null, 7], 15 * s)).toEqual([5, Number.NaN, 7]));
  test.each([
    ["mean", 25],
    ["min", 10],
    ["max", 40],
    ["p50", 25],
    ["p90", 37],
  ] as const)("the %s of the last minute is %d (percentiles: type 7 of Hyndman & Fan)", (of, expected) =>
    expect(last(value(of, 60), [999, 10, 20, 30, 40])).toBeCloseTo(expected, 10),
  );
  test("a measure leaves gaps out, and is none where the newest is too old", () => {
    expect(last(value("mean", 60), [10, null, null, 30])).toBe(20);
    expect(last(value("mean", 60), [10, 20, 30, null])).toBeNaN();
  });
  test("a change is against what it was that long ago", () =>
    expect(gauge({ kind: "change", overSeconds: 30 }, [1, 2, 4, 8], 15 * s)).toEqual([Number.NaN, Number.NaN, 3, 6]));
  test("a silence grows by the step", () =>
    expect(gauge({ kind: "silence" }, [1, null, null, 2], 15 * s)).toEqual([0, 15, 30, 0]));
  test("a value that grows by 1 an hour from 90 reaches 100 in so many hours; one that shrinks never does", () => {
    const watch: Watch = { kind: "reach", target: 100, pastSeconds: 24 * 3600 };
    const hours = Array.from({ length: 10 }, (_, i) => 81 + i);
    expect((last(watch, hours, 3600 * s) as number) / 3600).toBeCloseTo(10, 6);
    expect(last(watch, [...hours].reverse(), 3600 * s)).toBe(Number.POSITIVE_INFINITY);
    expect(last(watch, hours.slice(0, 3), 3600 * s)).toBeNaN();
    expect(last(watch, [95, 96, 97, 98, 99, 100, 101], 3600 * s)).toBe(0);
  });
  test("the distance from what is usual is of the forty minutes that end with the step", () => {
    expect([
      ...gaugesOf({ kind: "usual" }, Float64Array.of(13, 21), 600 * s, 300 * s, 0, (endMs) => endMs / s),
    ]).toEqual([900, 1200]);
    expect([...gaugesOf({ kind: "usual" }, Float64Array.of(13), 0, 300 * s, 0)]).toEqual([Number.NaN]);
  });
  test("each figure comes of what is in its reach alone: the same wherever reading began (property)", () => {
    const watches: readonly Watch[] = [
      value("last", 0),
      value("mean", 120),
      value("p90", 300),
      { kind: "change", overSeconds: 90 },
      { kind: "reach", target: 50, pastSeconds: 360 },
    ];
    fc.assert(
      fc.property(
        fc.array(fc.option(fc.double({ min: 0, max: 100, noNaN: true }), { nil: null }), {
          minLength: 60,
          maxLength: 90,
        }),
        fc.constantFrom(...watches),
        fc.nat(20),
        (values, watch, cutAt) => {
          const rule = {
            watch,
            notice: { high: 1 },
            urgent: null,
            reading: { sentences: {} },
          } as unknown as RuleDocument;
          const { stepMs, before } = gaugePlan(rule, 15 * s);
          const all = Float64Array.from(values, (one) => one ?? Number.NaN);
          const from = Math.max(0, values.length - before - 1 - cutAt);
          const whole = gaugesOf(watch, all, 0, stepMs, all.length - 1);
          const part = gaugesOf(watch, all.slice(from), from * stepMs, stepMs, all.length - 1 - from);
          expect([...part]).toEqual([...whole]);
        },
      ),
    );
  });
});

describe("the grid of a rule", () => {
  const plan = (watch: Watch, intervalMs: number, more: object = {}) =>
    gaugePlan(
      { watch, notice: { high: 300 }, urgent: null, reading: { sentences: {} }, ...more } as unknown as RuleDocument,
      intervalMs,
    );
  test.each<[string, Watch, number, number, number]>([
    ["the source's own interval for the newest value", value("last", 0), 15 * s, 15 * s, 4],
    ["an unknown interval is taken for 5 s", value("last", 0), Number.NaN, 5 * s, 4],
    ["sixty steps for a measure", value("mean", 3600), 15 * s, 60 * s, 63],
    ["over a hundred for a trend", { kind: "reach", target: 1, pastSeconds: 172_800 }, 60 * s, 1800 * s, 99],
    ["as far back as a silence is long", { kind: "silence" }, 15 * s, 15 * s, 23],
    ["five minutes at the least beside the usual", { kind: "usual" }, 5 * s, 300 * s, 3],
  ])("%s", (_, watch, interval, stepMs, before) => expect(plan(watch, interval)).toEqual({ stepMs, before }));
});

describe("a rehearsal", () => {
  const day = 86_400_000;
  const from = Date.UTC(2026, 10, 23); // a Monday
  const rule: RehearsedRule = {
    watch: value("last", 0),
    compare: "above",
    notice: { high: 75 },
    urgent: { high: 90 },
    mustLastSeconds: 0,
    staysRaisedSeconds: 0,
    noData: "hold",
    everySeconds: 0,
  };
  const hourOfWeek = (ms: number) => Math.floor((ms - from) / 3_600_000) % 168;
  const run = (gauges: readonly number[], stepMs: number, more: Partial<RehearsedRule> = {}) =>
    rehearse(
      { ...rule, ...more },
      [{ tags: { machine: "hive" }, run: { gauges: Float64Array.from(gauges), firstMs: from, stepMs } }],
      from,
      from + gauges.length * stepMs,
      hourOfWeek,
    );
  test("tells each incident with its gravest severity, its furthest value and when it cleared", () => {
    const { incidents, count, longestMs, lines } = run([70, 80, 95, 80, 70, 76, 70, 80], 60 * s);
    expect(count).toBe(3);
    expect(
      incidents.map(({ severity, raisedAtMs, clearedAtMs, value: at, furthest }) => [
        severity,
        (raisedAtMs - from) / 60_000,
        clearedAtMs === null ? null : (clearedAtMs - from) / 60_000,
        at,
        furthest,
      ]),
    ).toEqual([
      ["urgent", 1, 4, 80, 95],
      ["notice", 5, 6, 76, 76],
      ["notice", 7, null, 80, 80],
    ]);
    expect([longestMs, lines[0]]).toEqual([
      180_000,
      { tags: { machine: "hive" }, count: 3, raisedMs: 180_000 + 60_000 + 60_000 },
    ]);
  });
  test("by the extremes of its blocks it is what it is by each figure (property)", () => {
    const figure = fc.option(fc.oneof(fc.integer({ min: 60, max: 100 }), fc.constant(Number.POSITIVE_INFINITY)), {
      nil: Number.NaN,
    });
    fc.assert(
      fc.property(
        fc.array(fc.record({ figure, times: fc.constantFrom(1, 2, 30, 150) }), { maxLength: 20 }),
        fc.constantFrom("above" as const, "below" as const, "outside" as const, "inside" as const),
        (parts, compare) => {
          const gauges = Float64Array.from(parts.flatMap(({ figure: one, times }) => Array<number>(times).fill(one)));
          const extremes = new Float64Array(extremesLength(gauges.length));
          fillExtremes(gauges, extremes);
          const by = (run: object) =>
            rehearse(
              { ...rule, compare, notice: { low: 70, high: 75 } },
              [{ tags: {}, run: { gauges, firstMs: from, stepMs: 60 * s, ...run } }],
              from,
              from + gauges.length * 60 * s,
              hourOfWeek,
            );
          expect(by({ extremes })).toEqual(by({}));
        },
      ),
    );
  });
  test("its furthest value is found wherever it stands among blocks", () => {
    for (let at = 0; at < 200; at++) {
      const gauges = new Float64Array(200).fill(80);
      gauges[at] = 99;
      const extremes = new Float64Array(extremesLength(gauges.length));
      fillExtremes(gauges, extremes);
      const lines = [{ tags: {}, run: { gauges, firstMs: from, stepMs: 60 * s, extremes } }];
      const { incidents } = rehearse({ ...rule, urgent: null }, lines, from, from + 200 * 60 * s, hourOfWeek);
      expect(incidents.map(({ furthest }) => furthest)).toEqual([99]);
    }
  });
  test("counts by the hour of the week", () => {
    const hours = Array.from({ length: 48 }, (_, hour) => (hour % 24 === 2 ? 80 : 10));
    const { byHour, perDay } = run(hours, 3_600_000);
    expect([byHour[2], byHour[26], byHour.reduce((a, b) => a + b, 0), perDay]).toEqual([1, 1, 2, 1]);
  });
  test("where it speaks more than daily, it says what would make it calmer, and tells how calm, tried on the same past", () => {
    // Every hour a minute above, once a day an hour of 88.
    const minutes = Array.from({ length: 3 * 24 * 60 }, (_, minute) =>
      minute % 1440 >= 600 && minute % 1440 < 660 ? 88 : minute % 60 === 0 ? 80 : 20,
    );
    const { perDay, suggestions } = run(minutes, 60 * s, { urgent: null });
    expect(perDay).toBeGreaterThan(20);
    expect(suggestions.map(({ kind }) => kind)).toEqual(["must last", "limit"]);
    for (const suggestion of suggestions) {
      const changed =
        suggestion.kind === "must last" ? { mustLastSeconds: suggestion.seconds } : { notice: { high: suggestion.at } };
      const again = run(minutes, 60 * s, { urgent: null, ...changed });
      expect(again.count / 3).toBeCloseTo(suggestion.perDay, 10);
      expect(suggestion.perDay).toBeLessThanOrEqual(1);
    }
  });
  test("a calm rule gets no suggestion", () =>
    expect(
      run(
        Array.from({ length: 48 }, (_, hour) => (hour === 5 ? 80 : 1)),
        3_600_000,
      ).suggestions,
    ).toEqual([]));
  test("of days by the arithmetic of needs.md: 99.9 % of 30 days is 43.2 min raised", () => {
    const { lines } = run(
      [...Array.from({ length: 43 }, () => 99), 99, ...Array.from({ length: 30 * 1440 - 44 }, () => 1)],
      60 * s,
    );
    expect((lines[0]?.raisedMs ?? 0) / (30 * day)).toBeCloseTo(0.001, 4);
  });
});

describe.each(readyMadeRules.map((one) => [one.id, one] as const))(
  "the ready-made rule %s",
  (_, { needs, document, from }) => {
    test("reads counters that are gathered, by arithmetic that can be worked out, and says where its limits come from", () => {
      for (const name of needs) expect(catalogue.has(name), name).toBe(true);
      for (const { counter } of Object.values(document.reading.sentences)) expect(needs).toContain(counter);
      if (document.reading.figure !== undefined)
        expect(parseFigure(document.reading.figure, Object.keys(document.reading.sentences))).toBeDefined();
      expect(from).toMatch(/Common practice, no source|Ours, no source|By its meaning/);
      expect(document.notice ?? document.urgent).not.toBeNull();
    });
  },
);
