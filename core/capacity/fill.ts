import { medianSlope } from "../series/slope.ts";

const dayMs = 86_400_000;
/** A trend of less than this says nothing about days to come. */
const leastMs = dayMs;
const leastPoints = 12;

export interface Fill {
  /** Share that is used, 0 to 1. */
  readonly share: number;
  /** When it is full at the rate of the past, ms from its newest value; null where it does not fill, or too little is known. */
  readonly fullInMs: number | null;
}

/** How full something is and how long that goes on, from shares (0 to 1) at evenly spaced moments; null is a gap. Undefined where there is none. */
export function fillOf(values: readonly (number | null)[], stepMs: number): Fill | undefined {
  const x: number[] = [];
  const y: number[] = [];
  values.forEach((value, i) => {
    if (value === null) return;
    x.push(i * stepMs);
    y.push(value);
  });
  const share = y.at(-1);
  if (share === undefined) return undefined;
  const known = (x.at(-1) as number) - (x[0] as number);
  if (x.length < leastPoints || known < leastMs) return { share, fullInMs: null };
  const perMs = medianSlope(x, y);
  return { share, fullInMs: perMs > 0 ? Math.max(0, (1 - share) / perMs) : null };
}
