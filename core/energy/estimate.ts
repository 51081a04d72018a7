import { type EnergySteps, emptySteps } from "./energy-steps.ts";

/** What a machine without a meter draws, as a person says. */
export interface PowerGuess {
  readonly idleWatts: number;
  readonly fullWatts: number;
}

const hourMs = 3_600_000;

/**
 * The energy of a machine without a meter: idle and full power as a person gave them, between them in proportion to how
 * busy its processor was (0 to 1, NaN where that is not known). An estimate, never more: disks, fans and supplies do not
 * follow the processor.
 */
export function estimated(busy: ArrayLike<number>, edgesMs: Float64Array, guess: PowerGuess): EnergySteps {
  const steps = emptySteps(edgesMs);
  for (let k = 0; k < steps.wattHours.length; k++) {
    const share = busy[k];
    if (!(share >= 0)) continue;
    const ms = edgesMs[k + 1] - edgesMs[k];
    const watts = guess.idleWatts + (guess.fullWatts - guess.idleWatts) * Math.min(1, share);
    steps.wattHours[k] = (watts * ms) / hourMs;
    steps.knownMs[k] = ms;
  }
  return steps;
}
