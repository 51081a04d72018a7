import { readChunkBlock, writeChunkBlock } from "../../core/chunk/chunk-block.ts";
import { readJournalBlock } from "../../core/chunk/journal-block.ts";
import type { Column } from "../../core/series/batch.ts";
import { columnFromRows, mergeColumns } from "../../core/series/merge-columns.ts";
import { type Connection, type Database, inTransaction } from "../db/pool.ts";
import { partitionStatement, slotMs } from "./slots.ts";

const lockNumber = 7373002;

/**
 * Turns a slot's journal rows into chunks, in one transaction with their removal: whoever reads sees each sample in exactly one place.
 * A slot that has chunks already (late samples reopened it) is merged with them. Repeating it does nothing.
 */
export async function compactSlot(database: Database, slot: number): Promise<void> {
  await inTransaction(database, async (connection) => {
    await connection.query("select pg_advisory_xact_lock($1::bigint)", [lockNumber]);
    const { rows } = await connection.query<{ id: number; payload: Buffer }>("select id, payload from journal where slot_ms = $1::bigint order by id", [slot]);
    if (rows.length === 0) return;
    const fresh = columnsOf(rows.map((row) => row.payload));
    const columns = await mergedWithChunks(connection, slot, fresh);
    await connection.query(partitionStatement(slot));
    await upsertChunks(connection, slot, columns);
    await connection.query("delete from journal where id = any($1::bigint[])", [rows.map((row) => row.id)]);
    await countMinutes(connection, slot, fresh);
  });
}

/** Slots that have journal rows and ended before `beforeMs`, oldest first. */
export async function slotsToCompact(database: Database, beforeMs: number): Promise<readonly number[]> {
  const { rows } = await database.query<{ slot_ms: number }>("select distinct slot_ms from journal where slot_ms <= $1::bigint order by slot_ms", [beforeMs - slotMs]);
  return rows.map((row) => row.slot_ms);
}

function columnsOf(payloads: readonly Buffer[]): Map<number, Column> {
  const times = new Map<number, number[]>();
  const values = new Map<number, number[]>();
  for (const payload of payloads) {
    const batch = readJournalBlock(payload);
    for (let i = 0; i < batch.length; i++) {
      const id = batch.series[i] as number;
      if (!times.has(id)) {
        times.set(id, []);
        values.set(id, []);
      }
      times.get(id)?.push(batch.timeMs[i] as number);
      values.get(id)?.push(batch.value[i] as number);
    }
  }
  return new Map([...times].map(([id, list]) => [id, columnFromRows(list, values.get(id) as number[])]));
}

async function mergedWithChunks(connection: Connection, slot: number, fresh: ReadonlyMap<number, Column>): Promise<Map<number, Column>> {
  const { rows } = await connection.query<{ series_id: number; payload: Buffer }>(
    "select series_id, payload from chunk where slot_ms = $1::bigint and series_id = any($2::int[])",
    [slot, [...fresh.keys()]],
  );
  const merged = new Map(fresh);
  for (const { series_id, payload } of rows) merged.set(series_id, mergeColumns(readChunkBlock(payload), fresh.get(series_id) as Column));
  return merged;
}

async function upsertChunks(connection: Connection, slot: number, columns: ReadonlyMap<number, Column>): Promise<void> {
  await connection.query(
    `insert into chunk (slot_ms, series_id, samples, payload)
     select $1::bigint, * from unnest($2::int[], $3::int[], $4::bytea[])
     on conflict (series_id, slot_ms) do update
     set samples = excluded.samples, payload = excluded.payload`,
    [slot, [...columns.keys()], [...columns.values()].map((column) => column.timeMs.length), [...columns.values()].map((column) => Buffer.from(writeChunkBlock(column)))],
  );
}

/** Adds what came since to the minutes counted when the slot was compacted before; a sample written twice counts twice here, for the rail shows activity. */
async function countMinutes(connection: Connection, slot: number, fresh: ReadonlyMap<number, Column>): Promise<void> {
  const minutes = new Array<number>(slotMs / 60_000).fill(0);
  const { rows } = await connection.query<{ per_minute: number[] }>("select per_minute from gathered where slot_ms = $1::bigint", [slot]);
  rows[0]?.per_minute.forEach((n, i) => {
    minutes[i] = n;
  });
  for (const column of fresh.values()) {
    for (const time of column.timeMs) {
      const minute = Math.floor((time - slot) / 60_000);
      minutes[minute] = (minutes[minute] as number) + 1;
    }
  }
  await connection.query(
    `insert into gathered (slot_ms, per_minute) values ($1::bigint, $2::int[])
     on conflict (slot_ms) do update set per_minute = excluded.per_minute`,
    [slot, minutes],
  );
}
