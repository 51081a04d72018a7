import type { Damage } from "../damage.ts";
import { readTimesBlock, writeChunkBlock, writeTimesBlock } from "../../../core/chunk/chunk-block.ts";
import type { Column } from "../../../core/series/batch.ts";
import { mergeColumns } from "../../../core/series/merge-columns.ts";
import { CopyRowsWriter, copyIn, copyOut } from "../../db/copy-binary.ts";
import type { Connection } from "../../db/pool.ts";
import { columnsOfSnapshot, subSnapshot } from "../head-snapshot.ts";
import { slotsPerDay } from "../partitions.ts";
import { slotMs, slotStart } from "../slots.ts";
import { setAside } from "../quarantine-rows.ts";
import { seal, unseal } from "../seal.ts";
import { damageIn, readChunks, whole } from "./chunk-rows.ts";
import { noteLives } from "../life-rows.ts";
import { noteDue } from "./rollup-due.ts";
import type { CompactTask, TaskContext } from "./task.ts";

const lockNumber = 7373002;
/** Series that are unpacked at once: bounds the memory to some ten megabytes. */
const seriesAtOnce = 2000;
/** What has fewer samples in two hours comes seldom. */
const oftenSamples = 4;
const minutesPerSlot = slotMs / 60_000;

/**
 * Turns what the head holds of a slot into chunks, in one transaction with the removal of the journal segments that
 * hold the same: whoever starts
 * anew finds each sample in one of the two. A slot that has chunks already (late samples reopened it) is merged with
 * them. Repeating it changes nothing.
 * The partitions must be there. Answers which series came seldom.
 */
export async function compactSlot(
  connection: Connection,
  { knownTimes, damages }: TaskContext,
  { slot, ids, snapshot, segments }: CompactTask,
): Promise<Int32Array> {
  await connection.query("select pg_advisory_xact_lock($1::bigint)", [lockNumber]);
  const times = await SharedTimes.open(connection, slot, damages);
  const minutes = new Minutes(slot);
  const fromMs = slotStart(slot);
  const isSeldom = new Uint8Array(ids.length);
  for (let from = 0; from < ids.length; from += seriesAtOnce) {
    const to = Math.min(ids.length, from + seriesAtOnce);
    const some = ids.subarray(from, to);
    const fresh = columnsOfSnapshot(subSnapshot(snapshot, from, to), fromMs, fromMs + slotMs);
    const before = await readChunks({ connection, knownTimes, damages }, some, slot, slot + 1);
    await setAside(connection, damages.splice(0)); // before what is left of the slot is written anew
    const columns = fresh.map((column, i) => mergeColumns(before[i] as Column, column));
    minutes.count(columns, 1);
    minutes.count(before, -1);
    if (before.some(({ timeMs }) => timeMs.length > 0))
      await connection.query("delete from chunk where slot = $1::int and series_id = any($2::int[])", [
        slot,
        [...some],
      ]);
    const timesIds = await times.idsOf(connection, columns);
    const rows = new CopyRowsWriter();
    for (const [i, column] of columns.entries()) {
      if (column.timeMs.length < oftenSamples) isSeldom[from + i] = 1;
      if (column.timeMs.length === 0) continue;
      const timesId = timesIds[i];
      rows.row(4);
      rows.int(some[i] as number);
      rows.int(slot);
      rows.int(timesId);
      rows.bytea(seal(writeChunkBlock(column, timesId !== undefined)));
    }
    await copyIn(connection, "chunk (series_id, slot, times_id, payload)", rows.finish());
  }
  await minutes.store(connection);
  await noteLives(connection, slot, ids, (i) => isSeldom[i] === 1);
  if (ids.length > 0) await markDue(connection, slot, fewOf(ids));
  await connection.query("delete from journal where segment = any($1::bigint[])", [segments]);
  return ids.filter((_, i) => isSeldom[i] === 1);
}

/** A few late series are rolled up by themselves; many make the whole period due. */
function fewOf(ids: Int32Array): readonly number[] | null {
  return ids.length <= 100 ? [...ids] : null;
}

