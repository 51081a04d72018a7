import { DateTime } from "luxon";
import type { EnergyBody } from "../../../core/api/energy.ts";

const hourMs = 3_600_000;
const quarterMs = hourMs / 4;
/** Windows up to this length are worked out from samples by the quarter of an hour, longer ones by the hour. */
export const fineMs = 40 * 24 * hourMs;

export interface EnergyEdges {
  /** Bounds of the stretches that are worked out, each within one step. */
  readonly all: Float64Array;
  /** Bounds of the steps that are answered. */
  readonly steps: readonly number[];
}

/** Where energy is cut: at whole quarters or hours of UTC, at the window's ends, and where its steps begin by a zone. */
export function edgesOf({ window, step }: Pick<EnergyBody, "window" | "step">, zone: string): EnergyEdges {
  const { from, to } = window;
  const every = to - from <= fineMs ? quarterMs : hourMs;
  const steps = [from];
  if (step)
    for (
      let at = DateTime.fromMillis(from, { zone })
        .startOf(step)
        .plus({ [step]: 1 });
      at.toMillis() < to;
    ) {
      steps.push(at.toMillis());
      at = at.plus({ [step]: 1 });
    }
  steps.push(to);
  const all = new Set(steps);
  for (let at = Math.ceil(from / every) * every; at < to; at += every) all.add(at);
  return { all: Float64Array.from(all).sort(), steps };
}

/** Adds the values of stretches up by the steps that they lie in; NaN where `known` is nothing of a step. */
export function byStep(all: Float64Array, steps: readonly number[], values: Float64Array, known: Float64Array) {
  const sums = new Float64Array(steps.length - 1).fill(Number.NaN);
  let s = 0;
  for (let k = 0; k < values.length; k++) {
    while (s + 1 < sums.length && (all[k] as number) >= (steps[s + 1] as number)) s++;
    if ((known[k] as number) > 0) sums[s] = (Number.isNaN(sums[s]) ? 0 : (sums[s] as number)) + (values[k] as number);
  }
  return sums;
}
