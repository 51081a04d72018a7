import { seldomSlots } from "../life-pages.ts";
import type { LineValues } from "../../../core/reading/line-values.ts";
import { SentenceReducer } from "../../../core/reading/reduce-sentence.ts";
import type { Piece } from "../../../core/reading/reduce.ts";
import type { Arena } from "../../../core/series/arena.ts";
import { type Column, emptyColumn } from "../../../core/series/batch.ts";
import { joinColumns } from "../../../core/series/join-columns.ts";
import { firstAtOrAfter } from "../../../core/series/merge-columns.ts";
import { reachMs } from "../../../core/series/interval.ts";
import { planesFor, sliceBuckets } from "../../../core/series/rollup.ts";
import { columnsOfSnapshot, type HeadSnapshot, subSnapshot } from "../head-snapshot.ts";
import { partitioned } from "../partitions.ts";
import { slotMs, slotOf } from "../slots.ts";
import { cutColumns, readChunks, readNearest } from "./chunk-rows.ts";
import { readingSpans, type Span } from "./reading-spans.ts";
import { readJoinedRollups } from "./rollup-rows.ts";
import { sumHead } from "./sum-head.ts";
import { CancelledError } from "../../work/work-kind.ts";
import type { ColumnsTask, ReduceTask, SentenceTask, TaskContext } from "./task.ts";

/** Samples that are in memory at once, about. */
const samplesAtOnce = 2_000_000;
/** Of a series, so that short windows of many series go in one piece. */
const shortestSpanMs = 3_600_000;
/** The nearest reading outside a window is looked for of so many series. */
const mostLookedFor = 500;

/**
 * Reads and works out a reading's lines, one list a sentence. Between portions it looks whether somebody still waits.
 * Throws CancelledError.
 */
export async function reduceReading(
  context: TaskContext,
  task: ReduceTask,
  isCancelled: () => boolean,
): Promise<readonly (readonly LineValues[])[]> {
  const results: (readonly LineValues[])[] = [];
  for (const sentence of task.sentences) {
    const { plan, ids, snapshot } = sentence;
    const summed = plan.fromMs >= task.headFromMs ? sumHead(plan, snapshot) : undefined;
    if (summed) {
      results.push(summed);
      continue;
    }
    const reducer = new SentenceReducer(plan);
    const spans = readingSpans(plan, task);
    const samplesMs = spans.reduce((sum, { tier, fromMs, toMs }) => sum + (tier === "raw" ? toMs - fromMs : 0), 0);
    const atOnce = Math.max(1, Math.floor(samplesAtOnce / (Math.max(shortestSpanMs, samplesMs) / 5000)));
    for (let from = 0; from < ids.length; from += atOnce) {
      if (isCancelled()) throw new CancelledError();
      const some = ids.subarray(from, from + atOnce);
      const pieces = await piecesOf(
        context,
        task,
        sentence,
        spans,
        some,
        subSnapshot(snapshot, from, from + some.length),
      );
      for (let i = 0; i < some.length; i++) reducer.add(from + i, pieces[i] as readonly Piece[]);
    }
    results.push(reducer.finish());
  }
  return results;
}

/** What was read of each series, in ascending time. */
async function piecesOf(
  context: TaskContext,
  task: ReduceTask,
  { plan }: SentenceTask,
  spans: readonly Span[],
  ids: Int32Array,
  snapshot: HeadSnapshot,
): Promise<readonly (readonly Piece[])[]> {
  const planes = plan.extremes
    ? undefined
    : planesFor(plan.overBuckets ? "mean" : (plan.ofEvery ?? "mean"), !plan.overBuckets);
  const pieces: Piece[][] = Array.from(ids, () => []);
  const newest = spans.length - 1;
  for (const [k, { tier, fromMs, toMs }] of spans.entries()) {
    // The arena has room for one read at a time: the last span, which is the long one.
    const found: readonly Piece[] =
      tier === "raw"
        ? await readColumns(
            context,
            { ids, fromMs, toMs, headFromMs: task.headFromMs, snapshot },
            k === newest ? context.arena : undefined,
          )
        : await readBuckets(context, tier, ids, fromMs, toMs, planes);
    for (let i = 0; i < ids.length; i++) {
      const piece = found[i];
      if (piece && ("kind" in piece ? piece.startMs : piece.timeMs).length > 0) pieces[i]?.push(piece);
    }
  }
  await addNearest(context, task, plan, ids, snapshot, pieces);
  return pieces;
}

async function readBuckets(
  context: TaskContext,
  tier: "5m" | "1h",
  ids: Int32Array,
  fromMs: number,
  toMs: number,
  planes: ReadonlySet<string> | undefined,
): Promise<readonly Piece[]> {
  const { unitMs } = partitioned[tier === "5m" ? "rollup_5m" : "rollup_1h"];
  const found = await readJoinedRollups(
    { connection: await context.connect(), damages: context.damages },
    ids,
    { tier, fromPeriod: Math.floor(fromMs / unitMs), toPeriod: Math.ceil(toMs / unitMs) },
    planes,
  );
  return found.map((buckets) => (buckets ? sliceBuckets(buckets, fromMs, toMs) : emptyColumn));
}

/**
 * Looks for the readings before the window, and of what grows after it, of series that have none within what was read:
 * they come seldom, or were silent.
 */
