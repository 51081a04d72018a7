import fc from "fast-check";
import { describe, expect, test } from "vitest";
import type { Compare, Limit, LineState } from "./rule.ts";
import { extremesLength, fillExtremes } from "./block-extremes.ts";
import { runLine } from "./run-line.ts";
import { isStill, lineStateFor, openSeverity, shownMode, type SteppedRule, stepLine } from "./step-line.ts";
import { passes } from "./step-limit.ts";

const rule = (more: Partial<SteppedRule> = {}): SteppedRule => ({
  compare: "above",
  notice: { high: 75 },
  urgent: null,
  mustLastSeconds: 0,
  staysRaisedSeconds: 0,
  noData: "hold",
  ...more,
});
const signs = { raise: "!", clear: ".", worsen: "^", ease: "v" } as const;

/**
 * Runs values, five seconds apart, through the rule: the modes of its graver limit, with `!` where it was raised, `.`
 * where it cleared, `^` where it became urgent, `v` where a notice again.
 */
function timeline(of: SteppedRule, values: readonly (number | null)[], begin?: LineState): string {
  let state = lineStateFor(of, begin, 0);
  return values
    .map((value, i) => {
      const next = stepLine(of, state, value, (i + 1) * 5000);
      state = next.state;
      return `${shownMode(state).mode}${next.effect ? signs[next.effect.kind] : ""}`;
    })
    .join(" ");
}

describe("timelines worked by hand, one limit", () => {
  test.each([
    [
      "0 s: raised at the first reading above, cleared at the first at or below (common practice, no source)",
      rule(),
      [70, 75, 76, 90, 75, 80],
      "quiet quiet raised! raised quiet. raised!",
    ],
    ["below", rule({ compare: "below", notice: { low: 10 } }), [11, 10, 9, 10], "quiet quiet raised! quiet."],
    [
      "outside a range",
      rule({ compare: "outside", notice: { low: 10, high: 30 } }),
      [10, 9, 20, 30, 31, 10],
      "quiet raised! quiet. quiet raised! quiet.",
    ],
    [
      "inside a range",
      rule({ compare: "inside", notice: { low: 10, high: 30 } }),
      [10, 11, 30, 29, 40],
      "quiet raised! quiet. raised! quiet.",
    ],
    [
      "clears at another place than it is raised",
      rule({ notice: { high: 75, clearHigh: 70 } }),
      [76, 74, 71, 70, 74],
      "raised! raised raised quiet. quiet",
    ],
    [
      "clears at another place, below",
      rule({ compare: "below", notice: { low: 10, clearLow: 20 } }),
      [9, 15, 19, 20],
      "raised! raised raised quiet.",
    ],
    [
      "clears at another place, outside",
      rule({ compare: "outside", notice: { low: 10, high: 30, clearLow: 12, clearHigh: 28 } }),
      [9, 11, 29, 28],
      "raised! raised raised quiet.",
    ],
    ["must last 10 s", rule({ mustLastSeconds: 10 }), [80, 80, 80, 80, 70], "building building raised! raised quiet."],
    [
      "must last 10 s, interrupted: counted anew",
      rule({ mustLastSeconds: 10 }),
      [80, 80, 70, 80, 80, 80],
      "building building quiet building building raised!",
    ],
    ["stays raised 10 s", rule({ staysRaisedSeconds: 10 }), [80, 70, 70, 70, 70], "raised! easing easing quiet. quiet"],
    [
      "stays raised 10 s, passed again: one incident",
      rule({ staysRaisedSeconds: 10 }),
      [80, 70, 80, 70, 70, 70],
      "raised! easing raised easing easing quiet.",
    ],
    ["no data before anything was raised", rule(), [null, 70, null, 80], "blind quiet blind raised!"],
    [
      "no data while building: it begins anew",
      rule({ mustLastSeconds: 10 }),
      [80, null, 80, 80, 80],
      "building blind building building raised!",
    ],
    [
      "no data while raised: the incident stays open",
      rule(),
      [80, null, null, 80, 70],
      "raised! blind blind raised quiet.",
    ],
    [
      "no data while easing: it eases anew",
      rule({ staysRaisedSeconds: 10 }),
      [80, 70, null, 70, 70, 70],
      "raised! easing blind easing easing quiet.",
    ],
    ["cleared out of no data", rule(), [80, null, 70], "raised! blind quiet."],
    ["no data raises", rule({ noData: "raise" }), [70, null, null, 70], "quiet raised! raised quiet."],
    [
      "no data raises when it has lasted",
      rule({ noData: "raise", mustLastSeconds: 10 }),
      [70, null, null, null, 70],
      "quiet building building raised! quiet.",
    ],
    [
      "no data is ignored: nothing is made of it in any mode",
      rule({ noData: "ignore", mustLastSeconds: 10 }),
      [null, 80, null, 80, 80, null, 70],
      "quiet building building raised! raised raised quiet.",
    ],
  ] as const)("%s", (_name, of, values, expected) => expect(timeline(of, values)).toBe(expected));
});

