import { medianOf } from "../series/select.ts";
import { type StraightLine, lineThrough, normal92 } from "./line.ts";

const dayMs = 86_400_000;
/** A month's clean-ups show twice in this. */
const leastPastMs = 58 * dayMs;
/** Rates within this factor are alike. */
const alikeFactor = 2;
/** The present rate is looked for in points of this length, shorter ones where the past is, in so many of them. */
const pointMs = dayMs / 4;
const mostPoints = 112;
/** A rate that holds for less than this says nothing about days to come. */
const leastPoints = 4;
const recentPoints = 12;
/**
 * A fall by this share of the way to the target, within half a day, and by so many deviations of the noise, is a
 * clean-up.
 */
const cleanUpShare = 0.02;
const cleanUpDeviations = 6;
const cleanUpWithin = 2;
/** What lies above all earlier peaks by this share of a saw-tooth's height is no saw-tooth any more. */
const beyondShare = 0.25;
/** Nothing is without noise: this share of the scale at the least. */
const leastNoise = 1e-4;
/** A rate must have moved the level by this share of the target to be told. */
const leastMoved = 0.01;
/** For ranges that eight in ten true days lie in, tried alike. */
export const eightInTen = 1.4;
/** Cost of one more piece, in variances of the noise, times the logarithm of how many points there are. */
const pieceCost = 9;
/** How far apart the peaks of a saw-tooth that grows may say the target is reached, as a share of the time. */
const peaksShare = 0.4;

/** When something reaches a target. */
export interface Forecast {
  /** The newest level. */
  readonly level: number;
  /**
   * filling: the target is neared at a rate that can be told; steady: it is not neared, or what nears it is cleaned up
   * time and again; unknown: too little is known,
   * or the noise is too large to say anything.
   */
  readonly kind: "filling" | "steady" | "unknown";
  /** Of a filling one: from its newest value on, ms; nine in ten lie between the earliest and the latest. */
  readonly reached?: { readonly earliestMs: number; readonly likelyMs: number; readonly latestMs: number };
}

/**
 * When a level reaches a target at its present rate. `values` are evenly spaced, `stepMs` apart, NaN for gaps;
 * undefined where there is none. The past is cut into
 * pieces of one rate each (least squares on points of six hours, by the cheapest sum of squares and pieces: Jackson et
 * al., IEEE Signal Processing Letters 12(2),
 * 2005), the last of which is the present; clean-ups cut as well, and where they come time and again it is the peaks
 * that count. The range is where the 92 % band of
 * the line meets the target, for noise that is correlated from point to point; `normal` makes it another.
 */
export function forecastReach(
  values: Float64Array,
  stepMs: number,
  target: number,
  normal = normal92,
): Forecast | undefined {
  let newest = values.length - 1;
  while (newest >= 0 && Number.isNaN(values[newest])) newest--;
  if (newest < 0) return undefined;
  const level = values[newest];
  const per = Math.max(1, Math.min(Math.round(pointMs / stepMs), Math.floor((newest + 1) / (mostPoints / 2))));
  const spacingMs = per * stepMs;
  const all = pointsOf(values, newest, per);
  const up = level <= target ? 1 : -1;
  const scale = Math.max(Math.abs(target), ...all.y.map(Math.abs)) || 1;
  if (level === target) return { level, kind: "filling", reached: { earliestMs: 0, likelyMs: 0, latestMs: 0 } };
  if (all.y.length < leastPoints) return { level, kind: "unknown" };
  const noise = Math.max(noiseOf(all.y), leastNoise * scale);
  const cuts = cleanUps(all, up, scale, noise);
  const tooth = sawTooth(all, cuts, up, target, spacingMs, normal);
  if (tooth) return { level, ...tooth };
  const from = Math.max(all.y.length - mostPoints, cuts.length > 0 ? (cuts.at(-1) as number) : 0);
  const x = all.x.slice(from);
  const y = all.y.slice(from);
  if (y.length < leastPoints) return { level, kind: "unknown" };
  const begin = presentRate(x, y, lastPiece(x, y, noise));
  const line = lineThrough(x.slice(begin), y.slice(begin), normal);
  const spanPoints = (x.at(-1) as number) - x[begin];
  const slope = line.slope * up;
  if (!(slope > 0) || slope * spanPoints < leastMoved * scale)
    return { level, kind: slope > line.error ? "unknown" : "steady" };
  // A clean-up that was seen once may come again, unless the past is long enough for it to have come twice, or the
  // level is beyond where it came.
  if (
    cuts.length === 1 &&
    all.y.length * spacingMs < leastPastMs &&
    isLike(all, cuts[0], line.slope) &&
    (y.at(-1) as number) * up < peakBefore(all.y, cuts[0], up)
  )
    return { level, kind: "unknown" };
  const range = crossing(line, target, (x.at(-1) as number) + (per - 1) / (2 * per));
  return range
    ? {
        level,
        kind: "filling",
        reached: {
          earliestMs: range.earliest * spacingMs,
          likelyMs: range.likely * spacingMs,
          latestMs: range.latest * spacingMs,
        },
      }
    : { level, kind: "unknown" };
}

