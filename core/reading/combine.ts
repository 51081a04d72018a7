import type { Tags } from "../counters/counter.ts";
import { quantile } from "../series/quantile.ts";
import type { Combine, Lines } from "./document.ts";
import type { Values } from "./steps.ts";
import type { Run, TimesOnGrid } from "./times-on-grid.ts";

/** A line before it is answered: NaN is a gap. */
export interface TaggedValues {
  readonly tags: Tags;
  readonly values: Values;
  readonly lows?: Values | undefined;
  readonly highs?: Values | undefined;
}

/** Which series share a line. */
export interface LineGroups {
  /** The line of each series. */
  readonly lineOf: Int32Array;
  readonly count: number;
  /** The tags that all series of a line have alike. */
  readonly tags: readonly Tags[];
}

/** Lines keep the order in which their first series came. */
export function groupLines(series: readonly Tags[], lines: Lines): LineGroups {
  if (lines === "each") return { lineOf: Int32Array.from(series, (_, i) => i), count: series.length, tags: series };
  const per = lines === "together" ? [] : lines.per;
  const numbers = new Map<string, number>();
  const shared: (readonly [tag: string, value: string])[][] = [];
  const lineOf = Int32Array.from(series, (tags) => {
    const key = per.length === 0 ? "" : per.length === 1 ? (tags[per[0] as string] ?? "") : JSON.stringify(per.map((tag) => tags[tag] ?? ""));
    const known = numbers.get(key);
    if (known === undefined) {
      numbers.set(key, numbers.size);
      shared.push(Object.entries(tags));
      return numbers.size - 1;
    }
    const alike = shared[known] as (typeof shared)[0];
    for (let i = alike.length - 1; i >= 0; i--) if (tags[(alike[i] as (typeof alike)[0])[0]] !== alike[i]?.[1]) alike.splice(i, 1);
    return known;
  });
  return { lineOf, count: numbers.size, tags: shared.map((alike) => Object.fromEntries(alike)) };
}

/** Joins series that share a line, one after the other. */
export class LineCombiner {
  readonly #combine: Combine;
  readonly #lines: (Values | undefined)[];
  readonly #counts: Values[] = [];
  readonly #lists: Values[][] = [];
  readonly #steps: number;

  constructor(combine: Combine, lineCount: number, steps: number) {
    this.#combine = combine;
    this.#lines = new Array(lineCount);
    this.#steps = steps;
  }

  /** Takes the values over: they must not be used afterwards. `alone` where no other series shares the line. */
  add(line: number, values: Values, alone: boolean): void {
    const before = this.#lines[line];
    if (this.#combine === "count") {
      this.#count(line, values);
      return;
    }
    if (this.#combine === "p95" && !alone) {
      const list = this.#lists[line];
      if (list) list.push(values);
      else this.#lists[line] = [values];
      this.#lines[line] ??= values;
      return;
    }
    if (!before) {
      this.#lines[line] = values;
      if (this.#combine === "mean" && !alone) this.#counts[line] = Float64Array.from(values, (v) => (!Number.isNaN(v) ? 1 : 0));
      return;
    }
    switch (this.#combine) {
      case "sum":
        for (let i = 0; i < before.length; i++) {
          const v = values[i] as number;
          if (!Number.isNaN(v)) before[i] = !Number.isNaN(before[i]) ? (before[i] as number) + v : v;
        }
        return;
      case "mean": {
        const counts = this.#counts[line] as Values;
        for (let i = 0; i < before.length; i++) {
          const v = values[i] as number;
          if (Number.isNaN(v)) continue;
          before[i] = (counts[i] as number) > 0 ? (before[i] as number) + v : v;
          (counts[i] as number)++;
        }
        return;
      }
      case "min":
        for (let i = 0; i < before.length; i++) if (!((before[i] as number) <= (values[i] as number)) && !Number.isNaN(values[i])) before[i] = values[i] as number;
        return;
      default:
        for (let i = 0; i < before.length; i++) if (!((before[i] as number) >= (values[i] as number)) && !Number.isNaN(values[i])) before[i] = values[i] as number;
    }
  }

  /** Takes samples that are each a step of their own, without making an array of a series first. */
  addSamples(line: number, { steps, run }: Pick<TimesOnGrid, "steps" | "run">, value: Float64Array, alone: boolean): void {
    if (this.#combine !== "sum" || alone) {
      const values = new Float64Array(this.#steps).fill(Number.NaN);
      for (let i = 0; i < steps.length; i++) if ((steps[i] as number) >= 0) values[steps[i] as number] = value[i] as number;
      this.add(line, values, alone);
      return;
    }
    const sum = (this.#lines[line] ??= new Float64Array(this.#steps).fill(Number.NaN));
    if (run) addRun(sum, run, value);
    else {
      for (let i = 0; i < steps.length; i++) {
        const step = steps[i] as number;
        const v = value[i] as number;
        if (step < 0 || Number.isNaN(v)) continue;
        const before = sum[step] as number;
        sum[step] = Number.isNaN(before) ? v : before + v;
      }
    }
  }

  /** One array a line; NaN where no series has a value. */
  finish(): readonly Values[] {
    return Array.from(this.#lines, (values, line) => {
      if (!values) return new Float64Array(this.#steps).fill(Number.NaN);
      const counts = this.#counts[line];
      if (this.#combine === "mean" && counts) for (let i = 0; i < values.length; i++) values[i] = (values[i] as number) / (counts[i] as number);
      const list = this.#lists[line];
      return list ? percentiles(list) : values;
    });
  }

  #count(line: number, values: Values): void {
    const counted = (this.#lines[line] ??= new Float64Array(values.length).fill(Number.NaN));
    for (let i = 0; i < values.length; i++) if (!Number.isNaN(values[i])) counted[i] = !Number.isNaN(counted[i]) ? (counted[i] as number) + 1 : 1;
  }
}

/** A sum that is a number after adding needs no look at either part. */
function addRun(sum: Values, { from, step, count }: Run, value: Float64Array): void {
  for (let i = 0; i < count; i++) {
    const before = sum[step + i] as number;
    const v = value[from + i] as number;
    const after = before + v;
    if (!Number.isNaN(after)) sum[step + i] = after;
    else if (Number.isNaN(before)) sum[step + i] = v;
  }
}

function percentiles(list: readonly Values[]): Values {
  const present: number[] = [];
  return Float64Array.from(list[0] as Values, (_, i) => {
    present.length = 0;
    for (const values of list) if (!Number.isNaN(values[i])) present.push(values[i] as number);
    return quantile(present.sort((a, b) => a - b), 0.95);
  });
}

/** Joins series that share a line; for lists that are in memory whole. */
export function combineLines(series: readonly TaggedValues[], lines: Lines, combine: Combine): readonly TaggedValues[] {
  if (lines === "each") return series;
  const groups = groupLines(series.map(({ tags }) => tags), lines);
  const combiner = new LineCombiner(combine, groups.count, series[0]?.values.length ?? 0);
  series.forEach(({ values }, i) => {
    combiner.add(groups.lineOf[i] as number, values.slice(), false);
  });
  return combiner.finish().map((values, line) => ({ tags: groups.tags[line] as Tags, values }));
}
