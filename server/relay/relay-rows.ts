import type { Database } from "../db/pool.ts";

/** Up to which record of a relay's spool everything is stored; 0 of another spool. */
export async function takenOf(database: Database, relay: number, life: string): Promise<number> {
  const { rows } = await database.query<{ taken: number }>(
    "select taken from relay_taken where source_id = $1::int and life = $2::text",
    [relay, life],
  );
  return rows[0]?.taken ?? 0;
}

export async function noteTaken(database: Database, relay: number, life: string, taken: number): Promise<void> {
  await database.query(
    `insert into relay_taken (source_id, life, taken) values ($1::int, $2::text, $3::bigint)
     on conflict (source_id) do update set life = excluded.life, taken = excluded.taken`,
    [relay, life, taken],
  );
}
