import { roundStepMs } from "../reading/step.ts";
import { quantile } from "../series/quantile.ts";
import { medianSlope } from "../series/slope.ts";
import type { Measure, RuleDocument, Watch } from "./rule.ts";

/** A value is new enough while it is not older than this many steps; a step is as long as the source's interval. */
export const freshSteps = 3;
/** A measure is taken over so many steps at most: over longer times the steps are longer. */
const mostMeasured = 60;
/** A trend is drawn through so many values. */
const trendPoints = 24;
const leastTrend = 6;
/** So many steps tell a silence apart from another. */
const silenceSteps = 60;
const leastUsualStepMs = 60_000;
const unknownIntervalMs = 5000;
/** Of a normal distribution, the standard deviation is so many times the median absolute deviation (Rousseeuw & Croux, JASA 88, 1993). */
const deviationShare = 1.4826;
/** What differs by less than this share of the usual is never unusual. */
const leastSpreadShare = 0.1;
/** Of four earlier weeks. */
const leastWeeks = 2;

/** How a rule reads: on a grid that is the same in live checks and in rehearsals, so that both see the same values. */
export interface GaugePlan {
  readonly stepMs: number;
  /** Steps before the one that is checked. */
  readonly before: number;
}

/** What a line mostly is at the hours of the week: its median and spread over the weeks before, by the hour's start in ms. */
export type UsualAt = (hourMs: number) => { readonly usual: number; readonly spread: number } | undefined;

const hourMs = 3_600_000;
export const weekMs = 7 * 24 * hourMs;
export const usualWeeks = 4;

/** The step of a rule's reading, given how far apart its samples come (NaN: unknown), and how many steps it looks back. */
export function gaugePlan({ watch, notice, urgent, reading }: Pick<RuleDocument, "watch" | "notice" | "urgent" | "reading">, intervalMs: number): GaugePlan {
  const own = typeof reading.step === "number" ? reading.step * 1000 : 0;
  const base = Math.max(own, roundStepMs((Number.isFinite(intervalMs) && intervalMs > 0 ? intervalMs : unknownIntervalMs) * 0.99));
  const stepOver = (seconds: number, parts: number) => Math.max(base, roundStepMs((seconds * 1000) / parts));
  switch (watch.kind) {
    case "value": {
      const stepMs = stepOver(watch.overSeconds, mostMeasured);
      return { stepMs, before: stepsOf(watch.overSeconds, stepMs) + freshSteps };
    }
    case "change": {
      const stepMs = stepOver(watch.overSeconds, mostMeasured);
      return { stepMs, before: stepsOf(watch.overSeconds, stepMs) + freshSteps };
    }
    case "silence": {
      const longest = Math.max(notice?.high ?? 0, urgent?.high ?? 0);
      const stepMs = stepOver(longest, silenceSteps);
      return { stepMs, before: stepsOf(longest, stepMs) + freshSteps };
    }
    case "reach": {
      const stepMs = stepOver(watch.pastSeconds, trendPoints);
      return { stepMs, before: stepsOf(watch.pastSeconds, stepMs) + freshSteps };
    }
    case "usual":
      return { stepMs: Math.max(base, leastUsualStepMs), before: freshSteps };
  }
}

const stepsOf = (seconds: number, stepMs: number) => Math.max(1, Math.round((seconds * 1000) / stepMs));

/**
 * The figure that is compared, at the end of each step from `first` on; NaN where there is none. `values` are a line's steps, NaN for
 * gaps, the first of them beginning at `fromMs`. Each figure comes of the steps in reach of it alone, so that it is the same whatever
 * else is read.
 */
export function gaugesOf(watch: Watch, values: Float64Array, fromMs: number, stepMs: number, first: number, usual?: UsualAt): Float64Array {
  const made = new Float64Array(values.length - first);
  for (let i = first; i < values.length; i++) made[i - first] = gaugeAt(watch, values, i, fromMs, stepMs, usual);
  return made;
}

