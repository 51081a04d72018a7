import { UsualLine } from "../baseline/usual-range.ts";
import { type EnergySteps, emptySteps } from "./energy-steps.ts";

const hourMs = 3_600_000;
/** An hour counts as known from this share of it on. */
const leastKnown = 0.5;

/**
 * What is usual, by the hour, of each stretch of `wanted` (hours) that `past` does not know, by its own hours up to eight
 * weeks back (core/baseline: the same clock time of earlier days, the weekday where that is unlike the others). Before
 * ten days are known it is the mean of the same clock time, before a day the mean of all. `offsetMs` tells how far the
 * clock is ahead of UTC.
 */
export function usualHours(past: EnergySteps, wanted: Float64Array, offsetMs: (ms: number) => number): EnergySteps {
  const steps = emptySteps(wanted);
  const startMs = past.edgesMs[0];
  const endMs = wanted.at(-1) as number;
  const hours = Math.max(0, Math.round((endMs - startMs) / hourMs));
  const watts = new Float64Array(hours).fill(Number.NaN);
  const byClock = Array.from({ length: 24 }, () => ({ sum: 0, count: 0 }));
  for (let k = 0; k < past.wattHours.length; k++) {
    if (past.knownMs[k] < leastKnown * hourMs) continue;
    const at = Math.round((past.edgesMs[k] - startMs) / hourMs);
    watts[at] = past.wattHours[k] / (past.knownMs[k] / hourMs);
    const clock = byClock[clockHour(past.edgesMs[k], offsetMs)];
    clock.sum += watts[at];
    clock.count++;
  }
  const all = byClock.reduce((sum, one) => ({ sum: sum.sum + one.sum, count: sum.count + one.count }));
  if (all.count === 0) return steps;
  const usual = new UsualLine(watts, startMs, hourMs, offsetMs);
  for (let k = 0; k < steps.wattHours.length; k++) {
    const clock = byClock[clockHour(wanted[k], offsetMs)];
    const guess =
      usual.at(wanted[k] + hourMs)?.mid ?? (clock.count > 0 ? clock.sum / clock.count : all.sum / all.count);
    steps.wattHours[k] = (guess * (wanted[k + 1] - wanted[k])) / hourMs;
    steps.knownMs[k] = wanted[k + 1] - wanted[k];
  }
  return steps;
}

const clockHour = (ms: number, offsetMs: (ms: number) => number): number =>
  ((Math.floor((ms + offsetMs(ms)) / hourMs) % 24) + 24) % 24;
