import { type CounterKind, type Falls, onlyGrows } from "../counters/counter.ts";
import type { OfEvery } from "./of-every.ts";
import type { Column } from "./batch.ts";
import { growthBetween, increases } from "./increase.ts";
import { firstAtOrAfter } from "./merge-columns.ts";
import { isTogether, leastHoldMs, meantIntervalMs, reachFactor, reachMs, medianIntervalMs } from "./interval.ts";

export const fiveMinutesMs = 300_000;
export const hourMs = 3_600_000;

/**
 * Buckets say what happened between their first sample and their last, and where those stood. What lies between two
 * buckets is worked out when
 * they are read or rolled up further, by the same rules as between two samples: so a bucket depends on its own samples
 * alone, and nothing is
 * lost or counted twice at its ends, however long the silence between.
 */
interface Buckets {
  /** Start of each bucket that holds a sample, ascending, a multiple of the resolution. */
  readonly startMs: Float64Array;
  /** Times of its first and its last sample. */
  readonly firstMs: Float64Array;
  readonly lastMs: Float64Array;
  readonly count: Float64Array;
  readonly last: Float64Array;
  /** Infinite samples, which are left out of all else. */
  readonly infinite: Float64Array;
}

/** A level's buckets: what its numbers were. NaN samples are left out. */
export interface LevelRollup extends Buckets {
  readonly kind: "level";
  readonly sum: Float64Array;
  /**
   * Integral over time from the first sample to the last, of what each held within its reach, in the unit times ms; six
   * digits at least.
   */
  readonly integral: Float64Array;
  /** How many ms from the first sample to the last were held. */
  readonly coveredMs: Float64Array;
  readonly min: Float64Array;
  readonly max: Float64Array;
}

/** A total's buckets: how it grew from its first sample to its last. */
export interface TotalRollup extends Buckets {
  readonly kind: "total";
  readonly first: Float64Array;
  /** Growth, silences included. */
  readonly grown: Float64Array;
  /** How many ms of it are silences, and the growth over them. */
  readonly gapMs: Float64Array;
  readonly gapGrown: Float64Array;
  /** Slowest and fastest increase a second, silences left out; seven digits. NaN where there is none. */
  readonly slowest: Float64Array;
  readonly fastest: Float64Array;
}

export type Rollup = LevelRollup | TotalRollup;

const rollupPlanes = {
  level: ["firstMs", "lastMs", "count", "last", "infinite", "sum", "integral", "coveredMs", "min", "max"],
  total: [
    "firstMs",
    "lastMs",
    "count",
    "last",
    "infinite",
    "first",
    "grown",
    "gapMs",
    "gapGrown",
    "slowest",
    "fastest",
  ],
} as const;

/** What says where a bucket's samples stood and how far apart they came. */
const ends = ["firstMs", "lastMs", "count", "last", "infinite", "coveredMs", "gapMs"];
const grownPlanes = ["first", "grown", "gapGrown"];

/** The planes that a reduction needs, of either kind; `extremes` where least and most are wanted as well. */
export function planesFor(ofEvery: OfEvery, extremes = false): ReadonlySet<string> {
  const most = extremes ? ["min", "max", "slowest", "fastest"] : [];
  switch (ofEvery) {
    case "min":
      return new Set([...ends, ...grownPlanes, "min", "slowest", ...most]);
    case "max":
      return new Set([...ends, ...grownPlanes, "max", "fastest", ...most]);
    case "last":
    case "count":
      return new Set([...ends, ...most]);
    default:
      return new Set([...ends, ...grownPlanes, "integral", ...most]);
  }
}

/** Totals are rolled up as totals, everything else as levels. */
export function rollupKind(kind: CounterKind): Rollup["kind"] {
  return onlyGrows(kind) ? "total" : "level";
}

/**
 * Rolls up the samples in `[fromMs, toMs)`, both multiples of the resolution; `falls` says what it means that a total
 * falls.
 */
