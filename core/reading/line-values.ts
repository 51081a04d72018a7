import type { Values } from "./steps.ts";

/** A line as it was worked out, before it is answered. */
export interface LineValues {
  /** One a step; NaN is a gap. */
  readonly values: Values;
  /** Least and most within each step, where they were asked for and the line is one series. */
  readonly lows?: Values;
  readonly highs?: Values;
  /** How many series each step has, of a line that several share. */
  readonly members?: Int32Array;
  /** The least and the most of the samples, and their mean; NaN where only the steps tell. */
  readonly least: number;
  readonly most: number;
  readonly mean: number;
  /** The newest sample of the window and until when it holds, ms; NaN where only the steps tell. */
  readonly newest: number;
  readonly newestUntilMs: number;
  /**
   * Over the window: the growth of totals, the integral of levels in ms times their unit; NaN where it was not asked
   * for, or does not add up.
   */
  readonly sum: number;
  /** Until when every series that still reports has told, ms; infinite where none is waited for. */
  readonly toldUntilMs: number;
  /** Infinite samples that were left out. */
  readonly infinite: number;
}

/**
 * Joins two parts of one line that were worked out of different series; `join` joins their values in place. Where only
 * one part has the line, it is that part's.
 */
export function joinLineValues(
  into: LineValues,
  other: LineValues,
  join: (into: Values, other: Values) => void,
): LineValues {
  join(into.values, other.values);
  const members = into.members ?? other.members;
  if (into.members && other.members) for (let i = 0; i < into.members.length; i++) into.members[i] += other.members[i];
  return {
    ...other,
    ...into,
    ...(members && { members }),
    least: lesser(into.least, other.least),
    most: greater(into.most, other.most),
    sum: added(into.sum, other.sum),
    mean: only(into.mean, other.mean),
    newest: only(into.newest, other.newest),
    newestUntilMs: only(into.newestUntilMs, other.newestUntilMs),
    toldUntilMs: Math.min(into.toldUntilMs, other.toldUntilMs),
    infinite: into.infinite + other.infinite,
  };
}

/** What is known of one part alone: a line that several series share has no mean of samples, and no newest one. */
const only = (a: number, b: number) => (Number.isNaN(a) ? b : Number.isNaN(b) ? a : Number.NaN);
const added = (a: number, b: number) => (Number.isNaN(a) ? b : Number.isNaN(b) ? a : a + b);
export const lesser = (a: number, b: number) => (b < a || Number.isNaN(a) ? b : a);
export const greater = (a: number, b: number) => (b > a || Number.isNaN(a) ? b : a);
