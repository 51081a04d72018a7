import type { Tags } from "../counters/counter.ts";
import { quantile } from "../series/quantile.ts";
import type { Combine, Lines } from "./document.ts";
import type { Values } from "./reduce.ts";

/** A line before it is answered: NaN is a gap. */
export interface TaggedValues {
  readonly tags: Tags;
  readonly values: Values;
}

/** Joins series that share a line. Lines keep the order in which their first series came; a joined line keeps the tags that all its series share. */
export function combineLines(series: readonly TaggedValues[], lines: Lines, combine: Combine): readonly TaggedValues[] {
  if (lines === "each") return series;
  const per = lines === "together" ? [] : lines.per;
  const groups = new Map<string, TaggedValues[]>();
  for (const one of series) {
    const key = JSON.stringify(per.map((tag) => one.tags[tag] ?? ""));
    const group = groups.get(key);
    if (group) group.push(one);
    else groups.set(key, [one]);
  }
  return [...groups.values()].map((group) => ({ tags: sharedTags(group), values: combineValues(group, combine) }));
}

function sharedTags(group: readonly TaggedValues[]): Tags {
  const first = (group[0] as TaggedValues).tags;
  return Object.fromEntries(Object.entries(first).filter(([tag, value]) => group.every((one) => one.tags[tag] === value)));
}

function combineValues(group: readonly TaggedValues[], combine: Combine): Values {
  const first = (group[0] as TaggedValues).values;
  const result = new Float64Array(first.length);
  const present: number[] = [];
  for (let i = 0; i < result.length; i++) {
    present.length = 0;
    for (const one of group) {
      const v = one.values[i] as number;
      if (!Number.isNaN(v)) present.push(v);
    }
    result[i] = present.length === 0 ? Number.NaN : combineOne(present, combine);
  }
  return result;
}

function combineOne(present: number[], combine: Combine): number {
  switch (combine) {
    case "sum":
      return sum(present);
    case "mean":
      return sum(present) / present.length;
    case "min":
      return Math.min(...present);
    case "max":
      return Math.max(...present);
    case "count":
      return present.length;
    case "p95":
      return quantile(present.sort((a, b) => a - b), 0.95);
  }
}

function sum(values: readonly number[]): number {
  let total = 0;
  for (const value of values) total += value;
  return total;
}
