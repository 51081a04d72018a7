import type { Column } from "./batch.ts";

/** Of each interval the newest sample: what would have been there, had nothing been gathered more often. */
export function thinned({ timeMs, value }: Column, everyMs: number): Column {
  const kept: number[] = [];
  for (let i = 0; i < timeMs.length; i++) {
    const slot = Math.floor(timeMs[i] / everyMs);
    if (i + 1 === timeMs.length || Math.floor(timeMs[i + 1] / everyMs) !== slot) kept.push(i);
  }
  if (kept.length === timeMs.length) return { timeMs, value };
  return { timeMs: Float64Array.from(kept, (i) => timeMs[i]), value: Float64Array.from(kept, (i) => value[i]) };
}
