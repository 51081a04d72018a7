import type { Falls } from "../counters/counter.ts";
import type { Column } from "../series/batch.ts";
import { increases } from "../series/increase.ts";
import { isTogether, reachMs } from "../series/interval.ts";

const hourMs = 3_600_000;
const joulesPerWattHour = 3600;

/** Energy in each of consecutive stretches of time, and how much of each is known. */
export interface EnergySteps {
  /** Where the stretches begin, ms, and the end of the last one. */
  readonly edgesMs: Float64Array;
  /** One a stretch, of what is known of it. */
  readonly wattHours: Float64Array;
  readonly knownMs: Float64Array;
}

/**
 * Energy as the integral of power over time (definition of the watt-hour), by the trapezoidal rule between readings
 * that come when they come. `power` is in W; a gap longer than three intervals is not integrated. `intervalMs` is the
 * present interval of the source, where that is known.
 */
export function integrated(power: Column, edgesMs: Float64Array, intervalMs = Number.NaN): EnergySteps {
  const { timeMs, value } = power;
  const steps = emptySteps(edgesMs);
  const reach = reachMs(timeMs, intervalMs);
  let from = 0;
  for (let i = 1; i < timeMs.length; i++) {
    const [begin, end, p0, p1] = [timeMs[i - 1], timeMs[i], value[i - 1], value[i]];
    if (!isNumber(p0) || !isNumber(p1) || !(end > begin) || !isTogether(timeMs, i, reach)) continue;
    const slope = (p1 - p0) / (end - begin);
    from = spread(steps, from, begin, end, (a, b) => (((a + b) / 2 - begin) * slope + p0) * ((b - a) / hourMs));
  }
  return steps;
}

/**
 * Energy as the growth of a counter, in J, spread evenly between its readings. What it counted while nobody read it did
 * flow, unless it wraps: then a gap longer than three intervals may hold more than one time round, and is not known.
 */
export function grown(
  counter: Column,
  edgesMs: Float64Array,
  falls: Falls = "restart",
  intervalMs = Number.NaN,
): EnergySteps {
  const { timeMs } = counter;
  const steps = emptySteps(edgesMs);
  const reach = reachMs(timeMs, intervalMs);
  const joules = increases(counter, falls);
  let from = 0;
  for (let i = 1; i < timeMs.length; i++) {
    const [begin, end] = [timeMs[i - 1], timeMs[i]];
    const grew = joules[i - 1];
    if (!isNumber(grew) || !(end > begin) || (typeof falls === "number" && !isTogether(timeMs, i, reach))) continue;
    const wattHours = grew / joulesPerWattHour;
    from = spread(steps, from, begin, end, (a, b) => (wattHours * (b - a)) / (end - begin));
  }
  return steps;
}

/** Adds what `energyOf` says of each part of `[begin, end)` to its stretch; returns the stretch that `begin` is in. */
function spread(
  { edgesMs, wattHours, knownMs }: EnergySteps,
  from: number,
  begin: number,
  end: number,
  energyOf: (a: number, b: number) => number,
): number {
  let k = from;
  while (k < wattHours.length && edgesMs[k + 1] <= begin) k++;
  for (let at = k; at < wattHours.length && edgesMs[at] < end; at++) {
    const a = Math.max(begin, edgesMs[at]);
    const b = Math.min(end, edgesMs[at + 1]);
    wattHours[at] += energyOf(a, b);
    knownMs[at] += b - a;
  }
  return k;
}

export function emptySteps(edgesMs: Float64Array): EnergySteps {
  const count = Math.max(0, edgesMs.length - 1);
  return { edgesMs, wattHours: new Float64Array(count), knownMs: new Float64Array(count) };
}

/** Several meters that measure parts of one thing: what is known of it is what all of them know. */
export function together(parts: readonly EnergySteps[], edgesMs: Float64Array): EnergySteps {
  const sum = emptySteps(edgesMs);
  for (let k = 0; k < sum.wattHours.length; k++) {
    let known = Number.POSITIVE_INFINITY;
    for (const { wattHours, knownMs } of parts) {
      sum.wattHours[k] += wattHours[k];
      known = Math.min(known, knownMs[k]);
    }
    sum.knownMs[k] = parts.length === 0 ? 0 : known;
  }
  return sum;
}

/** Which share of the stretches is not known, 0 to 1, up to `untilMs`. */
export function missingShare({ edgesMs, knownMs }: EnergySteps, untilMs = Number.POSITIVE_INFINITY): number {
  let known = 0;
  let all = 0;
  for (let k = 0; k < knownMs.length; k++) {
    all += Math.max(0, Math.min(edgesMs[k + 1], untilMs) - edgesMs[k]);
    known += knownMs[k];
  }
  return all > 0 ? Math.min(1, Math.max(0, 1 - known / all)) : 0;
}

export const totalWattHours = ({ wattHours }: EnergySteps): number => wattHours.reduce((sum, one) => sum + one, 0);

const isNumber = (v: number): boolean => v - v === 0;
