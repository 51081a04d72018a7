import type { Compare, Limit, LimitState, NoData, RuleDocument } from "./rule.ts";

export const freshLimit = (nowMs: number): LimitState => ({ mode: "quiet", sinceMs: nowMs, open: false });

/**
 * Whether a value passes a limit. While an incident is open the clearing limits count, where there are any. Equal is
 * not past; NaN passes nothing.
 */
export function passes(
  compare: Compare,
  { low, high, clearLow, clearHigh }: Limit,
  value: number,
  isOpen: boolean,
): boolean {
  const bottom = (isOpen ? clearLow : undefined) ?? low ?? Number.NEGATIVE_INFINITY;
  const top = (isOpen ? clearHigh : undefined) ?? high ?? Number.POSITIVE_INFINITY;
  switch (compare) {
    case "above":
      return value > top;
    case "below":
      return value < bottom;
    case "outside":
      return value > top || value < bottom;
    case "inside":
      return value > bottom && value < top;
  }
}

/**
 * One check of one limit on one line: the next state; whether an incident opens or closes is to be seen in `open`.
 * `value` is null where
 * there is none that is new enough. Times come from the caller; a clock that went back counts as no time passed.
 *
 * A rule at 75 % without delays is raised at the first reading above and cleared at the first at or below (common
 * practice, no source).
 */
export function stepLimit(
  rule: Pick<RuleDocument, "compare" | "mustLastSeconds" | "staysRaisedSeconds"> & { readonly noData: NoData },
  limit: Limit,
  state: LimitState,
  value: number | null,
  nowMs: number,
): LimitState {
  const enter = (mode: LimitState["mode"], open: boolean): LimitState =>
    mode === state.mode && open === state.open ? state : { mode, sinceMs: nowMs, open };
  if (value === null && rule.noData === "ignore") return state;
  if (value === null && rule.noData === "hold") return enter("blind", state.open);
  const lasted = Math.max(0, nowMs - state.sinceMs);
  if (value === null || passes(rule.compare, limit, value, state.open)) {
    if (state.open) return enter("raised", true);
    if (rule.mustLastSeconds === 0) return enter("raised", true);
    if (state.mode === "building") return lasted >= rule.mustLastSeconds * 1000 ? enter("raised", true) : state;
    return enter("building", false);
  }
  if (!state.open) return enter("quiet", false);
  if (rule.staysRaisedSeconds === 0) return enter("quiet", false);
  if (state.mode === "easing") return lasted >= rule.staysRaisedSeconds * 1000 ? enter("quiet", false) : state;
  return enter("easing", true);
}