/** The day's rollups are due, and the neighbour's where a pair of samples may lie across its end. */
async function markDue(connection: Connection, slot: number, ids: readonly number[] | null): Promise<void> {
  const day = Math.floor(slot / slotsPerDay);
  const periods = [day];
  if (slot % slotsPerDay === 0) periods.push(day - 1);
  if (slot % slotsPerDay === slotsPerDay - 1) periods.push(day + 1);
  await noteDue(connection, "5m", periods, ids);
}

/** The arrays of times that several series of a slot have alike: kept once, found by what is in them. */
class SharedTimes {
  readonly #slot: number;
  readonly #ids = new Map<string, number>();

  private constructor(slot: number) {
    this.#slot = slot;
  }

  static async open(connection: Connection, slot: number, damages: Damage[]): Promise<SharedTimes> {
    const shared = new SharedTimes(slot);
    const rows = await copyOut(connection, `select id, payload from chunk_times where slot = ${whole(slot)}`);
    rows.forEach(2, (starts, ends) => {
      const id = rows.int(starts[0] as number);
      const start = starts[1] as number;
      const damage = damageIn(() =>
        shared.#ids.set(contentOf(readTimesBlock(rows.bytes, start, unseal(rows.bytes, start, ends[1]))), id),
      );
      if (damage !== undefined) damages.push({ origin: "chunk_times", id, slot, reason: damage });
    });
    return shared;
  }

  /** The id of each column's times; undefined where no other column has the same. New ones are stored. */
  async idsOf(connection: Connection, columns: readonly Column[]): Promise<readonly (number | undefined)[]> {
    const contents = new Map<Float64Array, string>();
    const users = new Map<string, { users: number; readonly timeMs: Float64Array }>();
    for (const { timeMs } of columns) {
      if (timeMs.length === 0) continue;
      let content = contents.get(timeMs);
      if (content === undefined) contents.set(timeMs, (content = contentOf(timeMs)));
      const known = users.get(content);
      if (known) known.users++;
      else users.set(content, { users: 1, timeMs });
    }
    const fresh = [...users].filter(([content, { users: n }]) => n > 1 && !this.#ids.has(content));
    if (fresh.length > 0) {
      const { rows } = await connection.query<{ id: number }>(
        "select nextval('chunk_times_id')::int as id from generate_series(1, $1::int)",
        [fresh.length],
      );
      const writer = new CopyRowsWriter();
      fresh.forEach(([content, { timeMs }], i) => {
        const { id } = rows[i] as { id: number };
        this.#ids.set(content, id);
        writer.row(3);
        writer.int(id);
        writer.int(this.#slot);
        writer.bytea(seal(writeTimesBlock(timeMs)));
      });
      await copyIn(connection, "chunk_times (id, slot, payload)", writer.finish());
    }
    return columns.map(({ timeMs }) =>
      timeMs.length === 0 ? undefined : this.#ids.get(contents.get(timeMs) as string),
    );
  }
}

/** The very times, as text that can be compared. */
function contentOf(timeMs: Float64Array): string {
  return Buffer.from(writeTimesBlock(timeMs)).toString("latin1");
}

/** How many samples each minute of a slot holds; a sample that replaced another counts once. */
class Minutes {
  readonly #slot: number;
  readonly #counts = new Float64Array(minutesPerSlot);

  constructor(slot: number) {
    this.#slot = slot;
  }

  count(columns: readonly Column[], sign: 1 | -1): void {
    const shared = new Map<Float64Array, number>();
    for (const { timeMs } of columns) shared.set(timeMs, (shared.get(timeMs) ?? 0) + sign);
    const start = slotStart(this.#slot);
    for (const [timeMs, times] of shared) {
      for (let i = 0; i < timeMs.length; i++) {
        const minute = Math.floor(((timeMs[i] as number) - start) / 60_000);
        this.#counts[minute] = (this.#counts[minute] as number) + times;
      }
    }
  }

  async store(connection: Connection): Promise<void> {
    await connection.query(
      `insert into gathered (slot, per_minute) values ($1::int, $2::int[])
       on conflict (slot) do update
       set per_minute = (select array_agg(a + b order by at) from unnest(gathered.per_minute, excluded.per_minute) with ordinality as pairs (a, b, at))`,
      [this.#slot, [...this.#counts]],
    );
  }
}
