import type { DoorNewsSettings, DoorNewsView } from "../../core/api/door-news.ts";
import type { Database } from "../db/pool.ts";
import type { DeedRow } from "./audit-rows.ts";

const nothing: DoorNewsView = { recipient: null, of: ["wrong", "places", "tokens"], lastSent: null };

export async function readDoorNews(database: Database): Promise<DoorNewsView & { readonly toldId: number }> {
  const { rows } = await database.query<{
    settings: DoorNewsSettings;
    lastSent: DoorNewsView["lastSent"];
    toldId: number;
  }>(`select settings, last_sent as "lastSent", told_id::float8 as "toldId" from door_news`);
  const [kept] = rows;
  return kept ? { ...kept.settings, lastSent: kept.lastSent, toldId: kept.toldId } : { ...nothing, toldId: 0 };
}

/** Keeps to whom is told from here on; what happened before is told to nobody. */
export async function keepDoorNews(database: Database, settings: DoorNewsSettings): Promise<void> {
  await database.query(
    `insert into door_news (settings, told_id)
     select $1::jsonb, coalesce(max(id), 0) from audit
     on conflict (is_one) do update set settings = excluded.settings, told_id = excluded.told_id`,
    [JSON.stringify(settings)],
  );
}

/** What came of telling, and up to which deed everything is told. */
export async function noteDoorNews(
  database: Database,
  lastSent: DoorNewsView["lastSent"],
  toldId: number,
): Promise<void> {
  await database.query("update door_news set last_sent = coalesce($1::jsonb, last_sent), told_id = $2::bigint", [
    lastSent && JSON.stringify(lastSent),
    toldId,
  ]);
}

/** Deeds after one, in the order of their time. */
export async function deedsAfter(database: Database, id: number, most: number): Promise<readonly DeedRow[]> {
  const { rows } = await database.query<DeedRow>(
    `select id::float8 as id, (extract(epoch from at) * 1000)::float8 as "atMs", who, known_by as "knownBy", place, did,
       subject, null as before, null as after, outcome
     from audit
     where id > $1::bigint
     order by id
     limit $2::int`,
    [id, most],
  );
  return rows;
}