interface Points {
  /** In points from the first, ascending. */
  readonly x: number[];
  readonly y: number[];
}

/** The medians of every `per` values, counted back from the newest. */
function pointsOf(values: Float64Array, newest: number, per: number): Points {
  const count = Math.floor((newest + 1) / per) || 1;
  const x: number[] = [];
  const y: number[] = [];
  const part = new Float64Array(per);
  for (let k = 0; k < count; k++) {
    const end = newest + 1 - (count - 1 - k) * per;
    let n = 0;
    for (let i = Math.max(0, end - per); i < end; i++) if (!Number.isNaN(values[i])) part[n++] = values[i];
    if (n === 0) continue;
    x.push(k);
    y.push(medianOf(part, n));
  }
  return { x, y };
}

/** The standard deviation of the noise, of second differences (their variance is six times its own), robustly. */
function noiseOf(y: readonly number[]): number {
  if (y.length < 3) return 0;
  const seconds = Float64Array.from({ length: y.length - 2 }, (_, i) => Math.abs(y[i] - 2 * y[i + 1] + y[i + 2]));
  return (1.4826 * medianOf(seconds, seconds.length)) / Math.sqrt(6);
}

/** The points with which a new stretch begins after a clean-up. */
function cleanUps({ y }: Points, up: number, scale: number, noise: number): readonly number[] {
  const least = Math.max(cleanUpShare * scale, cleanUpDeviations * noise);
  const found: number[] = [];
  for (let i = 1; i < y.length; i++) {
    const before = Math.max(0, i - cleanUpWithin);
    let peak = Number.NEGATIVE_INFINITY;
    for (let k = before; k < i; k++) peak = Math.max(peak, y[k] * up);
    if (peak - y[i] * up < least) continue;
    // A clean-up that takes a while is one: it ends where the level falls no further.
    if (found.length > 0 && i - (found.at(-1) as number) <= cleanUpWithin) found[found.length - 1] = i;
    else found.push(i);
  }
  return found;
}

/** Whether the rate before a clean-up was like that after it. */
function isLike({ x, y }: Points, cut: number, slope: number): boolean {
  if (cut < leastPoints) return true;
  const from = Math.max(0, cut - mostPoints);
  const before = lineThrough(x.slice(from, cut), y.slice(from, cut)).slope;
  return slope / before > 1 / alikeFactor && slope / before < alikeFactor;
}

function peakBefore(y: readonly number[], cut: number, up: number): number {
  let peak = Number.NEGATIVE_INFINITY;
  for (let k = Math.max(0, cut - cleanUpWithin - 1); k < cut; k++) peak = Math.max(peak, y[k] * up);
  return peak;
}

