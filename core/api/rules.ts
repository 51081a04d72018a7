import type { Mode, Rule, RuleDocument, Severity } from "../rules/rule.ts";
import { route } from "./route.ts";
import type { LinesOf, Nothing } from "./route.ts";
import type { RehearsalAnswer } from "../rules/rehearse.ts";

/** A rule with where it stands; `mode` is null while it is off or not yet checked. */
export interface RuleView extends Rule {
  readonly changedBy: string;
  readonly changedAtMs: number;
  /** Of which ready-made rule it was made; null where of none. */
  readonly readyMade: string | null;
  /** Of its worst line. */
  readonly mode: Mode | null;
  /** Of that mode: which of its limits it is. */
  readonly severity: Severity;
  readonly sinceMs: number | null;
  readonly value: number | null;
  /** Of its values. */
  readonly unit: string;
  readonly lines: number;
  readonly raised: number;
  readonly failure: string | null;
}

/** A line of a rehearsal: how much of it is done, and at the end what came of it or why nothing did. */
export interface RehearsalLine {
  readonly progress?: number;
  readonly result?: RehearsalAnswer;
  readonly problem?: { readonly status: number };
}

/** What is left out of a rule is as usual. */
export type RuleBody = Pick<RuleDocument, "name" | "reading"> & Partial<RuleDocument>;

export const listRules = route("GET", "/rules")<Nothing, readonly RuleView[]>();
export const makeRule = route("POST", "/rules", 201)<RuleBody, RuleView>();
export const makeReadyMadeRule = route("POST", "/rules/ready-made", 201)<{ readonly readyMade: string }, RuleView>();
export const rehearseRule = route("POST", "/rules/rehearse")<
  { readonly rule: RuleDocument; readonly from: number; readonly to: number; readonly zone: string },
  LinesOf<RehearsalLine>
>();
export const changeRule = route("PUT", "/rules/:id")<RuleBody, RuleView>();
export const switchRule = route("PATCH", "/rules/:id")<{ readonly on: boolean }, RuleView>();
export const removeRule = route("DELETE", "/rules/:id", 204)();
