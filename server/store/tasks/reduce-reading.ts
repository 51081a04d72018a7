import { SentenceReducer } from "../../../core/reading/reduce-sentence.ts";
import type { RollupPart } from "../../../core/reading/reduce.ts";
import type { Values } from "../../../core/reading/steps.ts";
import type { Arena } from "../../../core/series/arena.ts";
import { type Column, emptyColumn } from "../../../core/series/batch.ts";
import { joinColumns } from "../../../core/series/join-columns.ts";
import { fiveMinutesMs, hourMs, joinRollups, planesFor, type Rollup } from "../../../core/series/rollup.ts";
import type { CopyConnection } from "../../db/copy-binary.ts";
import { columnsOfSnapshot, type HeadSnapshot, subSnapshot } from "../head-snapshot.ts";
import { partitioned } from "../partitions.ts";
import { slotMs, slotOf } from "../slots.ts";
import { cutColumns, readChunks, readSummaries } from "./chunk-rows.ts";
import { readRollups } from "./rollup-rows.ts";
import { sumHead } from "./sum-head.ts";
import { CancelledError, type ColumnsTask, type ReduceTask, type RollupTier, type SentenceTask, type TaskContext } from "./task.ts";

/** Samples that are in memory at once, about. */
const samplesAtOnce = 2_000_000;
/** Of a series, so that short windows of many series go in one piece. */
const shortestSpanMs = 3_600_000;
/** How far before the samples that follow buckets is read, for the pair that lies across. */
const pairMarginMs = 900_000;

/** Reads and works out a reading's lines, one list a sentence. Between portions it looks whether somebody still waits. Throws CancelledError. */
export async function reduceReading(context: TaskContext, task: ReduceTask, isCancelled: () => boolean): Promise<readonly (readonly Values[])[]> {
  const results: (readonly Values[])[] = [];
  for (const sentence of task.sentences) {
    const { plan, ids, snapshot } = sentence;
    const summed = plan.fromMs >= task.headFromMs ? sumHead(plan, snapshot) : undefined;
    if (summed) {
      results.push(summed);
      continue;
    }
    const reducer = new SentenceReducer(plan);
    const spans = spansOf(task, sentence);
    const planes = plan.extremes ? undefined : planesFor(plan.overBuckets ? "mean" : (plan.ofEvery ?? "mean"));
    const atOnce = Math.max(1, Math.floor(samplesAtOnce / (Math.max(shortestSpanMs, spans.rawToMs - spans.rawReadMs) / 5000)));
    for (let from = 0; from < ids.length; from += atOnce) {
      if (isCancelled()) throw new CancelledError();
      const some = ids.subarray(from, from + atOnce);
      const summed = spans.summaries;
      const raw = await readColumns(context, some, spans.rawReadMs, spans.rawToMs, task.headFromMs, subSnapshot(snapshot, from, from + some.length), context.arena);
      const rollups: RollupPart[][] = Array.from(some, () => []);
      if (spans.hours) await addRollups(await context.connect(), "1h", some, spans.hours, planes, rollups);
      if (spans.fiveMinutes) await addRollups(await context.connect(), "5m", some, spans.fiveMinutes, planes, rollups);
      if (summed) {
        const [fromMs, toMs] = summed;
        (await readSummaries(await context.connect(), some, slotOf(fromMs), slotOf(toMs))).forEach((rollup, i) => {
          if (rollup.startMs.length > 0) rollups[i]?.push({ resolutionMs: slotMs, fromMs, toMs, rollup });
        });
      }
      for (let i = 0; i < some.length; i++) reducer.add(from + i, { rollups: rollups[i] as RollupPart[], rawFromMs: spans.rawFromMs, raw: raw[i] as Column });
    }
    results.push(reducer.finish());
  }
  return results;
}

/** The samples of series in `[fromMs, toMs)`, one column for each id: from chunks where they are older than the head, from its snapshot else. */
export async function readColumnsTask(context: TaskContext, { ids, fromMs, toMs, headFromMs, snapshot }: ColumnsTask): Promise<readonly Column[]> {
  return readColumns(context, ids, fromMs, toMs, headFromMs, snapshot);
}

