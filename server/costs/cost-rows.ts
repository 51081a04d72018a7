import type { Database } from "../db/pool.ts";

/** What the database takes as a whole, its journal, and how many samples its chunks hold. */
export async function readSizes(
  database: Database,
): Promise<{ readonly database: number; readonly journal: number; readonly samples: number | null }> {
  const { rows } = await database.query<{ database: number; journal: number; samples: number | null }>(
    `select pg_database_size(current_database()) as database, pg_total_relation_size('journal') as journal,
       (select sum((select sum(n) from unnest(per_minute) as n)) from gathered where slot >= (select min(slot) from chunk))::float8 as samples`,
  );
  return rows[0] as (typeof rows)[0];
}

/** How many periods a tier of rollups reaches over. */
export async function periodsOf(database: Database, table: "rollup_5m" | "rollup_1h"): Promise<number> {
  const { rows } = await database.query<{ periods: number | null }>(
    `select (max(period) - min(period) + 1) as periods from ${table}`,
  );
  return rows[0]?.periods ?? 0;
}

/** Bytes that the database takes on its disk. */
export async function databaseBytes(database: Database): Promise<number | undefined> {
  const { rows } = await database.query<{ bytes: number }>(
    "select pg_database_size(current_database())::float8 as bytes",
  );
  return rows[0]?.bytes;
}
