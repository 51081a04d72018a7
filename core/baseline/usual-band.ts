import { type Usual, type UsualLine, usualWindowMs } from "./usual-range.ts";

/** What is usual at each step of a chart; null where too little past is known. */
export interface UsualBand {
  readonly low: readonly (number | null)[];
  readonly mid: readonly (number | null)[];
  readonly high: readonly (number | null)[];
}

const hourMs = 3_600_000;
const dayMs = 24 * hourMs;

/** How finely a window's usual is told. */
export interface BandGrain {
  /** The step of the past that it is worked out from, ms. */
  readonly pastStepMs: number;
  /** It is worked out at moments so far apart, ms; between them it goes in a straight line. */
  readonly everyMs: number;
}

/** By the hour over days, as weeks are compared by hours; finer over hours. */
export function bandGrain(windowMs: number): BandGrain {
  if (windowMs > 2 * dayMs) return { pastStepMs: hourMs, everyMs: hourMs };
  return { pastStepMs: 300_000, everyMs: windowMs > hourMs * 6 ? 900_000 : 300_000 };
}

/**
 * What is usual in the middle of each of `count` steps: low and high are one standard deviation from the median
 * (`UsualLine`).
 */
export function usualBand(
  usual: UsualLine,
  { fromMs, stepMs, count }: { readonly fromMs: number; readonly stepMs: number; readonly count: number },
  { pastStepMs, everyMs }: BandGrain,
): UsualBand {
  // What is compared ends where it is asked for: the middle of it is half its length earlier.
  const half = Math.max(usualWindowMs, pastStepMs) / 2;
  const known = new Map<number, Usual | undefined>();
  const at = (k: number) => {
    let found = known.get(k);
    if (found === undefined && !known.has(k)) known.set(k, (found = usual.at(k * everyMs)));
    return found;
  };
  const low: (number | null)[] = [];
  const mid: (number | null)[] = [];
  const high: (number | null)[] = [];
  for (let i = 0; i < count; i++) {
    const place = (fromMs + (i + 0.5) * stepMs + half) / everyMs;
    const before = at(Math.floor(place));
    const after = at(Math.floor(place) + 1) ?? before;
    const share = place - Math.floor(place);
    low.push(before && after ? before.low + (after.low - before.low) * share : null);
    mid.push(before && after ? before.mid + (after.mid - before.mid) * share : null);
    high.push(before && after ? before.high + (after.high - before.high) * share : null);
  }
  return { low, mid, high };
}
