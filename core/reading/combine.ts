import { tagOf } from "../counters/set-tag.ts";
import type { Tags } from "../counters/counter.ts";
import { quantile } from "../series/quantile.ts";
import type { Combine, Lines } from "./document.ts";
import type { LineValues } from "./line-values.ts";
import type { Values } from "./steps.ts";

/** A line before it is answered: NaN is a gap. */
export interface TaggedValues {
  readonly tags: Tags;
  readonly values: Values;
  /** What else is known of it; absent for what is worked out of other lines. */
  readonly of?: Omit<LineValues, "values">;
  /** Until when what it is made of has told, ms; infinite where nothing is waited for. */
  readonly toldUntilMs?: number;
  /** Steps, ascending, whose value is known only to be above what stands there. */
  readonly above?: readonly number[];
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
  if (per.length === 0 && series.length > 0)
    return { lineOf: new Int32Array(series.length), count: 1, tags: [tagsAlike(series)] };
  const numbers = new Map<string, number>();
  const shared: Alike[] = [];
  const lineOf = Int32Array.from(series, (tags) => {
    const key =
      per.length === 1
        ? (tagOf(tags, per[0] as string) ?? "")
        : JSON.stringify(per.map((tag) => tagOf(tags, tag) ?? ""));
    const known = numbers.get(key);
    if (known === undefined) {
      numbers.set(key, numbers.size);
      shared.push(Object.entries(tags));
      return numbers.size - 1;
    }
    keepAlike(shared[known] as Alike, tags);
    return known;
  });
  return { lineOf, count: numbers.size, tags: shared.map((alike) => Object.fromEntries(alike)) };
}

type Alike = (readonly [tag: string, value: string])[];

/** The tags that all have alike. */
function tagsAlike(series: readonly Tags[]): Tags {
  const alike: Alike = Object.entries(series[0] as Tags);
  for (const tags of series) keepAlike(alike, tags);
  return Object.fromEntries(alike);
}

/** Takes off what these tags have otherwise. */
function keepAlike(alike: Alike, tags: Tags): void {
  for (let i = alike.length - 1; i >= 0; i--) if (tags[(alike[i] as Alike[0])[0]] !== alike[i]?.[1]) alike.splice(i, 1);
}

/** Joins series that share a line, one after the other, and counts for each step how many of them it has. */
export class LineCombiner {
  readonly #combine: Combine;
  readonly #lines: (Values | undefined)[];
  readonly #members: (Int32Array | undefined)[] = [];
  readonly #lists: Values[][] = [];
  readonly #steps: number;

  constructor(combine: Combine, lineCount: number, steps: number) {
    this.#combine = combine;
    this.#lines = new Array(lineCount);
    this.#steps = steps;
  }

  /**
   * Takes the values over: they must not be used afterwards. `alone` where no other series shares the line; `of` where
   * they are the sum of so many series already.
   */
  add(line: number, values: Values, alone: boolean, of = 1): void {
    if (alone && this.#combine !== "count") {
      this.#lines[line] = values;
      return;
    }
    const members = (this.#members[line] ??= new Int32Array(this.#steps));
    for (let i = 0; i < values.length; i++) if (!Number.isNaN(values[i])) members[i] += of;
    if (this.#combine === "count") return;
    if (this.#combine === "p95") {
      const list = this.#lists[line];
      if (list) list.push(values);
      else this.#lists[line] = [values];
      this.#lines[line] ??= values;
      return;
    }
    const before = this.#lines[line];
    if (!before) this.#lines[line] = values;
    else if (this.#combine === "sum" || this.#combine === "mean") addTo(before, values);
    else if (this.#combine === "min") {
      for (let i = 0; i < before.length; i++)
        if (!(before[i] <= values[i]) && !Number.isNaN(values[i])) before[i] = values[i];
    } else {
      for (let i = 0; i < before.length; i++)
        if (!(before[i] >= values[i]) && !Number.isNaN(values[i])) before[i] = values[i];
    }
  }

  /** One array a line; NaN where no series has a value. */
  finish(): readonly Values[] {
    return Array.from(this.#lines, (values, line) => {
      const members = this.#members[line];
      if (this.#combine === "count")
        return Float64Array.from({ length: this.#steps }, (_, i) => members?.[i] || Number.NaN);
      if (!values) return new Float64Array(this.#steps).fill(Number.NaN);
      if (this.#combine === "mean" && members)
        for (let i = 0; i < values.length; i++) values[i] = values[i] / members[i];
      const list = this.#lists[line];
      return list ? percentiles(list) : values;
    });
  }

  /** How many series each step of a line has; undefined where one has it alone. */
  membersOf(line: number): Int32Array | undefined {
    return this.#members[line];
  }
}

/** Whether all values are finite numbers. */
export function allFinite(value: Float64Array): boolean {
  // Four sums: each addition waits for the one before it.
  let [a, b, c, d] = [0, 0, 0, 0];
  let i = 0;
  for (; i + 4 <= value.length; i += 4) {
    a += value[i];
    b += value[i + 1];
    c += value[i + 2];
    d += value[i + 3];
  }
  for (; i < value.length; i++) a += value[i];
  const sum = a + b + c + d;
  return sum - sum === 0;
}

function addTo(before: Values, values: Values): void {
  for (let i = 0; i < before.length; i++) {
    const v = values[i];
    if (!Number.isNaN(v)) before[i] = !Number.isNaN(before[i]) ? before[i] + v : v;
  }
}

function percentiles(list: readonly Values[]): Values {
  const present: number[] = [];
  return Float64Array.from(list[0] as Values, (_, i) => {
    present.length = 0;
    for (const values of list) if (!Number.isNaN(values[i])) present.push(values[i]);
    return quantile(
      present.sort((a, b) => a - b),
      0.95,
    );
  });
}

/** Joins series that share a line; for lists that are in memory whole. */
export function combineLines(series: readonly TaggedValues[], lines: Lines, combine: Combine): readonly TaggedValues[] {
  if (lines === "each") return series;
  const groups = groupLines(
    series.map(({ tags }) => tags),
    lines,
  );
  const combiner = new LineCombiner(combine, groups.count, series[0]?.values.length ?? 0);
  series.forEach(({ values }, i) => {
    combiner.add(groups.lineOf[i], values.slice(), false);
  });
  return combiner.finish().map((values, line) => ({ tags: groups.tags[line] as Tags, values }));
}