describe("timelines worked by hand, two severities: one incident", () => {
  const both = rule({ urgent: { high: 90 } });
  test.each([
    ["becomes urgent, a notice again, and clears", both, [80, 95, 85, 70], "raised! raised^ raisedv quiet."],
    ["urgent at once", both, [95, 70], "raised! quiet."],
    ["urgent alone", rule({ notice: null, urgent: { high: 90 } }), [80, 95, 80], "quiet raised! quiet."],
    [
      "each must last by itself",
      rule({ urgent: { high: 90 }, mustLastSeconds: 10 }),
      [80, 80, 95, 95, 95],
      "building building raised! raised raised^",
    ],
    ["no data leaves both as they are", both, [95, null, 95], "raised! blind raised"],
  ] as const)("%s", (_name, of, values, expected) => expect(timeline(of, values)).toBe(expected));
});

test("a clock that goes back counts as no time passed, one that jumps on as time passed", () => {
  const building: LineState = { notice: { mode: "building", sinceMs: 100_000, open: false }, urgent: null };
  const limits = rule({ mustLastSeconds: 10 });
  expect(stepLine(limits, building, 80, 50_000).state).toBe(building);
  expect(stepLine(limits, building, 80, 110_000).effect).toEqual({
    kind: "raise",
    severity: "notice",
    atMs: 110_000,
    value: 80,
  });
});

describe("a rule that is changed while a line is raised", () => {
  const raised: LineState = { notice: { mode: "raised", sinceMs: 0, open: true }, urgent: null };
  test("another limit: the next check clears by it, or goes on", () => {
    expect(stepLine(rule({ notice: { high: 85 } }), raised, 80, 5000).effect?.kind).toBe("clear");
    expect(stepLine(rule({ notice: { high: 60 } }), raised, 80, 5000).effect).toBeUndefined();
  });
  test("a severity that it gains begins quiet; one that it loses is gone, with its incident as a notice or closed", () => {
    const both = rule({ urgent: { high: 90 } });
    expect(lineStateFor(both, raised, 7)).toEqual({
      notice: raised.notice,
      urgent: { mode: "quiet", sinceMs: 7, open: false },
    });
    expect(openSeverity(lineStateFor(rule({ notice: null, urgent: { high: 90 } }), raised, 7))).toBeNull();
  });
});

const anyValue = fc.option(fc.integer({ min: 60, max: 100 }), { nil: null });
const anyRule = fc.record({
  compare: fc.constantFrom<Compare>("above", "below", "outside", "inside"),
  notice: fc.constant<Limit>({ low: 70, high: 80, clearLow: 72, clearHigh: 78 }),
  urgent: fc.constantFrom<Limit | null>(null, { low: 65, high: 90 }),
  mustLastSeconds: fc.constantFrom(0, 10),
  staysRaisedSeconds: fc.constantFrom(0, 10),
  noData: fc.constantFrom("raise" as const, "hold" as const, "ignore" as const),
});

