import { viewRowBlock } from "../../../core/chunk/row-block.ts";
import type { SentencePlan } from "../../../core/reading/plan.ts";
import { allFinite, LineCombiner } from "../../../core/reading/combine.ts";
import type { LineValues } from "../../../core/reading/line-values.ts";
import { SeriesReducer } from "../../../core/reading/reduce.ts";
import type { Values } from "../../../core/reading/steps.ts";
import { firstAtOrAfter } from "../../../core/series/merge-columns.ts";
import { type HeadPart, type HeadSnapshot, timesOfPart } from "../head-snapshot.ts";

/**
 * Means and sums of levels straight from the head's plain row blocks: the samples of all series of a line are added up
 * row by row, and what they hold of each step is worked
 * out of the sums, without making columns first. That is the live view of a fleet, and four times as fast. Undefined
 * where anything is less plain than
 * that; then the usual way is taken.
 */
export function sumHead(plan: SentencePlan, snapshot: HeadSnapshot): readonly LineValues[] | undefined {
  const { combine, tier, overBuckets, totals, lineOf, lineCount, ofEvery, fromMs, toMs } = plan;
  if (
    plan.extremes ||
    plan.sums ||
    (combine !== "sum" && combine !== "mean") ||
    tier !== "raw" ||
    overBuckets ||
    snapshot.strays.length > 0 ||
    (ofEvery ?? "mean") !== "mean"
  )
    return undefined;
  if ((plan.as ?? "value") !== "value" || (plan.as === undefined && totals.some((total) => total === 1)))
    return undefined;
  // lines of one series tell their least and most
  if (plan.grid.edgesMs || lineCount === lineOf.length) return undefined;
  const chains = chainsOf(snapshot);
  if (!chains) return undefined;
  const reducer = new SeriesReducer(plan.grid, plan.clipFromMs, plan.clipToMs);
  const combiner = new LineCombiner(combine, lineCount, plan.grid.count);
  const toldUntilMs = new Float64Array(lineCount).fill(Number.POSITIVE_INFINITY);
  for (const parts of chains) {
    const all = joinTimes(parts.map(timesOfPart));
    const first = firstAtOrAfter(all, fromMs);
    const end = firstAtOrAfter(all, toMs);
    if (first >= end) continue;
    const timeMs = all.subarray(first, end);
    const sums = sumRows(parts, lineOf, all.length);
    if (!sums) return undefined;
    const traits = {
      falls: "restart" as const,
      intervalMs: plan.intervalsMs[parts[0]?.wanted[0] as number] ?? Number.NaN,
    };
    for (const [line, { sum, of }] of sums) {
      const pieces = [{ timeMs, value: sum.subarray(first, end) }];
      toldUntilMs[line] = Math.min(toldUntilMs[line] as number, reducer.toldUntilMs(pieces, traits, plan.nowMs));
      combiner.add(line, reducer.reduce(pieces, "value", "mean", traits).values, false, of);
    }
  }
  return combiner.finish().map((values, line): LineValues => {
    const members = combiner.membersOf(line);
    return {
      values,
      ...(members && { members }),
      least: Number.NaN,
      most: Number.NaN,
      sum: Number.NaN,
      mean: Number.NaN,
      newest: Number.NaN,
      newestUntilMs: Number.NaN,
      toldUntilMs: toldUntilMs[line] as number,
      infinite: 0,
    };
  });
}

/**
 * Parts that hold the same series in one slot after the other. Undefined where series changed their company from slot
 * to slot.
 */
function chainsOf({ parts }: HeadSnapshot): readonly (readonly HeadPart[])[] | undefined {
  const chains: HeadPart[][] = [];
  const chainOf = new Map<number, HeadPart[]>();
  for (const part of parts) {
    const known = chainOf.get(part.wanted[0] as number);
    if (known) {
      const before = known.at(-1) as HeadPart;
      if (before.wanted.length !== part.wanted.length || !before.wanted.every((wanted, i) => wanted === part.wanted[i]))
        return undefined;
      known.push(part);
      continue;
    }
    const chain = [part];
    chains.push(chain);
    for (const wanted of part.wanted) {
      if (chainOf.has(wanted)) return undefined;
      chainOf.set(wanted, chain);
    }
  }
  return chains;
}

function joinTimes(times: readonly Float64Array[]): Float64Array {
  if (times.length === 1) return times[0] as Float64Array;
  const joined = new Float64Array(times.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const part of times) {
    joined.set(part, at);
    at += part.length;
  }
  return joined;
}

/**
 * The samples of each line's series, added up row by row, and how many series that are; undefined where a row lacks
 * one, or has what is no finite number.
 */
function sumRows(
  parts: readonly HeadPart[],
  lineOf: Int32Array,
  rows: number,
): ReadonlyMap<number, { readonly sum: Values; readonly of: number }> | undefined {
  const lanes = new Map<number, number[]>();
  (parts[0] as HeadPart).wanted.forEach((wanted, k) => {
    const line = lineOf[wanted] as number;
    const list = lanes.get(line);
    if (list) list.push(k);
    else lanes.set(line, [k]);
  });
  const sums = new Map([...lanes].map(([line, list]) => [line, { sum: new Float64Array(rows), of: list.length }]));
  let row = 0;
  for (const part of parts) {
    for (const bytes of part.rowBlocks) {
      const { numbers, allNumbers, rows: own } = viewRowBlock(bytes);
      if (!numbers || !allNumbers) return undefined;
      for (const [line, list] of lanes)
        addLanes(
          (sums.get(line) as { sum: Values }).sum,
          row,
          own,
          numbers,
          list.map((k) => own + (part.lanes[k] as number) * own),
        );
      row += own;
    }
    const { open, openTimeMs } = part;
    for (const [line, list] of lanes)
      addLanes(
        (sums.get(line) as { sum: Values }).sum,
        row,
        openTimeMs.length,
        open,
        list.map((k) => k * openTimeMs.length),
      );
    row += openTimeMs.length;
  }
  for (const { sum } of sums.values()) if (!allFinite(sum)) return undefined;
  return sums;
}

/**
 * Adds the `rows` rows of lanes that start at `starts` to the sums from `at` on. Eight lanes in one loop: their sum is
 * loaded and stored once.
 */
function addLanes(sum: Values, at: number, rows: number, numbers: Float64Array, starts: readonly number[]): void {
  let k = 0;
  for (; k + 8 <= starts.length; k += 8) {
    const [a, b, c, d] = [starts[k], starts[k + 1], starts[k + 2], starts[k + 3]] as [number, number, number, number];
    const [e, f, g, h] = [starts[k + 4], starts[k + 5], starts[k + 6], starts[k + 7]] as [
      number,
      number,
      number,
      number,
    ];
    for (let i = 0; i < rows; i++) {
      const first = (numbers[a + i] as number) + (numbers[b + i] as number);
      const second = (numbers[c + i] as number) + (numbers[d + i] as number);
      const third = (numbers[e + i] as number) + (numbers[f + i] as number);
      const fourth = (numbers[g + i] as number) + (numbers[h + i] as number);
      sum[at + i] = (sum[at + i] as number) + (first + second + (third + fourth));
    }
  }
  for (; k < starts.length; k++) {
    const a = starts[k] as number;
    for (let i = 0; i < rows; i++) sum[at + i] = (sum[at + i] as number) + (numbers[a + i] as number);
  }
}