/** What cleaned up time and again reaches the target only if its peaks do. Undefined where it is none. */
function sawTooth(
  { x, y }: Points,
  cuts: readonly number[],
  up: number,
  target: number,
  spacingMs: number,
  normal: number,
): Pick<Forecast, "kind" | "reached"> | undefined {
  if (cuts.length < 2) return undefined;
  const peaks = cuts.map((cut) => {
    let at = cut - 1;
    for (let k = cut - 1; k >= Math.max(0, cut - cleanUpWithin - 1); k--) if (y[k] * up > y[at] * up) at = k;
    return { x: x[at], y: y[at] * up };
  });
  const heights = Float64Array.from(cuts, (cut, i) => (peaks[i] as { y: number }).y - y[cut] * up);
  const height = medianOf(heights, heights.length);
  const highest = peaks.reduce((most, peak) => Math.max(most, peak.y), Number.NEGATIVE_INFINITY);
  if ((y.at(-1) as number) * up > highest + beyondShare * height) return undefined;
  if (peaks.length < 3) return { kind: "steady" };
  const line = lineThrough(
    peaks.map((peak) => peak.x),
    peaks.map((peak) => peak.y),
  );
  const last = peaks.at(-1) as { x: number; y: number };
  if (
    !(line.slope - line.error > 0) ||
    line.slope * (last.x - (peaks[0] as { x: number }).x) < leastMoved * Math.abs(target)
  )
    return { kind: "steady" };
  const likelyMs = Math.max(0, ((target * up - last.y) / line.slope - ((x.at(-1) as number) - last.x)) * spacingMs);
  const apart = (peaksShare * normal) / normal92;
  return {
    kind: "filling",
    reached: { earliestMs: likelyMs * (1 - apart), likelyMs, latestMs: likelyMs * (1 + apart) },
  };
}

/** Where the last of the pieces begins into which the points are cut best. */
function lastPiece(x: readonly number[], y: readonly number[], noise: number): number {
  const n = y.length;
  const sums = [0, 1, 2, 3, 4].map(() => new Float64Array(n + 1));
  const [sx, sy, sxx, sxy, syy] = sums as [Float64Array, Float64Array, Float64Array, Float64Array, Float64Array];
  for (let i = 0; i < n; i++) {
    const [a, b] = [x[i], y[i] - y[0]];
    [a, b, a * a, a * b, b * b].forEach((v, k) => {
      (sums[k] as Float64Array)[i + 1] = (sums[k] as Float64Array)[i] + v;
    });
  }
  const between = (sum: Float64Array, i: number, j: number) => sum[j] - sum[i];
  const squares = (i: number, j: number) => {
    const m = j - i;
    const [a, b] = [between(sx, i, j), between(sy, i, j)];
    const vx = between(sxx, i, j) - (a * a) / m;
    const vy = between(syy, i, j) - (b * b) / m;
    const c = between(sxy, i, j) - (a * b) / m;
    return Math.max(0, vy - (vx > 0 ? (c * c) / vx : 0));
  };
  const cost = pieceCost * noise * noise * Math.log(n);
  const best = new Float64Array(n + 1).fill(Number.POSITIVE_INFINITY);
  const begins = new Int32Array(n + 1);
  best[0] = -cost;
  for (let j = leastPoints; j <= n; j++) {
    for (let i = 0; i <= j - leastPoints; i++) {
      if (i > 0 && i < leastPoints) continue;
      const total = best[i] + squares(i, j) + cost;
      if (total < best[j]) {
        best[j] = total;
        begins[j] = i;
      }
    }
  }
  return begins[n];
}

/**
 * A piece whose last three days go at another rate, beyond the bounds of both, is left for those days: what has just
 * stopped is too little for a piece of its own.
 */
function presentRate(x: readonly number[], y: readonly number[], begin: number): number {
  const recent = Math.max(begin, y.length - recentPoints);
  if (recent === begin || y.length - recent < recentPoints) return begin;
  const [whole, last] = [lineThrough(x.slice(begin), y.slice(begin)), lineThrough(x.slice(recent), y.slice(recent))];
  return Math.abs(whole.slope - last.slope) > Math.hypot(whole.error, last.error) ? recent : begin;
}

/**
 * When the line and the bounds of its 92 % band meet the target, in points after `now` (Fieller, Journal of the Royal
 * Statistical Society B 16(2), 1954); undefined
 * where the band goes on beside it for ever.
 */
function crossing(
  { n, meanX, meanY, vx, slope, deviation }: StraightLine,
  target: number,
  now: number,
): { readonly earliest: number; readonly likely: number; readonly latest: number } | undefined {
  const d = meanY - target;
  const a = slope * slope - (deviation * deviation) / vx;
  if (!(a > 0)) return undefined;
  const half = Math.sqrt(Math.max(0, slope * slope * d * d - a * (d * d - (deviation * deviation) / n)));
  const after = (t: number) => Math.max(0, meanX + t - now);
  return {
    earliest: after((-slope * d - half) / a),
    likely: after(-d / slope),
    latest: after((-slope * d + half) / a),
  };
}
