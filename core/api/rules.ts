import type { Mode, Rule, Severity } from "../rules/rule.ts";

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
