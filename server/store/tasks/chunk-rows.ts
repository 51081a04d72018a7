import { BlockError } from "../../../core/chunk/cursor.ts";
import { chunkCount, readChunkInto, readTimesBlock } from "../../../core/chunk/chunk-block.ts";
import { type Arena, newArrays } from "../../../core/series/arena.ts";
import { type Column, emptyColumn } from "../../../core/series/batch.ts";
import { firstAtOrAfter } from "../../../core/series/merge-columns.ts";
import type { Damage } from "../damage.ts";
import { unseal } from "../seal.ts";
import { type CopiedRows, type CopyConnection, copyOut } from "../../db/copy-binary.ts";

interface ChunkRow {
  readonly slot: number;
  readonly timesId: number | undefined;
  readonly start: number;
  readonly end: number;
  readonly count: number;
}

/** Times that chunks of one database share, by id: they never change, and many series lean on each. */
export type KnownTimes = Map<number, Float64Array>;
const mostKnownTimes = 5000;

/** By what chunks are read, and where what cannot be read is noted. */
export interface ChunkContext {
  readonly connection: CopyConnection;
  readonly knownTimes: KnownTimes;
  readonly damages: Damage[];
}

/**
 * Reads the samples of series in the slots `[fromSlot, toSlot)`, one column for each id. Series that share their times
 * share the array. Values are in memory of the arena. Rows that cannot be read are left out and noted in `damages`.
 */
export async function readChunks(
  { connection, knownTimes, damages }: ChunkContext,
  ids: ArrayLike<number>,
  fromSlot: number,
  toSlot: number,
  arena: Pick<Arena, "take"> = newArrays,
): Promise<readonly Column[]> {
  if (ids.length === 0 || fromSlot >= toSlot) return Array.from(ids, () => emptyColumn);
  const rows = await copyOut(
    connection,
    `select series_id, slot, times_id, payload from chunk where ${among(ids)} and slot >= ${whole(fromSlot)} and slot < ${whole(toSlot)}`,
  );
  const places = new Map<number, number>();
  for (let i = 0; i < ids.length; i++) places.set(ids[i] as number, i);
  const bySeries: ChunkRow[][] = Array.from(ids, () => []);
  const needed = new Set<number>();
  rows.forEach(4, (starts, ends) => {
    const slot = rows.int(starts[1] as number);
    const timesId = (starts[2] as number) < 0 ? undefined : rows.int(starts[2] as number);
    if (timesId !== undefined) needed.add(timesId);
    const start = starts[3] as number;
    const series = rows.int(starts[0] as number);
    const damage = damageIn(() => {
      const end = unseal(rows.bytes, start, ends[3]);
      bySeries[places.get(series) as number]?.push({
        slot,
        timesId,
        start,
        end,
        count: chunkCount(rows.bytes, start, end),
      });
    });
    if (damage !== undefined) damages.push({ origin: "chunk", series, slot, reason: damage });
  });
  await readTimes(connection, knownTimes, needed, fromSlot, toSlot, damages);
  const joined = new Map<string, Float64Array>();
  return bySeries.map((list, i) => {
    list.sort((a, b) => a.slot - b.slot);
    try {
      return decode(rows, knownTimes, list, joined, arena);
    } catch (error) {
      if (!(error instanceof BlockError)) throw error;
      return decode(rows, knownTimes, readable(rows, knownTimes, list, ids[i] as number, damages), joined, arena);
    }
  });
}

/** Those of a series' rows that can be read; the others are noted. */
function readable(
  { bytes }: CopiedRows,
  knownTimes: KnownTimes,
  list: readonly ChunkRow[],
  series: number,
  damages: Damage[],
): ChunkRow[] {
  return list.filter(({ slot, timesId, start, end, count }) => {
    const damage = damageIn(() => {
      if (timesId !== undefined && !knownTimes.has(timesId))
        throw new BlockError("the times that it shares are missing", 0);
      readChunkInto(
        bytes,
        start,
        end,
        timesId === undefined ? undefined : knownTimes.get(timesId),
        new Float64Array(count),
        new Float64Array(count),
        0,
      );
    });
    if (damage !== undefined) damages.push({ origin: "chunk", series, slot, reason: damage });
    return damage === undefined;
  });
}

/** What is wrong with a block that `read` reads; undefined where nothing is. */
export function damageIn(read: () => void): string | undefined {
  try {
    read();
    return undefined;
  } catch (error) {
    if (error instanceof BlockError) return error.message;
    throw error;
  }
}

/**
 * The nearest samples of series outside what was read: for each id the last two before the slot `slot`, no older than
 * `limitSlot`, or (`after`) the first one
 * from `slot` on, before `limitSlot`. Empty where there are none.
 */
