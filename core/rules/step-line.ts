import type { Effect, Limit, LimitState, LineState, Mode, RuleDocument, Severity } from "./rule.ts";
import { freshLimit, passes, stepLimit } from "./step-limit.ts";

export type SteppedRule = Pick<
  RuleDocument,
  "compare" | "notice" | "urgent" | "mustLastSeconds" | "staysRaisedSeconds" | "noData"
>;

/**
 * A line that is checked for the first time. After a rule was changed, a severity that it has lost is left out and one
 * that it has gained
 * begins; what stands on goes on: an incident that is open then clears or not by the new limits, at the next check.
 */
export function lineStateFor(rule: SteppedRule, before: LineState | undefined, nowMs: number): LineState {
  const of = (limit: Limit | null, state: LimitState | null | undefined) =>
    limit === null ? null : (state ?? freshLimit(nowMs));
  return { notice: of(rule.notice, before?.notice), urgent: of(rule.urgent, before?.urgent) };
}

/** What is open on a line: the graver of its severities. */
export function openSeverity({ notice, urgent }: LineState): Severity | null {
  return urgent?.open ? "urgent" : notice?.open ? "notice" : null;
}

/**
 * One check of one line: both severities by themselves, and what that asks of the incident, of which there is at most
 * one a line.
 */
export function stepLine(
  rule: SteppedRule,
  state: LineState,
  value: number | null,
  nowMs: number,
): { readonly state: LineState; readonly effect?: Effect } {
  const notice = rule.notice && state.notice ? stepLimit(rule, rule.notice, state.notice, value, nowMs) : state.notice;
  const urgent = rule.urgent && state.urgent ? stepLimit(rule, rule.urgent, state.urgent, value, nowMs) : state.urgent;
  if (notice === state.notice && urgent === state.urgent) return { state };
  const next: LineState = { notice, urgent };
  const [before, after] = [openSeverity(state), openSeverity(next)];
  if (before === after) return { state: next };
  if (before === null)
    return { state: next, effect: { kind: "raise", severity: after as Severity, atMs: nowMs, value } };
  if (after === null) return { state: next, effect: { kind: "clear", severity: before, atMs: nowMs, value } };
  return { state: next, effect: { kind: after === "urgent" ? "worsen" : "ease", severity: after, atMs: nowMs, value } };
}

/** Whether a check with this value would change nothing: both severities are quiet and stay so. */
export function isStill(rule: SteppedRule, { notice, urgent }: LineState, value: number): boolean {
  if ((notice !== null && notice.mode !== "quiet") || (urgent !== null && urgent.mode !== "quiet")) return false;
  return (
    !(rule.notice && passes(rule.compare, rule.notice, value, false)) &&
    !(rule.urgent && passes(rule.compare, rule.urgent, value, false))
  );
}

const order: readonly Mode[] = ["raised", "easing", "blind", "building", "quiet"];

/** How a line is shown: the mode of its graver severity, an open one before any other. */
export function shownMode({ notice, urgent }: LineState): {
  readonly mode: Mode;
  readonly sinceMs: number;
  readonly severity: Severity;
} {
  const all = [
    ...(urgent ? [{ ...urgent, severity: "urgent" as const }] : []),
    ...(notice ? [{ ...notice, severity: "notice" as const }] : []),
  ];
  const rank = ({ mode, open }: LimitState) => order.indexOf(mode) - (open ? order.length : 0);
  const worst = all.reduce((a, b) => (rank(b) < rank(a) ? b : a));
  return { mode: worst.mode, sinceMs: worst.sinceMs, severity: worst.severity };
}
