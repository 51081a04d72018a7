import { quantile } from "../series/quantile.ts";
import { type EnergySteps, emptySteps } from "./energy-steps.ts";

const hourMs = 3_600_000;
/** A host is idle at what it draws least of the time. */
const idleQuantile = 0.05;

/** What guests used of their host in each stretch of its energy. */
export interface GuestTimes {
  readonly guest: string;
  /** Processor seconds in each stretch; NaN where that is not known. */
  readonly seconds: ArrayLike<number>;
}

/** What a host draws when it has nothing to do, W: what it stays below in a twentieth of the stretches that are known. */
export function idleWatts({ edgesMs, wattHours, knownMs }: EnergySteps): number {
  const watts: number[] = [];
  for (let k = 0; k < wattHours.length; k++)
    if (knownMs[k] > 0 && knownMs[k] * 2 >= edgesMs[k + 1] - edgesMs[k])
      watts.push(wattHours[k] / (knownMs[k] / hourMs));
  return watts.length === 0 ? 0 : quantile(Float64Array.from(watts).sort(), idleQuantile);
}

/**
 * The energy of guests and containers as their share of what their host draws above idle: in each stretch in proportion
 * to processor time, of which `busySeconds` is all that the host used. What the host draws idle is its own.
 */
export function sharedByGuests(
  host: EnergySteps,
  busySeconds: ArrayLike<number>,
  guests: readonly GuestTimes[],
  idle: number,
): readonly { readonly guest: string; readonly steps: EnergySteps }[] {
  return guests.map(({ guest, seconds }) => {
    const steps = emptySteps(host.edgesMs);
    for (let k = 0; k < steps.wattHours.length; k++) {
      if (!(seconds[k] >= 0) || !(busySeconds[k] > 0) || host.knownMs[k] === 0) continue;
      const all = guests.reduce((sum, one) => sum + (Number.isNaN(one.seconds[k]) ? 0 : one.seconds[k]), 0);
      // Counters of guests and of the host are read at different moments: guests are never more than all.
      const share = seconds[k] / Math.max(busySeconds[k], all);
      const above = Math.max(0, host.wattHours[k] - (idle * host.knownMs[k]) / hourMs);
      steps.wattHours[k] = above * share;
      steps.knownMs[k] = host.knownMs[k];
    }
    return { guest, steps };
  });
}
