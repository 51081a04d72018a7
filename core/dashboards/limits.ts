import type { Severity } from "../rules/rule.ts";

/** A limit that is drawn on a tile: a notch on a meter, a rule on a chart. Equal to it is not past it. */
export interface TileLimit {
  readonly at: number;
  readonly compare: "above" | "below";
  readonly severity: Severity;
}

/** The gravest of the limits that a value is past; null where it is past none. */
export function passedLimit(limits: readonly TileLimit[], value: number): Severity | null {
  const passed = limits.filter(({ at, compare }) => (compare === "above" ? value > at : value < at));
  return passed.some(({ severity }) => severity === "urgent") ? "urgent" : passed.length > 0 ? "notice" : null;
}
