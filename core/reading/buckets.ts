import type { Tags } from "../counters/counter.ts";
import type { TaggedValues } from "./combine.ts";
import type { Line, Lines, Sentence } from "./document.ts";
import type { Values } from "./steps.ts";

/** What tells the buckets of a distribution apart: the highest value that is counted into one. */
export const boundTag = "le";

/**
 * The sentence that reads the buckets of which a quantile is worked out: their rates, one line a bucket of each line.
 */
export function bucketSentence({ lines = "each", keep: _, ...sentence }: Sentence): Sentence {
  const perBucket: Lines = lines === "each" ? "each" : { per: [...(lines === "together" ? [] : lines.per), boundTag] };
  return { ...sentence, as: "rate", of_every: "mean", combine: "sum", lines: perBucket };
}

/**
 * A quantile of each distribution among lines that are its buckets: counts up to each bound, which include those below.
 * Within a bucket
 * what was counted is taken to lie evenly (grouped data: L + (pN - F) / f * w; common practice, no source); the lowest
 * bucket begins at 0
 * where its bound is above 0. A quantile beyond the highest finite bound is not known: it is told as that bound and
 * marked `above`, and how many
 * steps are is told beside. A step in which nothing was counted is a gap, and so is all of a distribution without a
 * finite bound.
 */
export function quantilesOfBuckets(
  lines: readonly TaggedValues[],
  p: number,
): { readonly lines: readonly TaggedValues[]; readonly above: number } {
  const groups = new Map<string, { tags: Tags; toldUntilMs: number; buckets: { bound: number; values: Values }[] }>();
  for (const { tags, values, toldUntilMs = Number.POSITIVE_INFINITY } of lines) {
    const { [boundTag]: bound, ...rest } = tags;
    const key = groupOf(tags);
    const group = groups.get(key) ?? { tags: rest, toldUntilMs, buckets: [] };
    groups.set(key, group);
    group.toldUntilMs = Math.min(group.toldUntilMs, toldUntilMs);
    group.buckets.push({ bound: boundOf(bound), values });
  }
  let allAbove = 0;
  const made = [...groups.values()].map(({ tags, toldUntilMs, buckets }): TaggedValues => {
    buckets.sort((a, b) => a.bound - b.bound);
    const steps = buckets[0]?.values.length ?? 0;
    const values = new Float64Array(steps);
    const above: number[] = [];
    for (let i = 0; i < steps; i++) {
      const { value, isAbove } = quantileAt(buckets, i, p);
      values[i] = value;
      if (isAbove) above.push(i);
    }
    allAbove += above.length;
    return { tags, toldUntilMs, values, ...(above.length > 0 && { above }) };
  });
  return { lines: made, above: allAbove };
}

const unknown = { value: Number.NaN, isAbove: false };

function quantileAt(
  buckets: readonly { readonly bound: number; readonly values: Values }[],
  i: number,
  p: number,
): { readonly value: number; readonly isAbove: boolean } {
  let total = 0;
  for (const { values } of buckets) if (values[i] > total) total = values[i];
  if (!(total > 0)) return unknown;
  const wanted = p * total;
  let below = 0;
  let from = Math.min(0, buckets[0]?.bound ?? 0);
  let hasBound = false;
  for (const { bound, values } of buckets) {
    const upTo = Number.isNaN(values[i]) ? below : Math.max(below, values[i]);
    if (upTo >= wanted && upTo > below) {
      if (Number.isFinite(bound))
        return { value: from + ((bound - from) * (wanted - below)) / (upTo - below), isAbove: false };
      return hasBound ? { value: from, isAbove: true } : unknown;
    }
    below = upTo;
    if (!Number.isFinite(bound)) continue;
    from = bound;
    hasBound = true;
  }
  return unknown;
}

/**
 * The lines of distributions' buckets, each with what falls into it alone, from the lowest bound to the highest; other
 * lines are left out.
 */
export function bucketsApart(
  lines: readonly Line[],
): readonly { readonly bound: number; readonly line: Line; readonly values: readonly (number | null)[] }[] {
  const ordered = lines
    .filter(({ tags }) => tags[boundTag] !== undefined)
    .map((line) => ({ bound: boundOf(line.tags[boundTag]), line }))
    .sort((a, b) => a.bound - b.bound);
  const below = new Map<string, readonly (number | null)[]>();
  return ordered.map(({ bound, line }) => {
    const key = groupOf(line.tags);
    const before = below.get(key);
    below.set(key, line.values);
    return {
      bound,
      line,
      values: line.values.map((v, i) => (v === null ? null : Math.max(0, v - (before?.[i] ?? 0)))),
    };
  });
}

/** The distribution that a bucket belongs to. */
const groupOf = ({ [boundTag]: _, ...rest }: Tags): string =>
  JSON.stringify(Object.entries(rest).sort(([a], [b]) => (a < b ? -1 : 1)));

const boundOf = (text: string | undefined): number => (text === "+Inf" ? Number.POSITIVE_INFINITY : Number(text));
