import { quantile } from "../series/quantile.ts";
import type { Job, LimitLine } from "./overlap.ts";

const dayMs = 86_400_000;
/** It has risen where it stands so much of the limit above the median of its day. */
const risen = 0.15;
/** On most days: of so many at least. */
const leastDays = 4;
const mostDaysShare = 0.6;
const leastLengthMs = 600_000;
/** Short dips do not end it. */
const bridgedSteps = 1;

/**
 * What rises on a line at the same clock time on most days, as jobs on the day that ends at `untilMs`: nobody has told
 * of them. `line` holds the days before; days are by its clock, `offsetMs` ahead of UTC.
 */
export function habitsOf(line: LimitLine, untilMs: number, offsetMs: number): readonly Job[] {
  const { values, stepMs, machine, words } = line;
  const perDay = Math.round(dayMs / stepMs);
  const firstDay = Math.floor((line.fromMs + offsetMs) / dayMs);
  const counts = new Float64Array(perDay);
  const known = new Float64Array(perDay);
  const sorted = [...values].filter((value) => !Number.isNaN(value)).sort((a, b) => a - b);
  if (sorted.length < perDay * leastDays) return [];
  const level = quantile(sorted, 0.5) + risen;
  values.forEach((value, i) => {
    if (Number.isNaN(value)) return;
    const at = line.fromMs + offsetMs + i * stepMs - firstDay * dayMs;
    const slot = Math.floor((at % dayMs) / stepMs);
    known[slot] = known[slot] + 1;
    if (value > level) counts[slot] = counts[slot] + 1;
  });
  const rises = Array.from(counts, (count, slot) => known[slot] >= leastDays && count >= known[slot] * mostDaysShare);
  const today = Math.floor((untilMs - 1 + offsetMs) / dayMs) * dayMs - offsetMs;
  return stretches(rises).flatMap(([from, to]): Job[] =>
    (to - from) * stepMs < leastLengthMs || to - from > perDay / 2
      ? []
      : [
          {
            name: `what rises on its ${words} on most days`,
            machine,
            fromMs: today + from * stepMs,
            toMs: today + to * stepMs,
          },
        ],
  );
}

/** Where it is true, as steps from and to. */
function stretches(is: readonly boolean[]): readonly (readonly [from: number, to: number])[] {
  const found: [number, number][] = [];
  is.forEach((yes, i) => {
    if (!yes) return;
    const last = found.at(-1);
    if (last && i - last[1] <= bridgedSteps) last[1] = i + 1;
    else found.push([i, i + 1]);
  });
  return found;
}