test("a restart in any mode goes on as if there had been none (property)", () => {
  fc.assert(
    fc.property(anyRule, fc.array(anyValue, { minLength: 1, maxLength: 30 }), (of, values) => {
      let straight = lineStateFor(of, undefined, 0);
      let stored = JSON.stringify(straight);
      values.forEach((value, i) => {
        straight = stepLine(of, straight, value, i * 5000).state;
        stored = JSON.stringify(
          stepLine(of, lineStateFor(of, JSON.parse(stored) as LineState, i * 5000), value, i * 5000).state,
        );
      });
      expect(JSON.parse(stored)).toEqual(straight);
    }),
  );
});

test("what is open fits the modes, and effects follow one another: raise, worsen or ease, clear (property)", () => {
  fc.assert(
    fc.property(anyRule, fc.array(anyValue, { maxLength: 60 }), (of, values) => {
      let state = lineStateFor(of, undefined, 0);
      let open: string | null = null;
      values.forEach((value, i) => {
        const next = stepLine(of, state, value, i * 5000);
        if (next.effect) {
          const { kind, severity } = next.effect;
          expect(kind === "raise" ? open === null : open !== null).toBe(true);
          if (kind === "worsen") expect([open, severity]).toEqual(["notice", "urgent"]);
          if (kind === "ease") expect([open, severity]).toEqual(["urgent", "notice"]);
          open = kind === "clear" ? null : severity;
        }
        state = next.state;
        expect(openSeverity(state)).toBe(open);
        for (const one of [state.notice, state.urgent])
          if (one && one.mode !== "blind") expect(one.open).toBe(one.mode === "raised" || one.mode === "easing");
      });
    }),
  );
});

/** Mostly one figure for long, so that whole blocks can be passed over, and any in between. */
const longRun = fc
  .array(
    fc.oneof(
      fc.record({ value: anyValue, times: fc.integer({ min: 1, max: 4 }) }),
      fc.record({ value: fc.integer({ min: 71, max: 79 }), times: fc.integer({ min: 60, max: 200 }) }),
      fc.record({ value: fc.integer({ min: 81, max: 100 }), times: fc.integer({ min: 60, max: 200 }) }),
    ),
    { maxLength: 12 },
  )
  .map((parts) => parts.flatMap(({ value, times }) => Array<number | null>(times).fill(value)));

test("running a line is stepping it, whatever is skipped on the way (property against stepping each value)", () => {
  fc.assert(
    fc.property(
      anyRule,
      fc.oneof(fc.array(anyValue, { maxLength: 80 }), longRun),
      fc.constantFrom(0, 10, 15),
      fc.nat(7),
      (of, values, everySeconds, late) => {
        const stepMs = 5000;
        const firstMs = 1_000_000 + late * stepMs;
        const everyMs = Math.max(stepMs, everySeconds * 1000);
        let state = lineStateFor(of, undefined, 0);
        const expected: string[] = [];
        values.forEach((value, i) => {
          const at = firstMs + i * stepMs;
          if (at % everyMs !== 0) return;
          const next = stepLine(of, state, value, at);
          state = next.state;
          if (next.effect) expected.push(`${next.effect.kind} ${next.effect.severity} ${at}`);
        });
        const gauges = Float64Array.from(values, (value) => value ?? Number.NaN);
        const extremes = new Float64Array(extremesLength(gauges.length));
        fillExtremes(gauges, extremes);
        for (const run of [
          { gauges, firstMs, stepMs },
          { gauges, firstMs, stepMs, extremes },
        ]) {
          const told: string[] = [];
          const end = runLine(
            { ...of, everySeconds },
            lineStateFor(of, undefined, 0),
            run,
            ({ kind, severity, atMs }) => told.push(`${kind} ${severity} ${atMs}`),
          );
          expect(told).toEqual(expected);
          expect(end).toEqual(state);
        }
      },
    ),
  );
});

test("nothing that is no number passes a limit, and none of it is still", () => {
  for (const compare of ["above", "below", "outside", "inside"] as const)
    expect(passes(compare, { low: 1, high: 2 }, Number.NaN, false)).toBe(false);
  expect(isStill(rule(), lineStateFor(rule(), undefined, 0), 76)).toBe(false);
  expect(isStill(rule(), { notice: { mode: "blind", sinceMs: 0, open: false }, urgent: null }, 10)).toBe(false);
});
