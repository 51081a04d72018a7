import { type CounterKind, onlyGrows } from "../counters/counter.ts";
import type { OfEvery } from "../reading/document.ts";
import type { Column } from "./batch.ts";
import { increases } from "./increase.ts";
import { isTogether, reachMs } from "./interval.ts";

export const fiveMinutesMs = 300_000;
export const hourMs = 3_600_000;

/** A level's buckets: what its numbers were. NaN samples are left out. */
export interface LevelRollup {
  readonly kind: "level";
  /** Start of each bucket that holds a sample, ascending, a multiple of the resolution. */
  readonly startMs: Float64Array;
  readonly count: Float64Array;
  readonly sum: Float64Array;
  readonly min: Float64Array;
  readonly max: Float64Array;
  readonly last: Float64Array;
}

/** A total's buckets: how it grew. */
export interface TotalRollup {
  readonly kind: "total";
  readonly startMs: Float64Array;
  readonly count: Float64Array;
  /** Increases that ended in the bucket, gaps included, whole. */
  readonly increase: Float64Array;
  /** The part of increases that fell into the bucket when each is spread evenly between its two samples; gaps are left out. */
  readonly grown: Float64Array;
  /** How many ms of the bucket those cover. */
  readonly coveredMs: Float64Array;
  /** Slowest and fastest increase a second; seven digits. NaN where nothing is covered. */
  readonly slowest: Float64Array;
  readonly fastest: Float64Array;
  readonly last: Float64Array;
}

export type Rollup = LevelRollup | TotalRollup;

export const rollupPlanes = {
  level: ["count", "sum", "min", "max", "last"],
  total: ["count", "increase", "grown", "coveredMs", "slowest", "fastest", "last"],
} as const;

/** The planes that a reduction needs, of either kind. */
export function planesFor(ofEvery: OfEvery): ReadonlySet<string> {
  switch (ofEvery) {
    case "min":
      return new Set(["count", "coveredMs", "min", "slowest"]);
    case "max":
      return new Set(["count", "coveredMs", "max", "fastest"]);
    case "last":
      return new Set(["count", "last"]);
    default:
      return new Set(["count", "coveredMs", "sum", "grown", "increase"]);
  }
}

/** Totals are rolled up as totals, everything else as levels. */
export function rollupKind(kind: CounterKind): Rollup["kind"] {
  return onlyGrows(kind) ? "total" : "level";
}

/** Rolls up the samples in `[fromMs, toMs)`, both multiples of the resolution. For totals the column should reach a sample beyond either end. */
export function rollUp(column: Column, kind: Rollup["kind"], resolutionMs: number, fromMs: number, toMs: number): Rollup {
  const all = emptyRollup(kind, fromMs, resolutionMs, Math.round((toMs - fromMs) / resolutionMs));
  if (all.kind === "level") addLevels(column, all, resolutionMs, fromMs);
  else addTotals(column, all, resolutionMs, fromMs, toMs);
  return withoutEmpty(all);
}

/** Rolls up buckets further, to a resolution that is a multiple of theirs. Parts ascend in time and are of one kind. */
export function rollUpFurther(parts: readonly Rollup[], kind: Rollup["kind"], resolutionMs: number, fromMs: number, toMs: number): Rollup {
  const all = emptyRollup(kind, fromMs, resolutionMs, Math.round((toMs - fromMs) / resolutionMs));
  for (const part of parts) {
    for (let i = 0; i < part.startMs.length; i++) {
      const start = part.startMs[i] as number;
      if (!(start >= fromMs && start < toMs)) continue;
      const b = Math.floor((start - fromMs) / resolutionMs);
      if (all.kind === "level" && part.kind === "level") addLevelBucket(all, b, part, i);
      else if (all.kind === "total" && part.kind === "total") addTotalBucket(all, b, part, i);
    }
  }
  return withoutEmpty(all);
}

/** Numbers that are no exact integers are kept to seven digits, the precision that a rate can be said to have; they pack in half the bytes. */
export function sevenDigits(v: number): number {
  return Number.isInteger(v) ? v : Math.fround(v);
}

function addLevels({ timeMs, value }: Column, all: LevelRollup, resolutionMs: number, fromMs: number): void {
  const { count, sum, min, max, last } = all;
  for (let i = 0; i < timeMs.length; i++) {
    const b = Math.floor(((timeMs[i] as number) - fromMs) / resolutionMs);
    const v = value[i] as number;
    if (!(b >= 0 && b < count.length) || Number.isNaN(v)) continue;
    (count[b] as number)++;
    (sum[b] as number) += v;
    if (!((min[b] as number) <= v)) min[b] = v;
    if (!((max[b] as number) >= v)) max[b] = v;
    last[b] = v;
  }
}

