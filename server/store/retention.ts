import type { Retention } from "../../core/api/costs.ts";
import Joi from "joi";
import type { Database } from "../db/pool.ts";
import { dropPartition, listPartitions, type Partition, type PartitionedTable } from "./partitions.ts";

const dayMs = 86_400_000;

export const defaultRetention: Retention = { rawDays: 30, fiveMinuteDays: 180, hourDays: 5 * 365 };

/** A coarser tier is kept as long as a finer one at least; buckets of hours are made of ten days and one more. */
export const retentionSchema = Joi.object<Retention>({
  rawDays: Joi.number().integer().min(2).max(3650).required().label("raw samples"),
  fiveMinuteDays: Joi.number().integer().min(14).max(3650).required().label("5 min buckets"),
  hourDays: Joi.number().integer().min(14).max(36_500).required().label("1 h buckets"),
})
  .custom((retention: Retention, helpers) => {
    if (retention.fiveMinuteDays < retention.rawDays) return helpers.error("fiveMinutes.short");
    return retention.hourDays < retention.fiveMinuteDays ? helpers.error("hours.short") : retention;
  })
  .messages({
    "fiveMinutes.short": "5 min buckets must be kept as long as raw samples at least",
    "hours.short": "1 h buckets must be kept as long as 5 min buckets at least",
  });

export async function readRetention(database: Database): Promise<Retention> {
  const { rows } = await database.query<{ value: Retention }>("select value from setting where name = 'retention'");
  return rows[0]?.value ?? defaultRetention;
}

export async function writeRetention(database: Database, retention: Retention): Promise<void> {
  await database.query(
    `insert into setting (name, value) values ('retention', $1::jsonb)
     on conflict (name) do update set value = excluded.value, changed_at = now()`,
    [JSON.stringify(retention)],
  );
}

/** The moment before which a table's content is not kept any more. */
export function keptFromMs(table: PartitionedTable, retention: Retention, nowMs: number): number {
  const days = {
    chunk: retention.rawDays,
    chunk_times: retention.rawDays,
    rollup_5m: retention.fiveMinuteDays,
    rollup_1h: retention.hourDays,
  }[table];
  return nowMs - days * dayMs;
}

/**
 * Drops partitions that are older than retention whole, each in a transaction of its own, and answers which. What
 * samples that are still to be compacted
 * (`waitsFromMs`) or rolled up will be joined with stays until they are. Does not wait behind long reads: 55P03 is
 * thrown then, and the rest is dropped the next time.
 */
export async function dropExpired(
  database: Database,
  retention: Retention,
  nowMs: number,
  waitsFromMs: number,
): Promise<readonly Partition[]> {
  const due = await dueRanges(database);
  const dropped: Partition[] = [];
  for (const partition of await listPartitions(database)) {
    if (partition.toMs > Math.min(keptFromMs(partition.table, retention, nowMs), waitsFromMs)) continue;
    if (
      due.some(
        ({ needs, fromMs, toMs }) =>
          needs.includes(partition.table) && fromMs < partition.toMs && toMs > partition.fromMs,
      )
    )
      continue;
    await dropPartition(database, partition);
    dropped.push(partition);
  }
  const hoursFrom = keptFromMs("rollup_1h", retention, nowMs);
  await database.query("delete from gathered where slot < $1::int", [Math.floor(hoursFrom / 7_200_000)]);
  return dropped;
}

/** What rollups that are due are made of. */
async function dueRanges(
  database: Database,
): Promise<readonly { readonly needs: readonly PartitionedTable[]; readonly fromMs: number; readonly toMs: number }[]> {
  const { rows } = await database.query<{ tier: "5m" | "1h"; period: number }>("select tier, period from rollup_due");
  return rows.map(({ tier, period }) =>
    tier === "5m"
      ? { needs: ["chunk", "chunk_times"], fromMs: (period - 0.1) * dayMs, toMs: (period + 1.1) * dayMs }
      : { needs: ["rollup_5m"], fromMs: period * 10 * dayMs, toMs: (period + 1) * 10 * dayMs },
  );
}

/** Series of which nothing is kept any more, and which have been there for a day at least. */
export async function seriesWithoutSamples(database: Database): Promise<readonly number[]> {
  const { rows } = await database.query<{ id: number }>(
    `select id
     from series s
     where created_at < now() - interval '1 day'
       and not exists (select from chunk where series_id = s.id)
       and not exists (select from rollup_5m where series_id = s.id)
       and not exists (select from rollup_1h where series_id = s.id)`,
  );
  return rows.map(({ id }) => id);
}
