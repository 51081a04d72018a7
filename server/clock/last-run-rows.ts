import type { Database } from "../db/pool.ts";

/** When the server ran last, by its clock; undefined before the first run. */
export async function readLastRun(database: Database): Promise<number | undefined> {
  const { rows } = await database.query<{ ms: number }>(
    "select (value->>'ms')::float8 as ms from setting where name = 'last_run'",
  );
  return rows[0]?.ms;
}

export async function writeLastRun(database: Database, ms: number): Promise<void> {
  await database.query(
    `insert into setting (name, value) values ('last_run', jsonb_build_object('ms', $1::float8))
     on conflict (name) do update set value = excluded.value, changed_at = now()`,
    [ms],
  );
}
