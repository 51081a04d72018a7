import type { Database } from "../db/pool.ts";
import { slotMs } from "./slots.ts";

const dayMs = 86_400_000;
export const slotsPerDay = dayMs / slotMs;

/** The partitioned tables: how many of their units (slots or periods) a partition holds, and how long a unit is. */
export const partitioned = {
  chunk: { units: slotsPerDay, unitMs: slotMs },
  chunk_times: { units: slotsPerDay, unitMs: slotMs },
  rollup_5m: { units: 10, unitMs: dayMs },
  rollup_1h: { units: 10, unitMs: 10 * dayMs },
} as const;
export type PartitionedTable = keyof typeof partitioned;

/** One partition, `[fromMs, toMs)`. */
export interface Partition {
  readonly table: PartitionedTable;
  readonly name: string;
  readonly fromMs: number;
  readonly toMs: number;
  readonly sizeBytes: number;
}

/**
 * Makes the partition that holds a unit where it is missing; by itself, before the transaction that writes to it, for
 * it locks the whole table for a
 * moment. It does not wait behind long reads, which would hold up all that comes after: 55P03 is thrown, and the caller
 * tries again later.
 */
export async function ensurePartition(database: Database, table: PartitionedTable, unit: number): Promise<void> {
  const { units } = partitioned[table];
  const number = Math.floor(unit / units);
  const name = `${table}_${number}`;
  const { rows } = await database.query<{ there: string | null }>("select to_regclass($1::text) as there", [name]);
  if (rows[0]?.there) return;
  await database.query("select make_partition($1::text, $2::int, $3::int)", [table, number, units]);
}

/** Drops a partition whole. Does not wait behind long reads: 55P03 is thrown then. */
export async function dropPartition(database: Database, { table, name }: Partition): Promise<void> {
  await database.query("select drop_partition($1::text, $2::int)", [table, Number(name.slice(table.length + 1))]);
}

/** All partitions with the disk that they take, indexes included. */
export async function listPartitions(database: Database): Promise<readonly Partition[]> {
  const { rows } = await database.query<{ parent: PartitionedTable; name: string; size: number }>(
    `select parent.relname as parent, child.relname as name, pg_total_relation_size(child.oid) as size
     from pg_inherits
     join pg_class parent on parent.oid = inhparent
     join pg_class child on child.oid = inhrelid
     where parent.relname = any($1::text[]) and parent.relkind = 'p' and parent.relnamespace = current_schema()::regnamespace
     order by child.relname`,
    [Object.keys(partitioned)],
  );
  return rows.map(({ parent, name, size }) => {
    const { units, unitMs } = partitioned[parent];
    const fromMs = Number(name.slice(parent.length + 1)) * units * unitMs;
    return { table: parent, name, fromMs, toMs: fromMs + units * unitMs, sizeBytes: size };
  });
}
