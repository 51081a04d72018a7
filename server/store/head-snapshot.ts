import {
  absentHigh,
  absentLow,
  type RowBlockView,
  readRowBlockLane,
  readRowBlockTimes,
  viewRowBlock,
} from "../../core/chunk/row-block.ts";
import { type Arena, newArrays } from "../../core/series/arena.ts";
import { type Column, emptyColumn } from "../../core/series/batch.ts";
import { joinColumns } from "../../core/series/join-columns.ts";
import { firstAtOrAfter, mergeColumns } from "../../core/series/merge-columns.ts";

/** What the head holds of some series of one group and slot. Row blocks are shared memory; the rest is a copy. */
export interface HeadPart {
  /** Which of the wanted series stands in which lane, in pairs of equal index. */
  readonly wanted: Int32Array;
  readonly lanes: Int32Array;
  readonly rowBlocks: readonly Uint8Array[];
  readonly openTimeMs: Float64Array<ArrayBuffer>;
  /** The open rows, one lane after the other, in the order of `lanes`. */
  readonly open: Float64Array<ArrayBuffer>;
}

/** What the head holds of a list of wanted series, as it was at one moment; it can be sent to a worker thread. */
export interface HeadSnapshot {
  /** How many series were wanted. */
  readonly count: number;
  /** In ascending order of slots. */
  readonly parts: readonly HeadPart[];
  /** Samples that came out of order. They stand over the others. */
  readonly strays: readonly { readonly wanted: number; readonly column: Column }[];
}

export const emptySnapshot = (count: number): HeadSnapshot => ({ count, parts: [], strays: [] });

/** Below this, copying memory to another thread takes less than handing it over. */
const leastTransfer = 65_536;

/** Memory that is better handed over with a snapshot than copied. */
export function transfersOf(snapshot: HeadSnapshot): ArrayBuffer[] {
  return snapshot.parts.map((part) => part.open.buffer).filter(({ byteLength }) => byteLength >= leastTransfer);
}

const rowNumbers = new Uint16Array(64);

/**
 * Unpacks the wanted series' samples in `[fromMs, toMs)`. Series of one source share one array of times. Values are in
 * memory of the arena.
 */
export function columnsOfSnapshot(
  snapshot: HeadSnapshot,
  fromMs: number,
  toMs: number,
  arena: Pick<Arena, "take"> = newArrays,
): readonly Column[] {
  const found: Column[][] = Array.from({ length: snapshot.count }, () => []);
  for (const part of snapshot.parts) addPart(part, fromMs, toMs, found, arena);
  const columns = joinColumns(found);
  for (const { wanted, column } of snapshot.strays) {
    const from = firstAtOrAfter(column.timeMs, fromMs);
    const to = firstAtOrAfter(column.timeMs, toMs);
    if (from < to)
      columns[wanted] = mergeColumns(columns[wanted] ?? emptyColumn, {
        timeMs: column.timeMs.subarray(from, to),
        value: column.value.subarray(from, to),
      });
  }
  return columns;
}

function addPart(
  { wanted, lanes, rowBlocks, openTimeMs, open }: HeadPart,
  fromMs: number,
  toMs: number,
  found: Column[][],
  arena: Pick<Arena, "take">,
): void {
  const views = rowBlocks.map(viewRowBlock);
  const openRows = openTimeMs.length;
  const timeMs = timesOf(views, openTimeMs);
  const rows = timeMs.length;
  const first = firstAtOrAfter(timeMs, fromMs);
  const end = firstAtOrAfter(timeMs, toMs);
  if (first >= end) return;
  const cut = timeMs.subarray(first, end);
  const openWords = new Uint32Array(open.buffer, open.byteOffset, open.length * 2);
  // All lanes in one piece of memory: a typed array for each would cost more than its decoding.
  const values = arena.take(rows * lanes.length);
  for (let k = 0; k < lanes.length; k++) {
    const start = k * rows;
    const present = readLane(
      views,
      lanes[k] as number,
      { open, openWords, openAt: k * openRows, openRows },
      values,
      start,
    );
    if (present === undefined)
      found[wanted[k] as number]?.push({ timeMs: cut, value: values.subarray(start + first, start + end) });
    else {
      const own = Float64Array.from(present, (row) => timeMs[row] as number);
      const from = firstAtOrAfter(own, fromMs);
      const to = firstAtOrAfter(own, toMs);
      if (from < to)
        found[wanted[k] as number]?.push({
          timeMs: own.subarray(from, to),
          value: values.subarray(start + from, start + to),
        });
    }
  }
}