export function rollUp(
  column: Column,
  kind: Rollup["kind"],
  resolutionMs: number,
  fromMs: number,
  toMs: number,
  falls: Falls = "restart",
): Rollup {
  const all = emptyRollup(kind, fromMs, resolutionMs, Math.round((toMs - fromMs) / resolutionMs));
  if (all.kind === "level") addLevels(column, all, resolutionMs, fromMs);
  else addTotals(column, all, resolutionMs, fromMs, falls);
  return withoutEmpty(all);
}

/** Rolls up buckets further, to a resolution that is a multiple of theirs. Parts ascend in time and are of one kind. */
export function rollUpFurther(
  parts: readonly Rollup[],
  kind: Rollup["kind"],
  resolutionMs: number,
  fromMs: number,
  toMs: number,
  falls: Falls = "restart",
): Rollup {
  const all = emptyRollup(kind, fromMs, resolutionMs, Math.round((toMs - fromMs) / resolutionMs));
  for (const part of parts) {
    const reaches = bucketReaches(part);
    for (let i = 0; i < part.startMs.length; i++) {
      const start = part.startMs[i];
      if (!(start >= fromMs && start < toMs)) continue;
      const b = Math.floor((start - fromMs) / resolutionMs);
      if (all.kind === "level" && part.kind === "level") addLevelBucket(all, b, part, i, reaches[i]);
      else if (all.kind === "total" && part.kind === "total") addTotalBucket(all, b, part, i, reaches[i], falls);
    }
  }
  return withoutEmpty(all);
}

/**
 * The reach of each bucket's samples in ms: three of their mean interval where it has several and no silence between
 * them, of that of a bucket near by where it has not, of
 * the usual distance between buckets where all near by have one.
 * `intervalMs`, the present interval of the source, stands in where that says nothing.
 */
export function bucketReaches(rollup: Rollup, intervalMs = Number.NaN): Float64Array {
  const { firstMs, lastMs, count } = rollup;
  const reaches = new Float64Array(count.length);
  let alone: number | undefined;
  // Most buckets of a source are alike.
  let [spanMs, samples, reach] = [Number.NaN, Number.NaN, Number.NaN];
  const silences = rollup.kind === "level" ? undefined : rollup.gapMs;
  const coveredMs = rollup.kind === "level" ? rollup.coveredMs : undefined;
  for (let i = 0; i < count.length; i++) {
    // Whether it is even is worked out in place: a call for each took as long as all else.
    const isUneven =
      !(count[i] > 1) || (silences ? silences[i] > 0 : (coveredMs as Float64Array)[i] < lastMs[i] - firstMs[i]);
    const several = isUneven ? nearestEven(rollup, i) : i;
    if (several >= 0) {
      const span = lastMs[several] - firstMs[several];
      if (span !== spanMs || count[several] !== samples) {
        spanMs = span;
        samples = count[several];
        reach = reachFactor * meantIntervalMs(span / (samples - 1));
      }
      reaches[i] = reach;
    } else {
      if (alone === undefined)
        alone = Math.max(leastHoldMs, reachMs(new Float64Array(0), withMedian(medianIntervalMs(lastMs), intervalMs)));
      reaches[i] = alone;
    }
  }
  return reaches;
}

/** Buckets on each side that tell what is usual around one. */
const neighbours = 3;

/** Whether a bucket has several samples and no silence between them: then their mean interval is the usual one. */
function isEven(rollup: Rollup, i: number): boolean {
  return (
    rollup.count[i] > 1 &&
    (rollup.kind === "total" ? !(rollup.gapMs[i] > 0) : !(rollup.coveredMs[i] < rollup.lastMs[i] - rollup.firstMs[i]))
  );
}

/**
 * The bucket near by that tells what is usual at bucket `i`; itself, if it has several samples, where none does; -1
 * where nothing tells it.
 */
function nearestEven(rollup: Rollup, i: number): number {
  for (let k = 1; k <= neighbours; k++) {
    if (isEven(rollup, i - k)) return i - k;
    if (isEven(rollup, i + k)) return i + k;
  }
  return rollup.count[i] > 1 ? i : -1;
}

const withMedian = (median: number, intervalMs: number) => (median > 0 ? median : intervalMs);

