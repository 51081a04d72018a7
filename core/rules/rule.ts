import type { Tags } from "../counters/counter.ts";
import type { ReadingDocument } from "../reading/document.ts";

export const severities = ["notice", "urgent"] as const;
export type Severity = (typeof severities)[number];

export const compares = ["above", "below", "outside", "inside"] as const;
export type Compare = (typeof compares)[number];

/** What of the last `overSeconds` is compared; with 0 the newest value is, whatever it says here. */
export const measures = ["last", "mean", "min", "max", "p50", "p90", "p95", "p99"] as const;
export type Measure = (typeof measures)[number];

/**
 * What is made of a line's values, the figure that is compared with the limits:
 *
 *  - value: a measure of the last while, in the reading's unit.
 *  - change: how far it is from what it was that long ago, in the reading's unit, with its sign.
 *  - silence: seconds for which nothing has been reported.
 *  - reach: seconds until `target` is reached at the rate of the last `pastSeconds`; infinite where it goes the other
 *    way.
 *  - usual: how many standard deviations it lies from what it mostly is at this clock time
 *    (core/baseline/usual-range.ts).
 */
export type Watch =
  | { readonly kind: "value"; readonly of: Measure; readonly overSeconds: number }
  | { readonly kind: "change"; readonly overSeconds: number }
  | { readonly kind: "silence" }
  | { readonly kind: "reach"; readonly target: number; readonly pastSeconds: number }
  | { readonly kind: "usual" };

/**
 * Where one severity is raised, and where it clears if that is another place. Above has `high`, below `low`, outside
 * and inside have both. Equal is not past.
 */
export interface Limit {
  readonly low?: number;
  readonly high?: number;
  /** At or above it has cleared (below it, for inside). */
  readonly clearLow?: number;
  /** At or below it has cleared (above it, for inside). */
  readonly clearHigh?: number;
}

/**
 * What is made of there being no value: raised as if the limit were passed; as it was, shown as blind; nothing at all.
 */
export const noDataAnswers = ["raise", "hold", "ignore"] as const;
export type NoData = (typeof noDataAnswers)[number];

/**
 * What holds when a line is not told of any more, while its machine is: it is over, or that is taken as there being no
 * value. By kind: over for what comes and goes
 * (processes, containers, guests).
 */
export const whenGoneAnswers = ["by kind", "over", "no data"] as const;
export type WhenGone = (typeof whenGoneAnswers)[number];

/** A tile that a rule belongs to. */
export interface RulePlace {
  readonly dashboard: number;
  readonly tile: string;
}

/** What a rule says; who changes it changes this. */
export interface RuleDocument {
  readonly name: string;
  /** What is checked; its window is replaced by the newest moments at every check. */
  readonly reading: Omit<ReadingDocument, "window">;
  readonly watch: Watch;
  readonly compare: Compare;
  /** One at least. */
  readonly notice: Limit | null;
  readonly urgent: Limit | null;
  /** How often it is checked; 0: with every step of the data. */
  readonly everySeconds: number;
  /** Seconds that a limit must be passed before it is raised; 0 raises at once. */
  readonly mustLastSeconds: number;
  /** Seconds that it stays raised after the limit is no longer passed; 0 clears at once. */
  readonly staysRaisedSeconds: number;
  readonly noData: NoData;
  /** Absent: by kind. */
  readonly whenGone?: WhenGone;
  /** How much before and after an incident links show; null: as much as the incident lasted, five minutes to a day. */
  readonly marginSeconds: number | null;
  readonly place: RulePlace | null;
  /** What to do, for whoever is woken. */
  readonly advice: string;
}

/** What a person asked to be told. */
export interface Rule extends RuleDocument {
  readonly id: number;
  readonly on: boolean;
}

/**
 * The mode of one limit on one line.
 *
 *  - quiet: the limit is not passed.
 *  - building: it is passed, but not yet for as long as it must last.
 *  - raised: an incident is open.
 *  - easing: an incident is open, the limit is no longer passed, but it stays raised a while.
 *  - blind: there is no newer value. An incident that was open stays open: missing data is never "fine".
 */
export type Mode = "quiet" | "building" | "raised" | "easing" | "blind";

/** Where one limit stands on one line. */
export interface LimitState {
  readonly mode: Mode;
  /** When the mode began, ms. */
  readonly sinceMs: number;
  /** Always in raised and easing, never in quiet and building, either in blind. */
  readonly open: boolean;
}

/** Where a line stands: each severity by itself; null where the rule has no such limit. */
export interface LineState {
  readonly notice: LimitState | null;
  readonly urgent: LimitState | null;
}

/**
 * What a step asks the world to do: an incident opens, becomes urgent, becomes a notice again, or closes. The value is
 * null where there
 * is none and the rule is raised for that.
 */
export interface Effect {
  readonly kind: "raise" | "worsen" | "ease" | "clear";
  /** What is open after it; of "clear" what was. */
  readonly severity: Severity;
  readonly atMs: number;
  readonly value: number | null;
}

/** What an incident is of: a rule's comparison, the silence of a source, or a rule that cannot be checked. */
export type IncidentOf = Compare | "silent" | "failed";

export interface IncidentView {
  readonly id: number;
  /** 0 where it is of no rule, or of one that has gone. */
  readonly ruleId: number;
  readonly ruleName: string;
  /** What it is now, or was at its end. */
  readonly severity: Severity;
  readonly tags: Tags;
  readonly compare: IncidentOf;
  readonly watch: Watch["kind"];
  /** The limit that was passed first; for ranges the end that was. */
  readonly limit: number;
  /** Of limit and values. */
  readonly unit: string;
  readonly raisedAtMs: number;
  readonly clearedAtMs: number | null;
  /** At the moment of raising; null where it was raised for want of one. */
  readonly value: number | null;
  /** The value furthest beyond the limit while it was open. */
  readonly furthest: number | null;
  /** The value at which it cleared; null while it is open, and where it ended otherwise. */
  readonly clearedValue: number | null;
  /**
   * What ended it but a value: what it was of is not there any more, or its rule was changed, switched off or removed.
   */
  readonly ended: "gone" | "rule" | null;
  readonly acknowledgedBy: string | null;
  readonly acknowledgedAtMs: number | null;
  /** Nobody is told of it until then. */
  readonly snoozedUntilMs: number | null;
  /** The quiet time that hides it from recipients, or hid it to its end; null where none does. */
  readonly quietId: number | null;
  /** Who closed it by hand. */
  readonly closedBy: string | null;
}

const passing = ["pid", "process", "container", "guest"] as const;

/** Whether a line's incident is over once nobody tells of the line any more. */
export function isOverWhenGone({ whenGone = "by kind" }: Pick<RuleDocument, "whenGone">, tags: Tags): boolean {
  return whenGone === "over" || (whenGone === "by kind" && passing.some((tag) => tags[tag] !== undefined));
}

export const watchedValue: Watch = { kind: "value", of: "last", overSeconds: 0 };
