/** How a counter behaves over time: it decides what a chart shows unless asked otherwise. */
export type CounterKind =
  /** Only grows and restarts at 0; shown as a rate. */
  | "total"
  /** Goes up and down; shown as it is. */
  | "level"
  /** One of a few named states as a number. */
  | "state"
  /** Counts up to each bucket's bound (tag `le`), which only grow. */
  | "distribution";

export const counterKinds: readonly CounterKind[] = ["total", "level", "state", "distribution"];

/** Whether values of this kind only grow and restart at 0: totals, and the counts of a distribution's buckets. */
export function onlyGrows(kind: CounterKind): boolean {
  return kind === "total" || kind === "distribution";
}

/**
 * What it means that a total falls: that it restarted at 0, as mostly; that it was corrected by a little, or (a number)
 * that it wrapped at that number, only where its format says so.
 */
export type Falls = "restart" | "corrected" | number;

/** Where counters of 32 bits wrap. */
export const wrap32 = 2 ** 32;

/** Names and values that tell series of one counter apart; `machine` is always among them once stored. */
export type Tags = Readonly<Record<string, string>>;

/** What the catalogue says about a counter. */
export interface CounterInfo {
  /** OpenTelemetry semantic conventions' name where they have one, ours in the same style otherwise. */
  readonly name: string;
  /** The name in plain words, lower case. */
  readonly words: string;
  /** What it counts and what more of it means. */
  readonly explains: string;
  /** UCUM code; annotations such as `{packet}` for plain counts. */
  readonly unit: string;
  readonly kind: CounterKind;
  /** What it means that it falls, of a total; absent where that is a restart. */
  readonly falls?: Falls;
  /** What is shown of it unless asked otherwise; absent where its kind says it all (`naturalReduction`). */
  readonly reduction?: Reduction;
  /** A limit to begin with, in its unit, as it is shown. */
  readonly limit?: CommonLimit;
}

/** How a counter's values are brought to one figure: over time, and over series that share a line. */
export interface Reduction {
  readonly as: "rate" | "value";
  readonly ofEvery: "mean" | "last" | "max" | "min";
  readonly combine: "sum" | "mean" | "max" | "min";
}

/** A limit that a practitioner would begin with. */
export interface CommonLimit {
  readonly compare: "above" | "below";
  readonly value: number;
  /** Where it comes from. */
  readonly from: string;
}

/** One value as a format's parser yields it; the machine's own tag is added later, by the source. */
export type Emit = (counter: string, tags: Tags, value: number, falls?: Falls) => void;
