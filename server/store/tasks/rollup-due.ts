import type { Connection } from "../../db/pool.ts";
import type { RollupTier } from "./rollup-tier.ts";

/**
 * Notes that the rollups of periods are missing or stale, of some series or (null) of all, in the transaction that
 * makes them so.
 */
export async function noteDue(
  connection: Connection,
  tier: RollupTier,
  periods: readonly number[],
  ids: readonly number[] | null,
): Promise<void> {
  await connection.query(
    `insert into rollup_due (tier, period, series_ids)
     select $1::text, period, $3::int[] from unnest($2::int[]) as period
     on conflict (tier, period) do update
     set series_ids = case
       when rollup_due.series_ids is null or excluded.series_ids is null or cardinality(rollup_due.series_ids) > 1000 then null
       else (select array_agg(distinct id) from unnest(rollup_due.series_ids || excluded.series_ids) as id)
     end`,
    [tier, periods, ids],
  );
}
