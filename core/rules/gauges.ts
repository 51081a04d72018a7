import { usualStepMs } from "../baseline/usual-range.ts";
import { forecastReach } from "../capacity/forecast.ts";
import { roundStepMs } from "../reading/step.ts";
import { quantile } from "../series/quantile.ts";
import type { Measure, RuleDocument, Watch } from "./rule.ts";

/** So many steps more than a figure is made of are read. */
const spareSteps = 3;
/** A measure is taken over so many steps at most: over longer times the steps are longer. */
const mostMeasured = 60;
/** A trend is told from so many values. */
const trendPoints = 112;
const leastTrend = 6;
/** So many steps tell a silence apart from another. */
const silenceSteps = 60;
const unknownIntervalMs = 5000;

/** How a rule reads: on a grid that is the same in live checks and in rehearsals, so that both see the same values. */
export interface GaugePlan {
  readonly stepMs: number;
  /** Steps before the one that is checked. */
  readonly before: number;
}

/**
 * How many deviations the value of the forty minutes that end at a moment lies from what is usual of them; NaN where
 * the past is too short.
 */
export type UsualAt = (endMs: number) => number;

/**
 * The step of a rule's reading, given how far apart its samples come (NaN: unknown), and how many steps it looks back.
 */
export function gaugePlan(
  { watch, notice, urgent, reading }: Pick<RuleDocument, "watch" | "notice" | "urgent" | "reading">,
  intervalMs: number,
): GaugePlan {
  const own = typeof reading.step === "number" ? reading.step * 1000 : 0;
  const base = Math.max(
    own,
    roundStepMs((Number.isFinite(intervalMs) && intervalMs > 0 ? intervalMs : unknownIntervalMs) * 0.99),
  );
  const stepOver = (seconds: number, parts: number) => Math.max(base, roundStepMs((seconds * 1000) / parts));
  switch (watch.kind) {
    case "value":
    case "change": {
      const stepMs = stepOver(watch.overSeconds, mostMeasured);
      return { stepMs, before: stepsOf(watch.overSeconds, stepMs) + spareSteps };
    }
    case "silence": {
      const longest = Math.max(notice?.high ?? 0, urgent?.high ?? 0);
      const stepMs = stepOver(longest, silenceSteps);
      return { stepMs, before: stepsOf(longest, stepMs) + spareSteps };
    }
    case "reach": {
      const stepMs = stepOver(watch.pastSeconds, trendPoints);
      return { stepMs, before: stepsOf(watch.pastSeconds, stepMs) + spareSteps };
    }
    case "usual":
      return { stepMs: Math.max(base, usualStepMs), before: spareSteps };
  }
}

const stepsOf = (seconds: number, stepMs: number) => Math.max(1, Math.round((seconds * 1000) / stepMs));

/**
 * The figure that is compared, at the end of each step from `first` on; NaN where there is none. `values` are a line's
 * steps, NaN for
 * gaps, the first of them beginning at `fromMs`. Each figure comes of the steps in reach of it alone, so that it is the
 * same whatever
 * else is read.
 */
export function gaugesOf(
  watch: Watch,
  values: Float64Array,
  fromMs: number,
  stepMs: number,
  first: number,
  usual?: UsualAt,
): Float64Array {
  if (watch.kind === "value" && (watch.overSeconds === 0 || watch.of === "last")) return values.slice(first);
  const made = new Float64Array(values.length - first);
  for (let i = first; i < values.length; i++) made[i - first] = gaugeAt(watch, values, i, fromMs, stepMs, usual);
  return made;
}

function gaugeAt(
  watch: Watch,
  values: Float64Array,
  i: number,
  fromMs: number,
  stepMs: number,
  usual: UsualAt | undefined,
): number {
  switch (watch.kind) {
    case "value": {
      const newest = valueAt(values, i);
      return watch.overSeconds === 0 || watch.of === "last" || Number.isNaN(newest)
        ? newest
        : measured(watch.of, values, i, stepsOf(watch.overSeconds, stepMs));
    }
    case "change":
      return valueAt(values, i) - valueAt(values, i - stepsOf(watch.overSeconds, stepMs));
    case "silence":
      return silenceAt(values, i, stepMs);
    case "reach":
      return reachAt(values, i, stepMs, watch.target, stepsOf(watch.pastSeconds, stepMs));
    case "usual":
      return usual?.(fromMs + (i + 1) * stepMs) ?? Number.NaN;
  }
}

/** A value that is known holds for its reach: steps in which it does have it already. */
const valueAt = (values: Float64Array, i: number) => (i < 0 ? Number.NaN : values[i]);

function measured(of: Exclude<Measure, "last">, values: Float64Array, i: number, steps: number): number {
  const from = Math.max(0, i - steps + 1);
  if (of === "mean" || of === "min" || of === "max") {
    let sum = 0;
    let count = 0;
    let least = Number.POSITIVE_INFINITY;
    let most = Number.NEGATIVE_INFINITY;
    for (let k = from; k <= i; k++) {
      const value = values[k];
      if (Number.isNaN(value)) continue;
      sum += value;
      count++;
      if (value < least) least = value;
      if (value > most) most = value;
    }
    if (count === 0) return Number.NaN;
    return of === "mean" ? sum / count : of === "min" ? least : most;
  }
  const known = values
    .slice(from, i + 1)
    .filter((value) => !Number.isNaN(value))
    .sort();
  return quantile(known, Number(of.slice(1)) / 100);
}

/** Seconds since the last value; as long as there are steps where there is none among them. */
function silenceAt(values: Float64Array, i: number, stepMs: number): number {
  let k = i;
  while (k >= 0 && Number.isNaN(values[k])) k--;
  return ((i - k) * stepMs) / 1000;
}

/**
 * Seconds until the target at the present rate (`forecastReach`, as the briefing has it); infinite where it is not
 * neared as far as can be told, NaN where too little is known.
 */
function reachAt(values: Float64Array, i: number, stepMs: number, target: number, steps: number): number {
  const past = values.subarray(Math.max(0, i - steps + 1), i + 1);
  const now = valueAt(values, i);
  const first = past.find((value) => !Number.isNaN(value)) as number;
  if (Number.isNaN(now) || past.reduce((known, value) => known + (Number.isNaN(value) ? 0 : 1), 0) < leastTrend)
    return Number.NaN;
  // Already there, or on the far side of the target, seen from where it came.
  if (now === target || (first < target && now > target) || (first > target && now < target)) return 0;
  const found = forecastReach(past, stepMs, target);
  return found?.kind === "filling" && found.reached ? found.reached.likelyMs / 1000 : Number.POSITIVE_INFINITY;
}
