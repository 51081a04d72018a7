import type { Effect, LineState, Rule } from "./rule.ts";

export const freshLine = (nowMs: number): LineState => ({ mode: "quiet", sinceMs: nowMs, open: false });

/**
 * One check of one line: the next state, and what to do about it. `value` is the newest value or null where there is none that is
 * new enough. Times come from the caller; a clock that went back counts as no time passed.
 *
 * Passing the limit means strictly above (or below) it, so that a rule at 75 % without delays is raised at the first reading above
 * and cleared at the first at or below (common practice, no source).
 */
export function stepLine(rule: Pick<Rule, "compare" | "limit" | "mustLastSeconds" | "staysRaisedSeconds">, state: LineState, value: number | null, nowMs: number): { readonly state: LineState; readonly effect?: Effect } {
  const enter = (mode: LineState["mode"], open: boolean): LineState => (mode === state.mode && open === state.open ? state : { mode, sinceMs: nowMs, open });
  if (value === null) return { state: enter("blind", state.open) };

  const passed = rule.compare === "above" ? value > rule.limit : value < rule.limit;
  const lasted = Math.max(0, nowMs - state.sinceMs);
  const raise = (): { state: LineState; effect: Effect } => ({ state: enter("raised", true), effect: { kind: "raise", atMs: nowMs, value } });
  const clear = (): { state: LineState; effect: Effect } => ({ state: enter("quiet", false), effect: { kind: "clear", atMs: nowMs, value } });

  if (passed) {
    if (state.open) return { state: enter("raised", true) };
    if (rule.mustLastSeconds === 0) return raise();
    if (state.mode === "building") return lasted >= rule.mustLastSeconds * 1000 ? raise() : { state };
    return { state: enter("building", false) };
  }
  if (!state.open) return { state: enter("quiet", false) };
  if (rule.staysRaisedSeconds === 0) return clear();
  if (state.mode === "easing") return lasted >= rule.staysRaisedSeconds * 1000 ? clear() : { state };
  return { state: enter("easing", true) };
}
