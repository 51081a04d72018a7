import type { QuietTime } from "../../core/quiet/quiet-time.ts";
import type { Database } from "../db/pool.ts";

const columns = `id, title, why, by, scope, from_ms as "fromMs", to_ms as "toMs", repeat, ended_at_ms as "endedAtMs"`;

/** Those that may still hold, or did in the time that is looked at. */
export async function listQuietTimes(database: Database, sinceMs: number): Promise<readonly QuietTime[]> {
  const { rows } = await database.query<QuietTime>(
    `select ${columns} from quiet_time
     where coalesce(ended_at_ms, case when repeat is null then to_ms else 9007199254740991 end) >= $1::bigint
     order by from_ms, id`,
    [Math.floor(sinceMs)],
  );
  return rows;
}

export async function insertQuietTime(
  database: Database,
  quiet: Omit<QuietTime, "id" | "endedAtMs">,
): Promise<QuietTime> {
  const { rows } = await database.query<QuietTime>(
    `insert into quiet_time (title, why, by, scope, from_ms, to_ms, repeat)
     values ($1::text, $2::text, $3::text, $4::jsonb, $5::bigint, $6::bigint, $7::jsonb) returning ${columns}`,
    [
      quiet.title,
      quiet.why,
      quiet.by,
      JSON.stringify(quiet.scope),
      quiet.fromMs,
      quiet.toMs,
      quiet.repeat === null ? null : JSON.stringify(quiet.repeat),
    ],
  );
  return rows[0] as QuietTime;
}

/** Ends one for good; undefined where there is none, or it has ended. */
export async function endQuietTime(database: Database, id: number, atMs: number): Promise<QuietTime | undefined> {
  const { rows } = await database.query<QuietTime>(
    `update quiet_time set ended_at_ms = $2::bigint where id = $1::int and ended_at_ms is null returning ${columns}`,
    [id, Math.round(atMs)],
  );
  return rows[0];
}

/** How many open incidents each quiet time hides, by its number. */
export async function countHidden(database: Database): Promise<ReadonlyMap<number, number>> {
  const { rows } = await database.query<{ id: number; count: number }>(
    "select quiet_id as id, count(*)::int as count from incident where cleared_at_ms is null and quiet_id is not null group by quiet_id",
  );
  return new Map(rows.map(({ id, count }) => [id, count]));
}
