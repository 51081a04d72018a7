import type { SpellView } from "../../core/api/sources.ts";
import type { Database } from "../db/pool.ts";

/** Stores a spell of a source that is there, or that it has gone on. */
export async function writeSpell(
  database: Database,
  sourceId: number,
  { fromMs, untilMs, outcome, words }: Omit<SpellView, "outcome"> & { readonly outcome: string },
): Promise<void> {
  await database.query(
    `insert into source_spell (source_id, from_ms, until_ms, outcome, words)
     select $1::int, $2::bigint, $3::bigint, $4::text, $5::text where exists (select from source where id = $1::int)
     on conflict (source_id, from_ms) do update set until_ms = greatest(source_spell.until_ms, excluded.until_ms)`,
    [sourceId, fromMs, untilMs, outcome, words],
  );
}

/** At most a thousand, the newest. */
export async function listSpells(
  database: Database,
  sourceId: number,
  fromMs: number,
  toMs: number,
): Promise<readonly SpellView[]> {
  const { rows } = await database.query<SpellView>(
    `select from_ms as "fromMs", until_ms as "untilMs", outcome, words
     from (select * from source_spell where source_id = $1::int and from_ms < $3::bigint and until_ms >= $2::bigint order by from_ms desc limit 1000) newest
     order by from_ms`,
    [sourceId, Math.floor(fromMs), Math.ceil(toMs)],
  );
  return rows;
}

/** When each source answered well last, before this start. */
export async function lastHeard(database: Database): Promise<ReadonlyMap<number, number>> {
  const { rows } = await database.query<{ id: number; ms: number }>(
    "select source_id as id, max(until_ms) as ms from source_spell where outcome = 'ok' group by source_id",
  );
  return new Map(rows.map(({ id, ms }) => [id, ms]));
}

/** Spells older than what is kept of samples by the hour tell nothing any more. */
export async function forgetSpells(database: Database, beforeMs: number): Promise<void> {
  await database.query("delete from source_spell where until_ms < $1::bigint", [Math.floor(beforeMs)]);
}
