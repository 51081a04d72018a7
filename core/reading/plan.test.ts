import { describe, expect, test } from "vitest";
import type { ReadingDocument } from "./document.ts";
import { mostSamples, mostValues, planReading, type SeriesInfo } from "./plan.ts";

const dayMs = 86_400_000;
const now = 20_000 * dayMs;
/** Thirty days of samples, 180 of five minutes; all but today is rolled up. */
const reach = {
  rawFromMs: now - 30 * dayMs,
  fiveMinutesFromMs: now - 180 * dayMs,
  fiveMinutesUntilMs: now - dayMs,
  hoursUntilMs: now - 10 * dayMs,
};
const series = (count: number, kind: SeriesInfo["kind"] = "level", intervalMs = 5000): readonly SeriesInfo[] =>
  Array.from({ length: count }, (_, i) => ({ tags: { machine: `m${i}` }, unit: "1", kind, intervalMs }));
const ask = (
  days: number,
  more: Partial<ReadingDocument> = {},
  sentence: ReadingDocument["sentences"][string] | object = {},
): ReadingDocument => ({
  window: { from: now - days * dayMs, to: now },
  sentences: { x: { counter: "x", ...sentence } },
  ...more,
});

describe("the tier", () => {
  test.each([
    ["samples for steps below five minutes", ask(1, { step: 60 }), "raw", 60],
    ["five minutes for steps of fifteen", ask(7, { step: 900 }), "5m", 900],
    ["hours for steps of two", ask(90, { step: 7200 }), "1h", 7200],
    ["samples for a percentile", ask(7, { step: 3600 }, { of_every: "p95" }), "raw", 3600],
    ["samples where a shift does not fall on buckets", ask(1, { step: 3600 }, { earlier: "45s" }), "raw", 3600],
    ["five minutes where it falls on those", ask(1, { step: 3600 }, { earlier: "5m" }), "5m", 3600],
  ] as const)("is %s", (_name, document, tier, step) => {
    expect(planReading(document, { x: series(2) }, { reach })).toMatchObject({
      tier,
      grid: { stepMs: step * 1000 },
      notes: [],
    });
  });
  test("of a total: rates are in rollups, their last is not", () => {
    expect(planReading(ask(7, { step: 3600 }), { x: series(1, "total") }, { reach }).tier).toBe("1h");
    expect(planReading(ask(7, { step: 3600 }, { of_every: "last" }), { x: series(1, "total") }, { reach }).tier).toBe(
      "raw",
    );
    expect(
      planReading(ask(7, { step: 3600 }, { of_every: "last", as: "value" }), { x: series(1, "total") }, { reach }).tier,
    ).toBe("1h");
  });
});

describe("what is bounded", () => {
  test("more values than an answer may hold: a coarser step, and a note", () => {
    const plan = planReading(ask(20, { step: 300 }), { x: series(5000) }, { reach });
    expect(plan.grid.count * 5000).toBeLessThanOrEqual(mostValues * 1.01);
    expect(plan.notes).toEqual(["An answer holds 2,000,000 values at most. The step is 2 h."]);
  });
  test("more samples than may be touched: five minutes instead, and a note", () => {
    const plan = planReading(ask(20, { step: 60 }, { lines: "together" }), { x: series(500) }, { reach });
    expect((500 * 20 * dayMs) / 5000).toBeGreaterThan(mostSamples);
    expect(plan).toMatchObject({
      tier: "5m",
      grid: { stepMs: 300_000 },
      notes: ["This would be worked out from more than 50 million samples. The step is 5 min."],
    });
    expect(plan.samples).toBeLessThan(mostSamples);
  });
  test("a percentile of too many samples is worked out over means of five minutes, and says so", () => {
    const plan = planReading(
      ask(20, { step: 3600 }, { lines: "together", of_every: "p95" }),
      { x: series(500) },
      { reach },
    );
    expect(plan.sentences[0]).toMatchObject({ tier: "5m", overBuckets: true });
    expect(plan.notes).toEqual(["x: worked out over means of 5 min, for there are too many samples."]);
  });
  test("a window that reaches back further than samples, and than five minutes, are kept", () => {
    expect(planReading(ask(40, { step: 60 }), { x: series(1) }, { reach })).toMatchObject({
      grid: { stepMs: 300_000 },
      notes: ["Part of this window is kept in buckets of 5 min only. The step is 5 min."],
    });
    expect(planReading(ask(200, { step: 5400 }), { x: series(1) }, { reach })).toMatchObject({
      grid: { stepMs: 7_200_000 },
      notes: ["Part of this window is kept by the hour only. The step is 2 h."],
    });
  });
});