function addTotals(column: Column, all: TotalRollup, resolutionMs: number, fromMs: number, toMs: number): void {
  const { timeMs, value } = column;
  const grown = increases(column);
  const reach = reachMs(timeMs);
  for (let i = 0; i < timeMs.length; i++) {
    const time = timeMs[i] as number;
    const v = value[i] as number;
    const b = Math.floor((time - fromMs) / resolutionMs);
    const inside = b >= 0 && b < all.count.length;
    if (inside && !Number.isNaN(v)) {
      (all.count[b] as number)++;
      all.last[b] = v;
    }
    if (i === 0) continue;
    const step = grown[i - 1] as number;
    const before = timeMs[i - 1] as number;
    if (Number.isNaN(step)) continue;
    if (inside) (all.increase[b] as number) += step;
    if (time <= fromMs || before >= toMs || !isTogether(timeMs, i, reach)) continue;
    const rate = (step * 1000) / (time - before);
    for (let k = Math.max(0, Math.floor((before - fromMs) / resolutionMs)); k < all.count.length; k++) {
      const start = fromMs + k * resolutionMs;
      const overlap = Math.min(time, start + resolutionMs) - Math.max(before, start);
      if (start >= time) break;
      if (!(overlap > 0)) continue;
      (all.grown[k] as number) += overlap === time - before ? step : (step * overlap) / (time - before);
      (all.coveredMs[k] as number) += overlap;
      if (!((all.slowest[k] as number) <= rate)) all.slowest[k] = rate;
      if (!((all.fastest[k] as number) >= rate)) all.fastest[k] = rate;
    }
  }
  for (const plane of [all.grown, all.slowest, all.fastest]) for (let k = 0; k < plane.length; k++) plane[k] = sevenDigits(plane[k] as number);
}

function addLevelBucket(all: LevelRollup, b: number, part: LevelRollup, i: number): void {
  (all.count[b] as number) += part.count[i] as number;
  (all.sum[b] as number) += part.sum[i] as number;
  if (!((all.min[b] as number) <= (part.min[i] as number))) all.min[b] = part.min[i] as number;
  if (!((all.max[b] as number) >= (part.max[i] as number))) all.max[b] = part.max[i] as number;
  all.last[b] = part.last[i] as number;
}

function addTotalBucket(all: TotalRollup, b: number, part: TotalRollup, i: number): void {
  (all.count[b] as number) += part.count[i] as number;
  (all.increase[b] as number) += part.increase[i] as number;
  all.grown[b] = sevenDigits((all.grown[b] as number) + (part.grown[i] as number));
  (all.coveredMs[b] as number) += part.coveredMs[i] as number;
  if ((part.slowest[i] as number) < (all.slowest[b] as number) || Number.isNaN(all.slowest[b] as number)) all.slowest[b] = part.slowest[i] as number;
  if ((part.fastest[i] as number) > (all.fastest[b] as number) || Number.isNaN(all.fastest[b] as number)) all.fastest[b] = part.fastest[i] as number;
  if ((part.count[i] as number) > 0) all.last[b] = part.last[i] as number;
}

function emptyRollup(kind: Rollup["kind"], fromMs: number, resolutionMs: number, count: number): Rollup {
  const startMs = Float64Array.from({ length: count }, (_, i) => fromMs + i * resolutionMs);
  const zeros = () => new Float64Array(count);
  const none = () => new Float64Array(count).fill(Number.NaN);
  return kind === "level"
    ? { kind, startMs, count: zeros(), sum: zeros(), min: none(), max: none(), last: none() }
    : { kind, startMs, count: zeros(), increase: zeros(), grown: zeros(), coveredMs: zeros(), slowest: none(), fastest: none(), last: none() };
}

function withoutEmpty(all: Rollup): Rollup {
  const kept: number[] = [];
  for (let i = 0; i < all.count.length; i++) if ((all.count[i] as number) > 0 || (all.kind === "total" && (all.coveredMs[i] as number) > 0)) kept.push(i);
  return pickBuckets(all, kept);
}

/** The buckets with the given indexes. */
export function pickBuckets<R extends Rollup>(all: R, indexes: readonly number[]): R {
  if (indexes.length === all.startMs.length) return all;
  const pick = (plane: Float64Array) => Float64Array.from(indexes, (i) => plane[i] as number);
  return Object.fromEntries(Object.entries(all).map(([name, plane]) => [name, plane instanceof Float64Array ? pick(plane) : plane])) as unknown as R;
}

/** Joins buckets that follow one another in time; of a series, so of one kind. At least one. */
export function joinRollups(parts: readonly Rollup[]): Rollup {
  if (parts.length === 1) return parts[0] as Rollup;
  const first = parts[0] as Rollup;
  const length = parts.reduce((sum, { startMs }) => sum + startMs.length, 0);
  const joined: Record<string, unknown> = { kind: first.kind };
  for (const plane of ["startMs", ...rollupPlanes[first.kind]]) {
    const whole = new Float64Array(length);
    let at = 0;
    for (const part of parts) {
      const values = (part as unknown as Record<string, Float64Array>)[plane] as Float64Array;
      if (values.length === 0) continue;
      whole.set(values, at);
      at += values.length;
    }
    joined[plane] = whole;
  }
  return joined as unknown as Rollup;
}
