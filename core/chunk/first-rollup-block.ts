import type { LevelRollup, TotalRollup } from "../series/rollup.ts";

/** The planes of rollup blocks of the first version, in their order. */
export const firstRollupPlanes = {
  level: ["count", "sum", "min", "max", "last"],
  total: ["count", "increase", "grown", "coveredMs", "slowest", "fastest", "last"],
} as const;

type Planes = Readonly<Record<string, Float64Array>>;

/**
 * Buckets of the first version as buckets of today. They did not say where their samples stood: one sample is taken to
 * stand at the bucket's start,
 * several to fill the bucket.
 */
export function levelOfFirst(startMs: Float64Array, planes: Planes, resolutionMs: number): LevelRollup {
  const { count, sum, min, max, last } = planes as {
    count: Float64Array;
    sum: Float64Array;
    min: Float64Array;
    max: Float64Array;
    last: Float64Array;
  };
  const coveredMs = count.map((n) => (n > 1 ? resolutionMs : 0));
  return {
    kind: "level",
    startMs,
    firstMs: startMs,
    lastMs: startMs.map((start, i) => start + coveredMs[i]),
    count,
    last,
    infinite: new Float64Array(count.length),
    sum,
    coveredMs,
    integral: sum.map((v, i) => (v / count[i]) * coveredMs[i]),
    min,
    max,
  };
}

/** The same for totals: all growth that ended in a bucket is the bucket's own, so nothing is between two of them. */
export function totalOfFirst(startMs: Float64Array, planes: Planes, resolutionMs: number): TotalRollup {
  const { count, increase, grown, coveredMs, slowest, fastest, last } = planes as {
    count: Float64Array;
    increase: Float64Array;
    grown: Float64Array;
    coveredMs: Float64Array;
    slowest: Float64Array;
    fastest: Float64Array;
    last: Float64Array;
  };
  return {
    kind: "total",
    startMs,
    firstMs: startMs,
    lastMs: startMs.map((start) => start + resolutionMs),
    count,
    last,
    infinite: new Float64Array(count.length),
    first: last.map((v, i) => v - increase[i]),
    grown: increase,
    gapMs: coveredMs.map((ms) => resolutionMs - ms),
    gapGrown: increase.map((v, i) => v - grown[i]),
    slowest,
    fastest,
  };
}