async function readColumns({ connect, knownTimes }: TaskContext, ids: Int32Array, fromMs: number, toMs: number, headFromMs: number, snapshot: HeadSnapshot, arena?: Arena): Promise<readonly Column[]> {
  arena?.clear();
  if (fromMs >= toMs) return Array.from(ids, () => emptyColumn);
  const newer = columnsOfSnapshot(snapshot, fromMs, toMs, arena);
  if (fromMs >= headFromMs) return newer;
  const older = cutColumns(await readChunks(await connect(), knownTimes, ids, slotOf(fromMs), Math.ceil(Math.min(toMs, headFromMs) / slotMs), arena), fromMs, toMs);
  if (snapshot.parts.length === 0 && snapshot.strays.length === 0) return older;
  return joinColumns(older.map((column, i) => [column, newer[i] as Column].filter(({ timeMs }) => timeMs.length > 0)));
}

interface Spans {
  /** Buckets of hours, of five minutes; then samples. */
  readonly hours: readonly [fromMs: number, toMs: number] | undefined;
  readonly fiveMinutes: readonly [fromMs: number, toMs: number] | undefined;
  /** Whole slots that fall whole into steps: their chunks' summaries are enough. */
  readonly summaries: readonly [fromMs: number, toMs: number] | undefined;
  readonly rawFromMs: number;
  /** Where reading samples begins: some before `rawFromMs`. */
  readonly rawReadMs: number;
  readonly rawToMs: number;
}

/** What is read from where. Slots that are in chunks and fall whole into steps are read by their summaries. */
function spansOf(task: ReduceTask, sentence: SentenceTask): Spans {
  const spans = samplesSpansOf(task, sentence);
  const { grid, tier, overBuckets, totals, ofEvery = "mean" } = sentence.plan;
  if (tier !== "1h" || overBuckets || task.hasLate || grid.stepMs % slotMs !== 0 || grid.fromMs % slotMs !== 0 || totals.some((total) => total === 1)) return spans;
  const endMs = grid.fromMs + grid.count * grid.stepMs;
  const fromMs = Math.max(spans.rawFromMs, grid.fromMs);
  const toMs = Math.min(task.headFromMs, endMs);
  if (!Number.isFinite(toMs) || toMs <= fromMs || ofEvery === "first") return spans;
  return { ...spans, summaries: [fromMs, toMs], rawFromMs: toMs, rawReadMs: toMs >= endMs ? spans.rawToMs : toMs };
}

function samplesSpansOf({ fiveMinutesUntilMs, hoursUntilMs }: ReduceTask, { plan: { tier, grid, fromMs, toMs } }: SentenceTask): Spans {
  if (tier === "raw" || fromMs >= fiveMinutesUntilMs) return { hours: undefined, fiveMinutes: undefined, summaries: undefined, rawFromMs: Number.NEGATIVE_INFINITY, rawReadMs: fromMs, rawToMs: toMs };
  const endMs = grid.fromMs + grid.count * grid.stepMs;
  const hoursTo = tier === "1h" ? Math.min(hoursUntilMs, endMs) : grid.fromMs;
  const finesFrom = Math.max(grid.fromMs, tier === "1h" ? hoursUntilMs : grid.fromMs);
  const finesTo = Math.min(fiveMinutesUntilMs, endMs);
  return {
    hours: grid.fromMs < hoursTo ? [grid.fromMs, hoursTo] : undefined,
    fiveMinutes: finesFrom < finesTo ? [finesFrom, finesTo] : undefined,
    summaries: undefined,
    rawFromMs: fiveMinutesUntilMs,
    rawReadMs: fiveMinutesUntilMs >= endMs ? toMs : fiveMinutesUntilMs - pairMarginMs,
    rawToMs: toMs,
  };
}

async function addRollups(connection: CopyConnection, tier: RollupTier, ids: Int32Array, [fromMs, toMs]: readonly [number, number], planes: ReadonlySet<string> | undefined, into: RollupPart[][]): Promise<void> {
  const { unitMs } = partitioned[tier === "5m" ? "rollup_5m" : "rollup_1h"];
  const found = await readRollups(connection, tier, ids, Math.floor(fromMs / unitMs), Math.ceil(toMs / unitMs), planes);
  found.forEach((periods, i) => {
    if (periods.length > 0) into[i]?.push({ resolutionMs: tier === "5m" ? fiveMinutesMs : hourMs, fromMs, toMs, rollup: joinRollups(periods) as Rollup });
  });
}
