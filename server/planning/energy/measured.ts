import { type EnergySteps, emptySteps } from "../../../core/energy/energy-steps.ts";
import type { Meter } from "../../../core/energy/meters.ts";

/** What stood in for less than this is not worth a word. */
const toldShare = 0.01;

/** What is known of one thing, by its best meter in each stretch. */
export interface Measured {
  readonly steps: EnergySteps;
  readonly method: string;
  readonly isPart: boolean;
  /** What the next meter says, and this one, where both know. */
  readonly compared: { readonly method: string; readonly wattHours: number; readonly against: number } | null;
}

/** Takes of each stretch what its best meter says; what measures a part alone stands in only where nothing else does. */
export function bestOf(
  meters: readonly Meter[],
  read: ReadonlyMap<Meter, EnergySteps>,
  edgesMs: Float64Array,
): Measured {
  const whole = meters.filter(({ isPart }) => !isPart);
  const parts = meters.filter(({ isPart }) => isPart);
  const stepsOf = (meter: Meter) => read.get(meter) ?? emptySteps(edgesMs);
  const isPart = !whole.some((meter) => stepsOf(meter).knownMs.some((ms) => ms > 0));
  const used = isPart ? parts : whole;
  const steps = emptySteps(edgesMs);
  const usedMs = new Map<string, number>();
  for (const meter of used) {
    const { wattHours, knownMs } = stepsOf(meter);
    let ms = 0;
    for (let k = 0; k < wattHours.length; k++) {
      if (!((knownMs[k] as number) > (steps.knownMs[k] as number))) continue;
      steps.wattHours[k] = wattHours[k] as number;
      steps.knownMs[k] = knownMs[k] as number;
      ms += knownMs[k] as number;
    }
    usedMs.set(meter.words, (usedMs.get(meter.words) ?? 0) + ms);
  }
  const [first, second] = used;
  const allMs = steps.knownMs.reduce((sum, ms) => sum + ms, 0);
  const words = [...usedMs].filter(([, ms]) => ms > toldShare * allMs).map(([name]) => name);
  return {
    steps,
    method: words.length === 0 ? (first?.words ?? "nothing") : words.join(", where that is missing "),
    isPart,
    compared: first && second ? comparison(second.words, stepsOf(first), stepsOf(second)) : null,
  };
}

function comparison(method: string, a: EnergySteps, b: EnergySteps): Measured["compared"] {
  let [wattHours, against, known] = [0, 0, 0];
  for (let k = 0; k < a.wattHours.length; k++) {
    const ms = (a.edgesMs[k + 1] as number) - (a.edgesMs[k] as number);
    // Only stretches that both know almost whole can be compared.
    if ((a.knownMs[k] as number) < 0.99 * ms || (b.knownMs[k] as number) < 0.99 * ms) continue;
    wattHours += b.wattHours[k] as number;
    against += a.wattHours[k] as number;
    known += ms;
  }
  return known === 0 ? null : { method, wattHours, against };
}
