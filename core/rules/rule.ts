import type { Tags } from "../counters/counter.ts";
import type { ReadingDocument } from "../reading/document.ts";

export type Severity = "notice" | "urgent";

/** What a person asked to be told. */
export interface Rule {
  readonly id: number;
  readonly name: string;
  /** What is checked; its window is replaced by the newest moments at every check. */
  readonly reading: Omit<ReadingDocument, "window">;
  readonly compare: "above" | "below";
  /** In the unit of the reading. Equal to it is not above and not below. */
  readonly limit: number;
  /** Seconds that the limit must be passed before the rule is raised; 0 raises at once. */
  readonly mustLastSeconds: number;
  /** Seconds that the rule stays raised after the limit is no longer passed; 0 clears at once. */
  readonly staysRaisedSeconds: number;
  readonly severity: Severity;
  readonly on: boolean;
}

/**
 * The mode of one line of a rule.
 *
 *  - quiet: the limit is not passed.
 *  - building: it is passed, but not yet for as long as it must last.
 *  - raised: an incident is open.
 *  - easing: an incident is open, the limit is no longer passed, but it stays raised a while.
 *  - blind: there is no newer value. An incident that was open stays open: missing data is never "fine".
 */
export type Mode = "quiet" | "building" | "raised" | "easing" | "blind";

export interface LineState {
  readonly mode: Mode;
  /** When the mode began, ms. */
  readonly sinceMs: number;
  /** Whether an incident is open: always in raised and easing, never in quiet and building, either in blind. */
  readonly open: boolean;
}

/** What a step asks the world to do. */
export type Effect = { readonly kind: "raise"; readonly atMs: number; readonly value: number } | { readonly kind: "clear"; readonly atMs: number; readonly value: number };

export interface IncidentView {
  readonly id: number;
  readonly ruleId: number;
  readonly ruleName: string;
  readonly severity: Severity;
  readonly tags: Tags;
  /** "silent": a source has not been heard; limit and values are seconds. */
  readonly compare: Rule["compare"] | "silent";
  readonly limit: number;
  readonly unit: string;
  readonly raisedAtMs: number;
  readonly clearedAtMs: number | null;
  /** At the moment of raising. */
  readonly value: number;
  /** The value furthest beyond the limit while it was open. */
  readonly furthest: number;
}
