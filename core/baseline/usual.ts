import { quantile } from "../series/quantile.ts";

export interface Unusual {
  /** What it mostly is at this time. */
  readonly usual: number;
  /** Now, in multiples of it. */
  readonly factor: number;
}

const leastBefore = 2;
const leastFactor = 1.8;
/** Deviations from the usual, in multiples of their own median, that still are the server doing its job. */
const mostDeviations = 4;

/**
 * Whether a value stands far above what it was at the same hour of earlier weeks: by a factor, by more than those weeks differ among
 * themselves (median absolute deviation; common practice, no source for the limits), and above a floor below which nobody cares.
 */
export function unusualAmong(now: number, before: readonly number[], floor: number): Unusual | undefined {
  if (before.length < leastBefore || !(now >= floor)) return undefined;
  const usual = quantile([...before].sort((a, b) => a - b), 0.5);
  const deviation = quantile(before.map((value) => Math.abs(value - usual)).sort((a, b) => a - b), 0.5);
  if (!(now >= leastFactor * usual) || now - usual <= mostDeviations * deviation) return undefined;
  return { usual, factor: usual > 0 ? now / usual : Number.POSITIVE_INFINITY };
}
