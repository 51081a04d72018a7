import type { SetAsideView } from "../../core/api/condition.ts";
import type { Connection, Database } from "../db/pool.ts";
import type { Damage } from "./damage.ts";
import { noteDue } from "./tasks/rollup-due.ts";

/**
 * Sets rows aside whole, in the caller's transaction: they leave their tables and stand in `quarantine`, for whoever
 * may yet read them. Rollups are made due
 * again, as what they were made of may still be there.
 */
export async function setAside(connection: Connection, damages: readonly Damage[]): Promise<void> {
  for (const damage of damages) {
    const { origin, reason, ...place } = damage;
    const [condition, values] = keyOf(damage);
    await connection.query(
      `with gone as (delete from ${origin} where ${condition} returning payload)
       insert into quarantine (origin, place, reason, payload)
       select '${origin}', $${values.length + 1}::jsonb, $${values.length + 2}::text, payload from gone
       on conflict (origin, place) do update
       set reason = excluded.reason, payload = excluded.payload, set_aside_at = now()`,
      [...values, JSON.stringify(place), reason],
    );
    if (damage.origin === "rollup_5m" || damage.origin === "rollup_1h")
      await noteDue(connection, damage.origin === "rollup_5m" ? "5m" : "1h", [damage.period], [damage.series]);
  }
}

function keyOf(damage: Damage): readonly [condition: string, values: readonly number[]] {
  switch (damage.origin) {
    case "journal":
      return ["segment = $1::bigint and seq = $2::int", [damage.segment, damage.seq]];
    case "chunk":
      return ["series_id = $1::int and slot = $2::int", [damage.series, damage.slot]];
    case "chunk_times":
      return ["id = $1::int and slot = $2::int", [damage.id, damage.slot]];
    case "rollup_5m":
    case "rollup_1h":
      return ["series_id = $1::int and period = $2::int", [damage.series, damage.period]];
  }
}

export async function countSetAside(database: Database): Promise<number> {
  const { rows } = await database.query<{ n: number }>("select count(*)::int as n from quarantine");
  return rows[0]?.n ?? 0;
}

const mostListed = 200;

/** What was set aside, the newest first, and how much there is. */
export async function listSetAside(
  database: Database,
): Promise<{ readonly count: number; readonly rows: readonly SetAsideView[] }> {
  const { rows } = await database.query<{
    origin: SetAsideView["origin"];
    place: Readonly<Record<string, number>>;
    reason: string;
    bytes: number;
    at: Date;
    counter: string | null;
    machine: string | null;
    all: number;
  }>(
    `select origin, place, reason, length(payload) as bytes, set_aside_at as at, counter, tags->>'machine' as machine, (count(*) over ())::int as all
     from quarantine
     left join series on series.id = (place->>'series')::int
     order by quarantine.id desc
     limit $1::int`,
    [mostListed],
  );
  return {
    count: rows[0]?.all ?? 0,
    rows: rows.map(({ origin, place, reason, bytes, at, counter, machine }) => ({
      origin,
      place,
      reason,
      bytes,
      atMs: at.getTime(),
      counter,
      machine,
    })),
  };
}
