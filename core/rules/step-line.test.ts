import fc from "fast-check";
import { describe, expect, test } from "vitest";
import type { LineState, Rule } from "./rule.ts";
import { freshLine, stepLine } from "./step-line.ts";

type Limits = Pick<Rule, "compare" | "limit" | "mustLastSeconds" | "staysRaisedSeconds">;
const rule = (more: Partial<Limits> = {}): Limits => ({ compare: "above", limit: 75, mustLastSeconds: 0, staysRaisedSeconds: 0, ...more });

/** Runs values, five seconds apart, through the rule: the modes, with `!` where it was raised and `.` where it cleared. */
function timeline(limits: Limits, values: readonly (number | null)[], state: LineState = freshLine(0)): string {
  const words: string[] = [];
  values.forEach((value, i) => {
    const step = stepLine(limits, state, value, (i + 1) * 5000);
    state = step.state;
    words.push(`${state.mode}${step.effect?.kind === "raise" ? "!" : step.effect?.kind === "clear" ? "." : ""}`);
  });
  return words.join(" ");
}

describe("timelines worked by hand", () => {
  test.each([
    ["0 s: raised at the first reading above, cleared at the first at or below (common practice, no source)", rule(), [70, 75, 76, 90, 75, 80], "quiet quiet raised! raised quiet. raised!"],
    ["below", rule({ compare: "below", limit: 10 }), [11, 10, 9, 10], "quiet quiet raised! quiet."],
    ["must last 10 s", rule({ mustLastSeconds: 10 }), [80, 80, 80, 80, 70], "building building raised! raised quiet."],
    ["must last 10 s, interrupted: counted anew", rule({ mustLastSeconds: 10 }), [80, 80, 70, 80, 80, 80], "building building quiet building building raised!"],
    ["stays raised 10 s", rule({ staysRaisedSeconds: 10 }), [80, 70, 70, 70, 70], "raised! easing easing quiet. quiet"],
    ["stays raised 10 s, passed again: one incident", rule({ staysRaisedSeconds: 10 }), [80, 70, 80, 70, 70, 70], "raised! easing raised easing easing quiet."],
    ["no data before anything was raised", rule(), [null, 70, null, 80], "blind quiet blind raised!"],
    ["no data while building: it begins anew", rule({ mustLastSeconds: 10 }), [80, null, 80, 80, 80], "building blind building building raised!"],
    ["no data while raised: the incident stays open", rule(), [80, null, null, 80, 70], "raised! blind blind raised quiet."],
    ["no data while easing: it eases anew", rule({ staysRaisedSeconds: 10 }), [80, 70, null, 70, 70, 70], "raised! easing blind easing easing quiet."],
    ["cleared out of no data", rule(), [80, null, 70], "raised! blind quiet."],
  ] as const)("%s", (_name, limits, values, expected) => {
    expect(timeline(limits, values)).toBe(expected);
  });
});

test("a clock that goes back counts as no time passed, one that jumps on as time passed", () => {
  const building: LineState = { mode: "building", sinceMs: 100_000, open: false };
  const limits = rule({ mustLastSeconds: 10 });
  expect(stepLine(limits, building, 80, 50_000).state).toBe(building);
  expect(stepLine(limits, building, 80, 110_000).effect).toEqual({ kind: "raise", atMs: 110_000, value: 80 });
});

test("a restart in any mode goes on as if there had been none (property)", () => {
  const values = fc.array(fc.option(fc.integer({ min: 60, max: 90 })), { minLength: 1, maxLength: 30 });
  const limits = fc.record({ compare: fc.constantFrom("above" as const, "below" as const), limit: fc.constant(75), mustLastSeconds: fc.constantFrom(0, 10), staysRaisedSeconds: fc.constantFrom(0, 10) });
  fc.assert(
    fc.property(limits, values, (chosen, list) => {
      let straight = freshLine(0);
      let stored = JSON.stringify(straight);
      list.forEach((value, i) => {
        straight = stepLine(chosen, straight, value, i * 5000).state;
        stored = JSON.stringify(stepLine(chosen, JSON.parse(stored) as LineState, value, i * 5000).state);
      });
      expect(JSON.parse(stored)).toEqual(straight);
    }),
  );
});

test("what is open fits the mode, and raising and clearing alternate (property)", () => {
  fc.assert(
    fc.property(fc.array(fc.option(fc.integer({ min: 60, max: 90 })), { maxLength: 60 }), fc.constantFrom(0, 10), fc.constantFrom(0, 10), (values, mustLastSeconds, staysRaisedSeconds) => {
      let state = freshLine(0);
      let open = false;
      values.forEach((value, i) => {
        const step = stepLine(rule({ mustLastSeconds, staysRaisedSeconds }), state, value, i * 5000);
        if (step.effect) {
          expect(step.effect.kind).toBe(open ? "clear" : "raise");
          open = !open;
        }
        state = step.state;
        expect(state.open).toBe(open);
        if (state.mode !== "blind") expect(state.open).toBe(state.mode === "raised" || state.mode === "easing");
      });
    }),
  );
});