/** The times of a part's rows. */
export function timesOfPart({ rowBlocks, openTimeMs }: HeadPart): Float64Array {
  return timesOf(rowBlocks.map(viewRowBlock), openTimeMs);
}

function timesOf(views: readonly RowBlockView[], openTimeMs: Float64Array): Float64Array {
  const timeMs = new Float64Array(views.reduce((sum, view) => sum + view.rows, openTimeMs.length));
  let at = 0;
  for (const view of views) {
    readRowBlockTimes(view, timeMs, at);
    at += view.rows;
  }
  timeMs.set(openTimeMs, at);
  return timeMs;
}

/** Where a lane's newest values stand, which are in no row block yet. */
interface OpenLane {
  readonly open: Float64Array;
  readonly openWords: Uint32Array;
  readonly openAt: number;
  readonly openRows: number;
}

/** Reads a lane's values into `into[at..]`. Where some rows have none, answers the numbers of those that have. */
function readLane(
  rowBlocks: readonly RowBlockView[],
  lane: number,
  { open, openWords, openAt, openRows }: OpenLane,
  into: Float64Array,
  at: number,
): readonly number[] | undefined {
  let present: number[] | undefined;
  let row = 0;
  for (const rowBlock of rowBlocks) {
    const got = readRowBlockLane(rowBlock, lane, into, at, rowNumbers);
    if (got < rowBlock.rows || present) {
      present ??= upTo(row);
      for (let i = 0; i < got; i++) present.push(row + (got < rowBlock.rows ? (rowNumbers[i] as number) : i));
    }
    at += got;
    row += rowBlock.rows;
  }
  let absent = false;
  for (let i = 2 * openAt + 1; i < 2 * (openAt + openRows); i += 2)
    if (openWords[i] === absentHigh && openWords[i - 1] === absentLow) absent = true;
  if (!absent && !present) {
    into.set(open.subarray(openAt, openAt + openRows), at);
    return undefined;
  }
  present ??= upTo(row);
  for (let i = openAt; i < openAt + openRows; i++, row++) {
    if (openWords[2 * i + 1] === absentHigh && openWords[2 * i] === absentLow) continue;
    present.push(row);
    into.set(open.subarray(i, i + 1), at++);
  }
  return present;
}

function upTo(n: number): number[] {
  return Array.from({ length: n }, (_, i) => i);
}

/** The wanted series `[from, to)` of a snapshot, as the first ones of another. */
export function subSnapshot(snapshot: HeadSnapshot, from: number, to: number): HeadSnapshot {
  if (from === 0 && to >= snapshot.count) return snapshot;
  const parts: HeadPart[] = [];
  for (const part of snapshot.parts) {
    const kept = Int32Array.from(part.wanted.keys()).filter(
      (k) => (part.wanted[k] as number) >= from && (part.wanted[k] as number) < to,
    );
    if (kept.length === 0) continue;
    const rows = part.openTimeMs.length;
    const open = new Float64Array(kept.length * rows);
    kept.forEach((k, i) => {
      open.set(part.open.subarray(k * rows, (k + 1) * rows), i * rows);
    });
    parts.push({
      wanted: kept.map((k) => (part.wanted[k] as number) - from),
      lanes: kept.map((k) => part.lanes[k] as number),
      rowBlocks: part.rowBlocks,
      openTimeMs: part.openTimeMs,
      open,
    });
  }
  const strays = snapshot.strays
    .filter(({ wanted }) => wanted >= from && wanted < to)
    .map(({ wanted, column }) => ({ wanted: wanted - from, column }));
  return { count: Math.min(to, snapshot.count) - from, parts, strays };
}
