import { meantIntervalMs } from "../series/interval.ts";

const roundSteps = [1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600, 7200, 10_800, 21_600, 43_200, 86_400];

export interface Grid {
  /** Start of the first step; a multiple of the step where the steps are of one length. */
  readonly fromMs: number;
  /** The length of a step; where they differ (days, weeks, months of a calendar), that of most. */
  readonly stepMs: number;
  readonly count: number;
  /** The bounds of steps that are not all of one length: `count + 1` ascending moments, the first of them `fromMs`. */
  readonly edgesMs?: Float64Array;
}

/** The step that holds a moment: below 0 before the first, `count` or more after the last. */
export function stepAt({ fromMs, stepMs, count, edgesMs }: Grid, atMs: number): number {
  if (!edgesMs) return Math.floor((atMs - fromMs) / stepMs);
  let low = 0;
  let high = count + 1;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (edgesMs[middle] <= atMs) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}

/** When step `k` begins; `k` from 0 to `count`, where the last is the end of the grid. */
export function stepStart({ fromMs, stepMs, edgesMs }: Grid, k: number): number {
  return edgesMs ? edgesMs[k] : fromMs + k * stepMs;
}

/** When the last step ends. */
export function gridEnd(grid: Grid): number {
  return stepStart(grid, grid.count);
}

/**
 * The finest round step, in ms, that cuts the window into at most `points` pieces, is not finer than the samples come,
 * and is a multiple of their
 * interval where one near by is: else steps would hold now more of them, now fewer. `intervalMs` may be NaN or infinite
 * where it is unknown.
 */
export function autoStepMs(fromMs: number, toMs: number, points: number, intervalMs: number): number {
  const least = (toMs - fromMs) / points;
  if (!(intervalMs > 0 && Number.isFinite(intervalMs))) return roundStepMs(least);
  const interval = meantIntervalMs(intervalMs);
  const finest = roundStepMs(Math.max(least, intervalMs * 0.99));
  const multiple = roundSteps.find((step) => step * 1000 >= finest && isMultiple(step * 1000, interval));
  const plain = Math.max(1, Math.ceil(least / interval - 1e-9)) * interval;
  if (multiple !== undefined && multiple * 1000 <= plain * mostCoarser) return multiple * 1000;
  return finest > interval * manyIntervals ? finest : plain;
}

/** A round step may be this many times as long as the finest multiple of the interval. */
const mostCoarser = 2;
/** Over steps of so many intervals it no longer shows whether they are a multiple. */
const manyIntervals = 100;

function isMultiple(stepMs: number, intervalMs: number): boolean {
  const times = stepMs / intervalMs;
  return Math.abs(times - Math.round(times)) < 1e-6;
}

/** The finest round step of at least `leastMs`. */
export function roundStepMs(leastMs: number): number {
  const wanted = leastMs / 1000;
  return (roundSteps.find((step) => step >= wanted) ?? Math.ceil(wanted / 86_400) * 86_400) * 1000;
}

/** The steps that cover `[fromMs, toMs)`; the first may begin before `fromMs`. */
export function gridOf(fromMs: number, toMs: number, stepMs: number): Grid {
  const start = Math.floor(fromMs / stepMs) * stepMs;
  return { fromMs: start, stepMs, count: Math.max(1, Math.ceil((toMs - start) / stepMs)) };
}

const unitMs: Readonly<Record<string, number>> = { s: 1000, m: 60_000, h: 3_600_000, d: 86_400_000 };

/** Milliseconds of a span such as `7d`; undefined where the text is not one. */
export function spanMs(text: string): number | undefined {
  const parts = /^(\d{1,5})([smhd])$/.exec(text);
  if (!parts) return undefined;
  return Number(parts[1]) * unitMs[parts[2] as string];
}

/** How many days a span is that is said in days; undefined for others. */
export function spanDays(text: string): number | undefined {
  const parts = /^(\d{1,5})d$/.exec(text);
  return parts ? Number(parts[1]) : undefined;
}

/** The text of a span in its largest whole unit: 604800000 is "7d". Parts of a second are dropped. */
export function spanOfMs(ms: number): string {
  const [unit, size] = Object.entries(unitMs)
    .reverse()
    .find(([, size]) => ms >= size && ms % size === 0) ?? ["s", 1000];
  return `${Math.floor(ms / size)}${unit}`;
}
