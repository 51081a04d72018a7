import { type Forecast, forecastReach } from "./forecast.ts";

export interface Fill {
  /** Share that is used, 0 to 1. */
  readonly share: number;
  /**
   * When it is full at its present rate, ms from its newest value: nine in ten lie between the earliest and the latest.
   * Null where it does not fill, or nothing can be said.
   */
  readonly full: NonNullable<Forecast["reached"]> | null;
}

/**
 * How full something is and how long that goes on, from shares (0 to 1) at evenly spaced moments; null is a gap.
 * Undefined where there is none.
 */
export function fillOf(values: readonly (number | null)[], stepMs: number): Fill | undefined {
  const found = forecastReach(
    Float64Array.from(values, (value) => value ?? Number.NaN),
    stepMs,
    1,
  );
  return found && { share: found.level, full: found.kind === "filling" ? (found.reached ?? null) : null };
}
