import { describe, expect, test } from "vitest";
import { planReading, type SentencePlan } from "../../../core/reading/plan.ts";
import { seeded } from "../../../core/testing/random.ts";
import { readingSpans } from "./reading-spans.ts";

const minute = 60_000;
const hour = 60 * minute;
const day = 24 * hour;

function planOf(from: number, to: number, step: number, sentence: object): SentencePlan {
  const [plan] = planReading(
    { window: { from, to }, step, sentences: { x: { counter: "x", ...sentence } } },
    { x: [{ tags: {}, unit: "By", kind: "total" }] },
    { intervalsMs: { x: Float64Array.of(15_000) } },
  ).sentences;
  return plan as SentencePlan;
}

describe("what is read from where", () => {
  test("hours, then five minutes, then samples, each up to where it is complete (hand-worked)", () => {
    const spans = readingSpans(planOf(10 * day, 20 * day, 7200, {}), {
      fiveMinutesUntilMs: 19 * day,
      hoursUntilMs: 14 * day,
      rawFromMs: 0,
    });
    expect(spans.map(({ tier, toMs }) => [tier, toMs / day])).toEqual([
      ["1h", 14],
      ["5m", 19],
      ["raw", expect.any(Number)],
    ]);
  });
  test("a sum whose window begins and ends inside buckets reads those from the samples", () => {
    const [from, to] = [10 * day + 7 * minute + 13_000, 12 * day + 61 * minute];
    const spans = readingSpans(planOf(from, to, 3600, { as: "increase" }), {
      fiveMinutesUntilMs: 19 * day,
      hoursUntilMs: 14 * day,
      rawFromMs: 0,
    });
    const tierAt = (ms: number) => spans.find(({ fromMs, toMs }) => fromMs <= ms && ms < toMs)?.tier;
    expect([from, to].map(tierAt)).toEqual(["raw", "raw"]);
    expect([10 * day + 12 * minute, 12 * day + 56 * minute + 1, 11 * day].map(tierAt)).toEqual(["5m", "1h", "1h"]);
    expect(
      readingSpans(planOf(from, to, 3600, { as: "increase" }), {
        fiveMinutesUntilMs: 19 * day,
        hoursUntilMs: 14 * day,
        rawFromMs: 15 * day,
      }).some(({ tier }) => tier === "raw"),
    ).toBe(false);
  });
  test("a mean, which fills its steps, is cut nowhere", () => {
    const spans = readingSpans(planOf(10 * day + 7 * minute, 12 * day + 7 * minute, 3600, {}), {
      fiveMinutesUntilMs: 19 * day,
      hoursUntilMs: 14 * day,
      rawFromMs: 0,
    });
    expect(spans.map(({ tier }) => tier)).toEqual(["1h"]);
  });
  test("spans follow one another without gaps, change tier at bounds of buckets alone, and are never coarser than what is complete (seeds 1 to 300)", () => {
    for (let seed = 1; seed <= 300; seed++) {
      const random = seeded(seed);
      const from = Math.floor(random() * 20 * day);
      const to = from + Math.floor((0.01 + 10 * random()) * day);
      const bounds = {
        fiveMinutesUntilMs: Math.floor(random() * 30) * day,
        hoursUntilMs: 0,
        rawFromMs: Math.floor(random() * 10) * day,
      };
      bounds.hoursUntilMs = Math.min(bounds.fiveMinutesUntilMs, Math.floor(random() * 30) * day);
      const plan = planOf(
        from,
        to,
        [60, 300, 3600, 86_400][seed % 4] as number,
        seed % 2 === 0 ? { as: "increase" } : {},
      );
      const spans = readingSpans(plan, bounds);
      expect(spans[0]?.fromMs, `seed ${seed}`).toBe(plan.fromMs);
      expect(spans.at(-1)?.toMs, `seed ${seed}`).toBe(plan.toMs);
      for (const [i, { tier, fromMs, toMs }] of spans.entries()) {
        if (i > 0) expect(fromMs, `seed ${seed}`).toBe(spans[i - 1]?.toMs);
        if (i > 0) expect(fromMs % (5 * minute), `seed ${seed}`).toBe(0);
        if (tier === "1h")
          expect(toMs <= bounds.hoursUntilMs && (i === 0 || fromMs % hour === 0), `seed ${seed}`).toBe(true);
        if (tier === "5m") expect(toMs <= bounds.fiveMinutesUntilMs, `seed ${seed}`).toBe(true);
      }
    }
  });
});