/**
 * Numbers that are no exact integers are kept to seven digits, the precision that a rate can be said to have; they pack
 * in half the bytes.
 */
function sevenDigits(v: number): number {
  return Number.isInteger(v) ? v : Math.fround(v);
}

function addLevels({ timeMs, value }: Column, all: LevelRollup, resolutionMs: number, fromMs: number): void {
  const { count, sum, integral, coveredMs, min, max, last, firstMs, lastMs, infinite } = all;
  const reach = reachMs(timeMs);
  let before = -1;
  for (let i = 0; i < timeMs.length; i++) {
    const time = timeMs[i];
    const b = Math.floor((time - fromMs) / resolutionMs);
    const v = value[i];
    if (!(b >= 0 && b < count.length) || Number.isNaN(v)) continue;
    if (v - v !== 0) {
      infinite[b]++;
      continue;
    }
    if (count[b]++ === 0) firstMs[b] = time;
    else {
      const elapsed = time - lastMs[b];
      const held =
        elapsed <= reach || (before === i - 1 && isTogether(timeMs, i, reach)) ? elapsed : Math.min(elapsed, reach);
      integral[b] += last[b] * held;
      coveredMs[b] += held;
    }
    sum[b] += v;
    if (!(min[b] <= v)) min[b] = v;
    if (!(max[b] >= v)) max[b] = v;
    last[b] = v;
    lastMs[b] = time;
    before = i;
  }
}

function addTotals(column: Column, all: TotalRollup, resolutionMs: number, fromMs: number, falls: Falls): void {
  const { timeMs, value } = column;
  const { count, first, last, firstMs, lastMs, infinite, grown, gapMs, gapGrown, slowest, fastest } = all;
  const steps = increases(column, falls);
  const reach = reachMs(timeMs);
  for (let i = 0; i < timeMs.length; i++) {
    const time = timeMs[i];
    const v = value[i];
    const b = Math.floor((time - fromMs) / resolutionMs);
    if (!(b >= 0 && b < count.length) || Number.isNaN(v)) continue;
    if (v - v !== 0) {
      infinite[b]++;
      continue;
    }
    if (count[b]++ === 0) {
      first[b] = v;
      firstMs[b] = time;
    } else {
      const elapsed = time - lastMs[b];
      const isNext = timeMs[i - 1] === lastMs[b];
      const step = isNext ? steps[i - 1] : growthBetween(last[b], v, falls, elapsed, 0);
      grown[b] += step;
      if (elapsed <= reach || (isNext && isTogether(timeMs, i, reach))) {
        const rate = (step * 1000) / elapsed;
        if (!(slowest[b] <= rate)) slowest[b] = rate;
        if (!(fastest[b] >= rate)) fastest[b] = rate;
      } else {
        gapMs[b] += elapsed;
        gapGrown[b] += step;
      }
    }
    last[b] = v;
    lastMs[b] = time;
  }
  for (const plane of [slowest, fastest]) for (let k = 0; k < plane.length; k++) plane[k] = sevenDigits(plane[k]);
}

function addLevelBucket(all: LevelRollup, b: number, part: LevelRollup, i: number, reach: number): void {
  if (all.count[b] === 0) all.firstMs[b] = part.firstMs[i];
  else {
    const held = Math.min(Math.max(0, part.firstMs[i] - all.lastMs[b]), reach);
    all.integral[b] += all.last[b] * held;
    all.coveredMs[b] += held;
  }
  all.count[b] += part.count[i];
  all.infinite[b] += part.infinite[i];
  all.sum[b] += part.sum[i];
  all.integral[b] += part.integral[i];
  all.coveredMs[b] += part.coveredMs[i];
  if (!(all.min[b] <= part.min[i])) all.min[b] = part.min[i];
  if (!(all.max[b] >= part.max[i])) all.max[b] = part.max[i];
  all.last[b] = part.last[i];
  all.lastMs[b] = part.lastMs[i];
}

