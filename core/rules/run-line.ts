import type { Effect, LineState } from "./rule.ts";
import { isStill, type SteppedRule, stepLine } from "./step-line.ts";

/** Figures of one line at evenly spaced moments: figure i is of `firstMs + i * stepMs`. */
export interface GaugeRun {
  readonly gauges: Float64Array;
  readonly firstMs: number;
  readonly stepMs: number;
}

/** A rule is checked at whole multiples of this many ms; with every step where it says nothing. */
export const checkEveryMs = (everySeconds: number, stepMs: number): number => Math.max(stepMs, Math.ceil((everySeconds * 1000) / stepMs) * stepMs);

/** Runs a line's figures through the rule, from a state on; tells every effect and where it ends up. The same in live checks and in rehearsals. */
export function runLine(rule: SteppedRule & { readonly everySeconds: number }, begin: LineState, { gauges, firstMs, stepMs }: GaugeRun, tell: (effect: Effect, index: number) => void): LineState {
  const everyMs = checkEveryMs(rule.everySeconds, stepMs);
  let state = begin;
  const stride = everyMs / stepMs;
  const late = ((firstMs % everyMs) + everyMs) % everyMs;
  const start = late === 0 ? 0 : (everyMs - late) / stepMs;
  for (let i = start; i < gauges.length; i += stride) {
    const gauge = gauges[i] as number;
    // Mostly nothing happens: looking costs a tenth of stepping.
    if (!Number.isNaN(gauge) && isStill(rule, state, gauge)) continue;
    const next = stepLine(rule, state, Number.isNaN(gauge) ? null : gauge, firstMs + i * stepMs);
    state = next.state;
    if (next.effect) tell(next.effect, i);
  }
  return state;
}