function gaugeAt(watch: Watch, values: Float64Array, i: number, fromMs: number, stepMs: number, usual: UsualAt | undefined): number {
  switch (watch.kind) {
    case "value": {
      const newest = heldAt(values, i);
      return watch.overSeconds === 0 || watch.of === "last" || Number.isNaN(newest) ? newest : measured(watch.of, values, i, stepsOf(watch.overSeconds, stepMs));
    }
    case "change":
      return heldAt(values, i) - heldAt(values, i - stepsOf(watch.overSeconds, stepMs));
    case "silence":
      return silenceAt(values, i, stepMs);
    case "reach":
      return reachAt(values, i, stepMs, watch.target, stepsOf(watch.pastSeconds, stepMs));
    case "usual": {
      const value = heldAt(values, i);
      const at = usual?.(Math.floor((fromMs + i * stepMs) / hourMs) * hourMs);
      return at === undefined ? Number.NaN : (value - at.usual) / at.spread;
    }
  }
}

/** The newest value that is new enough. */
function heldAt(values: Float64Array, i: number): number {
  for (let k = i; k >= 0 && k >= i - freshSteps; k--) if (!Number.isNaN(values[k])) return values[k] as number;
  return Number.NaN;
}

function measured(of: Exclude<Measure, "last">, values: Float64Array, i: number, steps: number): number {
  const from = Math.max(0, i - steps + 1);
  if (of === "mean" || of === "min" || of === "max") {
    let sum = 0;
    let count = 0;
    let least = Number.POSITIVE_INFINITY;
    let most = Number.NEGATIVE_INFINITY;
    for (let k = from; k <= i; k++) {
      const value = values[k] as number;
      if (Number.isNaN(value)) continue;
      sum += value;
      count++;
      if (value < least) least = value;
      if (value > most) most = value;
    }
    if (count === 0) return Number.NaN;
    return of === "mean" ? sum / count : of === "min" ? least : most;
  }
  const known = values.slice(from, i + 1).filter((value) => !Number.isNaN(value)).sort();
  return quantile(known, Number(of.slice(1)) / 100);
}

/** Seconds since the last value; as long as there are steps where there is none among them. */
function silenceAt(values: Float64Array, i: number, stepMs: number): number {
  let k = i;
  while (k >= 0 && Number.isNaN(values[k])) k--;
  return ((i - k) * stepMs) / 1000;
}

/** Seconds until the target at the median of the slopes between all pairs of the last values (Theil–Sen); infinite where it is not neared. */
function reachAt(values: Float64Array, i: number, stepMs: number, target: number, steps: number): number {
  const x: number[] = [];
  const y: number[] = [];
  for (let k = Math.max(0, i - steps + 1); k <= i; k++) {
    if (Number.isNaN(values[k])) continue;
    x.push((k * stepMs) / 1000);
    y.push(values[k] as number);
  }
  const now = heldAt(values, i);
  if (x.length < leastTrend || Number.isNaN(now)) return Number.NaN;
  const remains = target - now;
  const slope = medianSlope(x, y);
  const first = y[0] as number;
  // Already there: on the far side of the target, seen from where it came.
  if (remains === 0 || (first < target && now > target) || (first > target && now < target)) return 0;
  return slope !== 0 && Math.sign(slope) === Math.sign(remains) ? remains / slope : Number.POSITIVE_INFINITY;
}

/** What a line mostly is at an hour, from its means of the same hour one to four weeks before; undefined where fewer than two are known. */
export function usualOf(weeksBefore: readonly (number | null | undefined)[]): { readonly usual: number; readonly spread: number } | undefined {
  const known = weeksBefore.filter((value) => value !== null && value !== undefined && !Number.isNaN(value)) as number[];
  if (known.length < leastWeeks) return undefined;
  const usual = quantile([...known].sort((a, b) => a - b), 0.5);
  const deviation = quantile(known.map((value) => Math.abs(value - usual)).sort((a, b) => a - b), 0.5);
  const spread = Math.max(deviationShare * deviation, leastSpreadShare * Math.abs(usual));
  return { usual, spread: spread > 0 ? spread : Number.MIN_VALUE };
}
