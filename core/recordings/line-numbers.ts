import type { Tags } from "../counters/counter.ts";
import type { Line } from "../reading/document.ts";
import { quantile } from "../series/quantile.ts";

/** What is told of one line of a run, in the line's unit. Null where nothing is known. */
export interface LineNumbers {
  /** The sentence's name. */
  readonly of: string;
  readonly tags: Tags;
  readonly unit: string;
  readonly least: number | null;
  readonly mean: number | null;
  readonly most: number | null;
  readonly last: number | null;
  /** The 95th percentile of the values at the recording's interval (type 7 of Hyndman & Fan). */
  readonly p95: number | null;
  /** By how much a total grew over the run; null of a level. */
  readonly sum: { readonly value: number; readonly unit: string } | null;
  /** The last value less the first one. */
  readonly change: number | null;
}

/** The numbers of a line whose values stand at the recording's interval. `isTotal` says whether its counter counts up. */
export function numbersOf({ of, tags, unit, values, min, mean, max, sum }: Line, isTotal: boolean): LineNumbers {
  const known = values.filter((value): value is number => value !== null);
  const first = known[0];
  const last = known.at(-1);
  return {
    of,
    tags,
    unit,
    least: min,
    mean,
    most: max,
    last: last ?? null,
    p95: known.length === 0 ? null : quantile(Float64Array.from(known).sort(), 0.95),
    sum: isTotal ? (sum ?? null) : null,
    change: first === undefined || last === undefined ? null : last - first,
  };
}
