import { readRollupBlock, writeRollupBlock } from "../../../core/chunk/rollup-block.ts";
import { fiveMinutesMs, hourMs, type Rollup } from "../../../core/series/rollup.ts";
import { type CopyConnection, CopyRowsWriter, copyIn, copyOut } from "../../db/copy-binary.ts";
import type { Connection } from "../../db/pool.ts";
import type { Damage } from "../damage.ts";
import type { RollupTier } from "./rollup-tier.ts";
import { seal, unseal } from "../seal.ts";
import { damageIn, listed, whole } from "./chunk-rows.ts";

const rollupTables = { "5m": "rollup_5m", "1h": "rollup_1h" } as const;

const resolutions = { "5m": fiveMinutesMs, "1h": hourMs } as const;

/**
 * Reads the rollups of series in the periods `[fromPeriod, toPeriod)`: for each id its periods' buckets, ascending; of
 * their planes those that are named. Rows that cannot be read are left out and noted in `damages`.
 */
export async function readRollups(
  connection: CopyConnection,
  tier: RollupTier,
  ids: ArrayLike<number>,
  { fromPeriod, toPeriod }: { readonly fromPeriod: number; readonly toPeriod: number },
  damages: Damage[],
  planes?: ReadonlySet<string>,
): Promise<readonly (readonly Rollup[])[]> {
  const take = (
    place: number | undefined,
    series: number,
    period: number,
    bytes: Buffer,
    start: number,
    end: number,
  ) => {
    const damage = damageIn(() =>
      found[place as number]?.push({
        period,
        rollup: readRollupBlock(bytes, start, unseal(bytes, start, end), planes, resolutions[tier]),
      }),
    );
    if (damage !== undefined) damages.push({ origin: rollupTables[tier], series, period, reason: damage });
  };
  const found: { readonly period: number; readonly rollup: Rollup }[][] = Array.from(ids, () => []);
  if (ids.length === 1 && fromPeriod < toPeriod) {
    // A few rows come sooner by a prepared query, for all that they come as text.
    const { rows } = await connection.query<{ period: number; payload: Buffer }>({
      name: `rollups ${tier}`,
      text: `select period, payload from ${rollupTables[tier]} where series_id = $1::int and period >= $2::int and period < $3::int`,
      values: [ids[0], fromPeriod, toPeriod],
    });
    for (const { period, payload } of rows) take(0, ids[0] as number, period, payload, 0, payload.length);
  } else if (ids.length > 0 && fromPeriod < toPeriod) {
    const rows = await copyOut(
      connection,
      `select series_id, period, payload from ${rollupTables[tier]} where series_id = any('{${listed(ids)}}'::int[]) and period >= ${whole(fromPeriod)} and period < ${whole(toPeriod)}`,
    );
    const places = new Map<number, number>();
    for (let i = 0; i < ids.length; i++) places.set(ids[i] as number, i);
    rows.forEach(3, (starts, ends) => {
      const series = rows.int(starts[0] as number);
      take(
        places.get(series),
        series,
        rows.int(starts[1] as number),
        rows.bytes,
        starts[2] as number,
        ends[2] as number,
      );
    });
  }
  return found.map((list) => list.sort((a, b) => a.period - b.period).map(({ rollup }) => rollup));
}

/** Replaces the rollups of series in a period. Those without a bucket get none. */
export async function replaceRollups(
  connection: Connection,
  tier: RollupTier,
  period: number,
  ids: readonly number[],
  rollups: readonly Rollup[],
): Promise<void> {
  await connection.query(`delete from ${rollupTables[tier]} where period = $1::int and series_id = any($2::int[])`, [
    period,
    ids,
  ]);
  const rows = new CopyRowsWriter();
  rollups.forEach((rollup, i) => {
    if (rollup.startMs.length === 0) return;
    rows.row(3);
    rows.int(ids[i] as number);
    rows.int(period);
    rows.bytea(seal(writeRollupBlock(rollup)));
  });
  await copyIn(connection, `${rollupTables[tier]} (series_id, period, payload)`, rows.finish());
}
