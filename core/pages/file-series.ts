import type { CounterKind, Falls, Tags } from "../counters/counter.ts";

/** A series as a file, a sender or a device calls it, before the rules of its source. */
export interface FileSeries {
  readonly counter: string;
  readonly tags: Tags;
  readonly unit: string;
  readonly kind: CounterKind;
  /** What it means that it falls, where its format says more than that it restarts. */
  readonly falls?: Falls;
}