function addTotalBucket(all: TotalRollup, b: number, part: TotalRollup, i: number, reach: number, falls: Falls): void {
  let slowest = part.slowest[i];
  let fastest = part.fastest[i];
  if (all.count[b] === 0) {
    all.firstMs[b] = part.firstMs[i];
    all.first[b] = part.first[i];
  } else {
    const elapsed = part.firstMs[i] - all.lastMs[b];
    if (elapsed > 0) {
      const step = growthBetween(
        all.last[b],
        part.first[i],
        falls,
        elapsed,
        Math.max(fastest || 0, all.fastest[b] || 0) / 1000,
      );
      all.grown[b] += step;
      if (elapsed > reach) {
        all.gapMs[b] += elapsed;
        all.gapGrown[b] += step;
      } else {
        const rate = sevenDigits((step * 1000) / elapsed);
        if (!(slowest <= rate)) slowest = rate;
        if (!(fastest >= rate)) fastest = rate;
      }
    }
  }
  all.count[b] += part.count[i];
  all.infinite[b] += part.infinite[i];
  all.grown[b] += part.grown[i];
  all.gapMs[b] += part.gapMs[i];
  all.gapGrown[b] += part.gapGrown[i];
  if (slowest < all.slowest[b] || Number.isNaN(all.slowest[b])) all.slowest[b] = slowest;
  if (fastest > all.fastest[b] || Number.isNaN(all.fastest[b])) all.fastest[b] = fastest;
  all.last[b] = part.last[i];
  all.lastMs[b] = part.lastMs[i];
}

function emptyRollup(kind: Rollup["kind"], fromMs: number, resolutionMs: number, count: number): Rollup {
  const startMs = Float64Array.from({ length: count }, (_, i) => fromMs + i * resolutionMs);
  const zeros = () => new Float64Array(count);
  const none = () => new Float64Array(count).fill(Number.NaN);
  const both = { startMs, firstMs: none(), lastMs: none(), count: zeros(), last: none(), infinite: zeros() };
  return kind === "level"
    ? { kind, ...both, sum: zeros(), integral: zeros(), coveredMs: zeros(), min: none(), max: none() }
    : {
        kind,
        ...both,
        first: none(),
        grown: zeros(),
        gapMs: zeros(),
        gapGrown: zeros(),
        slowest: none(),
        fastest: none(),
      };
}

function withoutEmpty(all: Rollup): Rollup {
  const kept: number[] = [];
  for (let i = 0; i < all.count.length; i++) if (all.count[i] > 0) kept.push(i);
  return pickBuckets(all, kept);
}

/** The buckets with the given indexes. */
function pickBuckets<R extends Rollup>(all: R, indexes: readonly number[]): R {
  if (indexes.length === all.startMs.length) return all;
  const pick = (plane: Float64Array) => {
    const picked = new Float64Array(indexes.length);
    for (let k = 0; k < picked.length; k++) picked[k] = plane[indexes[k]];
    return picked;
  };
  return Object.fromEntries(
    Object.entries(all).map(([name, plane]) => [
      name,
      plane instanceof Float64Array && plane.length > 0 ? pick(plane) : plane,
    ]),
  ) as unknown as R;
}

/** The buckets that begin in `[fromMs, toMs)`; shares memory with all. */
export function sliceBuckets<R extends Rollup>(all: R, fromMs: number, toMs: number): R {
  const from = firstAtOrAfter(all.startMs, fromMs);
  const to = firstAtOrAfter(all.startMs, toMs);
  if (from === 0 && to === all.startMs.length) return all;
  return Object.fromEntries(
    Object.entries(all).map(([name, plane]) => [
      name,
      plane instanceof Float64Array && plane.length > 0 ? plane.subarray(from, to) : plane,
    ]),
  ) as unknown as R;
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
    let isThere = false;
    for (const part of parts) {
      const values = (part as unknown as Record<string, Float64Array>)[plane] as Float64Array;
      if (values.length > 0) {
        whole.set(values, at);
        isThere = true;
      }
      at += part.startMs.length;
    }
    joined[plane] = isThere || length === 0 ? whole : new Float64Array(0);
  }
  return joined as unknown as Rollup;
}
