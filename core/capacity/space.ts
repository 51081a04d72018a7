import { medianOf } from "../series/select.ts";
import { eightInTen, type Forecast, forecastReach } from "./forecast.ts";

const dayMs = 86_400_000;
/** The rate of what does not fill is told over so many days. */
const rateDays = 28;

/** How full something is, how fast it fills, when it is full, and how good earlier forecasts of it were. */
export interface Space {
  /** Of its size, 0 to 1. */
  readonly share: number;
  /** Growth a day, of its size; below 0 where it empties. */
  readonly perDay: number;
  /** What it has grown by in seven days, of its size; null where it was not known then. */
  readonly weekChange: number | null;
  /** From its newest value on, ms: eight in ten lie between. Null where it does not fill or nothing can be said. */
  readonly full: NonNullable<Forecast["reached"]> | null;
  readonly kind: Forecast["kind"];
  /** What forecasts made so many days ago said of now, less what came, of its size; null where none could be made. */
  readonly error: { readonly days7: number | null; readonly days14: number | null; readonly days28: number | null };
}

/**
 * What is known of how something fills, of shares (0 to 1) at evenly spaced moments, NaN for gaps; undefined where there
 * is none. The rate of what fills is that of its forecast, else the median of the slopes between its days (Theil 1950,
 * Sen 1968), which neither a clean-up nor a weekly rhythm bends.
 */
export function spaceOf(shares: Float64Array, stepMs: number): Space | undefined {
  const found = forecastReach(shares, stepMs, 1, eightInTen);
  if (!found) return undefined;
  const full = found.kind === "filling" ? (found.reached ?? null) : null;
  const newest = newestOf(shares);
  const weekAgo = levelAround(shares, newest - Math.round((7 * dayMs) / stepMs), stepMs);
  return {
    share: found.level,
    perDay: rateOf(shares.subarray(0, newest + 1), stepMs, found),
    weekChange: weekAgo === undefined ? null : found.level - weekAgo,
    full,
    kind: found.kind,
    error: {
      days7: errorAfter(7, shares, stepMs, newest, found.level),
      days14: errorAfter(14, shares, stepMs, newest, found.level),
      days28: errorAfter(28, shares, stepMs, newest, found.level),
    },
  };
}

/** What the forecast of so many days ago said of now, less what is. */
function errorAfter(days: number, shares: Float64Array, stepMs: number, newest: number, level: number): number | null {
  const then = newest - Math.round((days * dayMs) / stepMs);
  if (then < Math.round((2 * dayMs) / stepMs)) return null;
  const past = shares.subarray(0, then + 1);
  const found = forecastReach(past, stepMs, 1, eightInTen);
  if (!found || found.kind === "unknown") return null;
  const rate = found.kind === "filling" ? rateOf(past, stepMs, found) : 0;
  return Math.min(1, found.level + rate * days) - level;
}

function rateOf(shares: Float64Array, stepMs: number, { kind, level, reached }: Forecast): number {
  if (kind === "filling" && reached && reached.likelyMs > 0) return ((1 - level) / reached.likelyMs) * dayMs;
  return slopeOfDays(shares, stepMs);
}

/** The median of the slopes between the medians of the days of the last four weeks, a day; 0 of fewer than two days. */
function slopeOfDays(shares: Float64Array, stepMs: number): number {
  const perDay = Math.max(1, Math.round(dayMs / stepMs));
  const days: number[] = [];
  for (let end = shares.length; end > 0 && days.length < rateDays; end -= perDay) {
    const known = shares.subarray(Math.max(0, end - perDay), end).filter((v) => !Number.isNaN(v));
    days.push(known.length === 0 ? Number.NaN : medianOf(known, known.length));
  }
  const slopes: number[] = [];
  for (let i = 0; i < days.length; i++)
    for (let k = i + 1; k < days.length; k++) {
      const slope = (days[i] - days[k]) / (k - i);
      if (!Number.isNaN(slope)) slopes.push(slope);
    }
  return slopes.length === 0 ? 0 : medianOf(Float64Array.from(slopes), slopes.length);
}

/** The value nearest to a moment, within a quarter of a day; undefined where there is none. */
function levelAround(shares: Float64Array, at: number, stepMs: number): number | undefined {
  const reach = Math.round(dayMs / 4 / stepMs);
  for (let by = 0; by <= reach; by++)
    for (const i of [at - by, at + by]) if (i >= 0 && i < shares.length && !Number.isNaN(shares[i])) return shares[i];
  return undefined;
}

function newestOf(shares: Float64Array): number {
  let newest = shares.length - 1;
  while (newest >= 0 && Number.isNaN(shares[newest])) newest--;
  return newest;
}
