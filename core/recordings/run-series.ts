import type { CounterKind, Falls, Tags } from "../counters/counter.ts";
import type { Column } from "../series/batch.ts";

/** One series of a run with its samples, told apart from the store's. */
export interface RunSeries {
  readonly counter: string;
  readonly unit: string;
  readonly kind: CounterKind;
  readonly tags: Tags;
  readonly falls?: Falls;
  /** The names of the recording's sentences that it belongs to. */
  readonly of: readonly string[];
  readonly column: Column;
}