export async function readNearest(
  context: ChunkContext,
  ids: readonly number[],
  slot: number,
  limitSlot: number,
  side: "before" | "after",
): Promise<readonly Column[]> {
  const { connection } = context;
  const [range, order, most] =
    side === "before"
      ? ["slot >= $2::int and slot < $3::int", "desc", 2]
      : ["slot < $2::int and slot >= $3::int", "asc", 1];
  const { rows } = await connection.query<{ id: number; slot: number }>(
    `select wanted.id, near.slot
     from unnest($1::int[]) as wanted (id),
       lateral (select slot from chunk where series_id = wanted.id and ${range} order by slot ${order} limit ${most}) as near
     order by near.slot`,
    [ids, limitSlot, slot],
  );
  const bySlot = new Map<number, number[]>();
  for (const { id, slot: found } of rows) bySlot.set(found, [...(bySlot.get(found) ?? []), id]);
  const parts = new Map<number, Column[]>(ids.map((id) => [id, []]));
  for (const [found, some] of bySlot) {
    const columns = await readChunks(context, some, found, found + 1);
    for (const [i, id] of some.entries()) parts.get(id)?.push(columns[i] as Column);
  }
  return ids.map((id) => {
    const timeMs: number[] = [];
    const value: number[] = [];
    for (const part of parts.get(id) ?? []) {
      timeMs.push(...part.timeMs);
      value.push(...part.value);
    }
    const [from, to] = side === "before" ? [-2, undefined] : [0, 1];
    return { timeMs: Float64Array.from(timeMs.slice(from, to)), value: Float64Array.from(value.slice(from, to)) };
  });
}

/** Cuts columns to `[fromMs, toMs)`; columns that share their times still do. */
export function cutColumns(columns: readonly Column[], fromMs: number, toMs: number): readonly Column[] {
  const cuts = new Map<Float64Array, { readonly first: number; readonly end: number; readonly timeMs: Float64Array }>();
  return columns.map(({ timeMs, value }) => {
    let cut = cuts.get(timeMs);
    if (!cut) {
      const first = firstAtOrAfter(timeMs, fromMs);
      const end = firstAtOrAfter(timeMs, toMs);
      cuts.set(timeMs, (cut = { first, end, timeMs: timeMs.subarray(first, end) }));
    }
    return { timeMs: cut.timeMs, value: value.subarray(cut.first, cut.end) };
  });
}

function decode(
  { bytes }: CopiedRows,
  knownTimes: KnownTimes,
  list: readonly ChunkRow[],
  joined: Map<string, Float64Array>,
  arena: Pick<Arena, "take">,
): Column {
  if (list.length === 0) return emptyColumn;
  let length = 0;
  let key: string | undefined = "";
  for (const row of list) {
    length += row.count;
    key = row.timesId === undefined || key === undefined ? undefined : `${key}${row.timesId},`;
  }
  const value = arena.take(length);
  const shared = key === undefined ? undefined : joined.get(key);
  const timeMs = shared ?? new Float64Array(length);
  let at = 0;
  for (const { timesId, start, end } of list)
    at += readChunkInto(
      bytes,
      start,
      end,
      timesId === undefined ? undefined : knownTimes.get(timesId),
      shared ? undefined : timeMs,
      value,
      at,
    );
  if (key !== undefined && !shared) joined.set(key, timeMs);
  return { timeMs, value };
}

async function readTimes(
  connection: CopyConnection,
  knownTimes: KnownTimes,
  needed: ReadonlySet<number>,
  fromSlot: number,
  toSlot: number,
  damages: Damage[],
): Promise<void> {
  const missing = [...needed].filter((id) => !knownTimes.has(id));
  if (missing.length === 0) return;
  for (const id of knownTimes.keys()) {
    if (knownTimes.size + missing.length <= mostKnownTimes) break;
    if (!needed.has(id)) knownTimes.delete(id);
  }
  const rows = await copyOut(
    connection,
    `select id, slot, payload from chunk_times where id = any('{${listed(missing)}}'::int[]) and slot >= ${whole(fromSlot)} and slot < ${whole(toSlot)}`,
  );
  rows.forEach(3, (starts, ends) => {
    const id = rows.int(starts[0] as number);
    const start = starts[2] as number;
    const damage = damageIn(() =>
      knownTimes.set(id, readTimesBlock(rows.bytes, start, unseal(rows.bytes, start, ends[2]))),
    );
    if (damage !== undefined)
      damages.push({ origin: "chunk_times", id, slot: rows.int(starts[1] as number), reason: damage });
  });
}

/**
 * The condition on series. Many that follow one another are a range, which an index walks in one go; rows of the few
 * between are passed over by the caller.
 */
function among(ids: ArrayLike<number>): string {
  let least = Number.POSITIVE_INFINITY;
  let most = Number.NEGATIVE_INFINITY;
  for (let i = 0; i < ids.length; i++) {
    least = Math.min(least, ids[i] as number);
    most = Math.max(most, ids[i] as number);
  }
  return ids.length > 100 && most - least < ids.length * 1.1
    ? `series_id between ${whole(least)} and ${whole(most)}`
    : `series_id = any('{${listed(ids)}}'::int[])`;
}

/** COPY takes no parameters: what stands in its text is checked to be whole numbers. */
export function listed(ids: ArrayLike<number>): string {
  return Array.from(ids, whole).join(",");
}

export function whole(n: number): string {
  if (!Number.isSafeInteger(n)) throw new TypeError(`${n} is not a whole number`);
  return String(n);
}
