import type { Column } from "../series/batch.ts";

/** A column from pairs of seconds and value. */
export const column = (...pairs: readonly (readonly [second: number, value: number])[]): Column => ({
  timeMs: Float64Array.from(pairs, ([second]) => second * 1000),
  value: Float64Array.from(pairs, ([, value]) => value),
});