async function addNearest(
  { connect, knownTimes, damages }: TaskContext,
  { headFromMs }: ReduceTask,
  plan: SentenceTask["plan"],
  ids: Int32Array,
  snapshot: HeadSnapshot,
  pieces: Piece[][],
): Promise<void> {
  const { clipFromMs, clipToMs, fromMs, toMs, addsGrowth, totals, intervalsMs, nowMs } = plan;
  const isLooked = (i: number) => addsGrowth || !((intervalsMs[i] as number) > 0);
  const isGrowing = (i: number) => addsGrowth || (totals[i] === 1 && isLooked(i));
  const before: number[] = [];
  const after: number[] = [];
  const reaches = new Map<Float64Array, number>();
  pieces.forEach((list, i) => {
    if (isGrowing(i) && clipToMs < nowMs && (list.length === 0 || endOf(list.at(-1) as Piece) < clipToMs))
      after.push(i);
    if (!isLooked(i)) return;
    // What comes so often that the one before would have been read has none before.
    const isSeldom = addsGrowth || list.length === 0 || !(reachOf(list[0] as Piece, reaches) <= clipFromMs - fromMs);
    if (isSeldom && (list.length === 0 || startOf(list[0] as Piece) > clipFromMs)) before.push(i);
  });
  if (before.length > 0 && before.length <= mostLookedFor) {
    const held = columnsOfSnapshot(snapshot, Number.NEGATIVE_INFINITY, fromMs);
    // Without a chunk all there is is in the head.
    const missing = Number.isFinite(headFromMs) ? before.filter((i) => held[i]?.timeMs.length === 0) : [];
    const slot = Math.ceil(Math.min(fromMs, headFromMs) / slotMs);
    const stored =
      missing.length === 0
        ? []
        : await readNearest(
            { connection: await connect(), knownTimes, damages },
            missing.map((i) => ids[i] as number),
            slot,
            slot - seldomSlots,
            "before",
          );
    for (const i of before)
      prepend(
        pieces[i] as Piece[],
        lastTwo(missing.includes(i) ? (stored[missing.indexOf(i)] as Column) : (held[i] as Column), fromMs),
      );
  }
  if (after.length > 0 && after.length <= mostLookedFor) {
    const slot = slotOf(toMs);
    const stored =
      slot * slotMs >= headFromMs
        ? after.map(() => emptyColumn)
        : await readNearest(
            { connection: await connect(), knownTimes, damages },
            after.map((i) => ids[i] as number),
            slot,
            slot + seldomSlots,
            "after",
          );
    const held = columnsOfSnapshot(snapshot, toMs, Number.POSITIVE_INFINITY);
    after.forEach((i, k) => {
      const found = stored[k] as Column;
      const next = found.timeMs.length > 0 && (found.timeMs[0] as number) >= toMs ? found : (held[i] as Column);
      if (next.timeMs.length > 0) pieces[i]?.push({ timeMs: next.timeMs.slice(0, 1), value: next.value.slice(0, 1) });
    });
  }
}

/**
 * How long a piece's first samples hold, ms; infinite where it has too few to tell. Series of one source share their
 * times: what those tell is kept in `known`.
 */
function reachOf(piece: Piece, known: Map<Float64Array, number>): number {
  const timeMs = "kind" in piece ? piece.lastMs : piece.timeMs;
  let told = known.get(timeMs);
  if (told === undefined) {
    told =
      "kind" in piece && (piece.count[0] as number) > 1
        ? reachMs(timeMs, ((timeMs[0] as number) - (piece.firstMs[0] as number)) / ((piece.count[0] as number) - 1))
        : reachMs(timeMs);
    known.set(timeMs, told);
  }
  return told > 0 ? told : Number.POSITIVE_INFINITY;
}

const startOf = (piece: Piece) => ("kind" in piece ? piece.firstMs : piece.timeMs)[0] as number;
const endOf = (piece: Piece) => ("kind" in piece ? piece.lastMs : piece.timeMs).at(-1) as number;

function lastTwo({ timeMs, value }: Column, beforeMs: number): Column {
  const end = firstAtOrAfter(timeMs, beforeMs);
  return { timeMs: timeMs.slice(Math.max(0, end - 2), end), value: value.slice(Math.max(0, end - 2), end) };
}

/** One column with what follows, so that both tell how far apart they come. */
function prepend(list: Piece[], earlier: Column): void {
  if (earlier.timeMs.length === 0) return;
  const first = list[0];
  if (first && !("kind" in first)) list[0] = joinColumns([[earlier, first]])[0] as Column;
  else list.unshift(earlier);
}

/**
 * The samples of series in `[fromMs, toMs)`, one column for each id: from chunks where they are older than the head,
 * from its snapshot else.
 */
export async function readColumnsTask(context: TaskContext, task: ColumnsTask): Promise<readonly Column[]> {
  return readColumns(context, task);
}

async function readColumns(
  { connect, knownTimes, damages }: TaskContext,
  { ids, fromMs, toMs, headFromMs, snapshot }: ColumnsTask,
  arena?: Arena,
): Promise<readonly Column[]> {
  arena?.clear();
  if (fromMs >= toMs) return Array.from(ids, () => emptyColumn);
  const newer = columnsOfSnapshot(snapshot, fromMs, toMs, arena);
  if (fromMs >= headFromMs) return newer;
  const older = cutColumns(
    await readChunks(
      { connection: await connect(), knownTimes, damages },
      ids,
      slotOf(fromMs),
      Math.ceil(Math.min(toMs, headFromMs) / slotMs),
      arena,
    ),
    fromMs,
    toMs,
  );
  if (snapshot.parts.length === 0 && snapshot.strays.length === 0) return older;
  return joinColumns(older.map((column, i) => [column, newer[i] as Column].filter(({ timeMs }) => timeMs.length > 0)));
}
