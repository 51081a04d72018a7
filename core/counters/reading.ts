import type { CounterKind, Falls, Tags } from "./counter.ts";

/**
 * One value of one series at the moment of a gathering; unit and kind are the catalogue's unless said. The machine's
 * own tag is added by the source.
 */
export interface Reading {
  readonly counter: string;
  readonly tags: Tags;
  readonly value: number;
  readonly unit?: string;
  readonly kind?: CounterKind;
  /** What it means that it falls, where what was asked says more than the catalogue. */
  readonly falls?: Falls;
}
