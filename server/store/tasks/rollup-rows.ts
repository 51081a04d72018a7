import { BlockError } from "../../../core/chunk/cursor.ts";
import { type BlockPlace, readRollupBlocks, writeRollupBlock } from "../../../core/chunk/rollup-block.ts";
import { fiveMinutesMs, hourMs, joinRollups, type Rollup } from "../../../core/series/rollup.ts";
import { type CopyConnection, CopyRowsWriter, copyIn, copyOut } from "../../db/copy-binary.ts";
import type { Connection } from "../../db/pool.ts";
import type { Damage } from "../damage.ts";
import type { RollupTier } from "./rollup-tier.ts";
import { seal, unseal } from "../seal.ts";
import { damageIn, listed, whole } from "./chunk-rows.ts";

const rollupTables = { "5m": "rollup_5m", "1h": "rollup_1h" } as const;

const resolutions = { "5m": fiveMinutesMs, "1h": hourMs } as const;

/** A row of rollups in memory, its checksum taken off. */
interface RollupRow extends BlockPlace {
  readonly bytes: Buffer;
  readonly series: number;
  readonly period: number;
}

/** By what rollups are read, and where what cannot be read is noted. */
export interface RollupContext {
  readonly connection: CopyConnection;
  readonly damages: Damage[];
}

/** Periods `[fromPeriod, toPeriod)` of a tier. */
export interface TierPeriods {
  readonly tier: RollupTier;
  readonly fromPeriod: number;
  readonly toPeriod: number;
}

/**
 * Reads the rollups of series: for each id its periods' buckets, ascending. Rows that cannot be read are left out and
 * noted in `damages`.
 */
export async function readRollups(
  context: RollupContext,
  ids: ArrayLike<number>,
  periods: TierPeriods,
): Promise<readonly (readonly Rollup[])[]> {
  const found = await readRows(context, ids, periods);
  return found.map((rows) => rows.flatMap((row) => readRow(context, periods.tier, row)));
}

/** The same as one rollup each, with the planes that are named; undefined for series that have none. */
export async function readJoinedRollups(
  context: RollupContext,
  ids: ArrayLike<number>,
  periods: TierPeriods,
  planes?: ReadonlySet<string>,
): Promise<readonly (Rollup | undefined)[]> {
  const found = await readRows(context, ids, periods);
  return found.map((rows) => {
    if (rows.length === 0) return undefined;
    try {
      return readRollupBlocks(rows, planes, resolutions[periods.tier]);
    } catch (error) {
      if (!(error instanceof BlockError)) throw error;
      const readable = rows.flatMap((row) => readRow(context, periods.tier, row));
      return readable.length === 0 ? undefined : joinRollups(readable);
    }
  });
}

function readRow({ damages }: RollupContext, tier: RollupTier, row: RollupRow): readonly Rollup[] {
  const read: Rollup[] = [];
  const { series, period } = row;
  const damage = damageIn(() => read.push(readRollupBlocks([row], undefined, resolutions[tier])));
  if (damage !== undefined) damages.push({ origin: rollupTables[tier], series, period, reason: damage });
  return read;
}

/** The rows of each series, ascending in time. */
async function readRows(
  { connection, damages }: RollupContext,
  ids: ArrayLike<number>,
  { tier, fromPeriod, toPeriod }: TierPeriods,
): Promise<readonly (readonly RollupRow[])[]> {
  const found: RollupRow[][] = Array.from(ids, () => []);
  const take = (list: RollupRow[] | undefined, row: RollupRow) => {
    const { series, period } = row;
    const damage = damageIn(() => list?.push({ ...row, end: unseal(row.bytes, row.start, row.end) }));
    if (damage !== undefined) damages.push({ origin: rollupTables[tier], series, period, reason: damage });
  };
  if (ids.length === 1 && fromPeriod < toPeriod) {
    // A few rows come sooner by a prepared query, for all that they come as text.
    const { rows } = await connection.query<{ period: number; payload: Buffer }>({
      name: `rollups ${tier}`,
      text: `select period, payload from ${rollupTables[tier]} where series_id = $1::int and period >= $2::int and period < $3::int`,
      values: [ids[0], fromPeriod, toPeriod],
    });
    for (const { period, payload } of rows)
      take(found[0], { series: ids[0] as number, period, bytes: payload, start: 0, end: payload.length });
  } else if (ids.length > 0 && fromPeriod < toPeriod) {
    const rows = await copyOut(
      connection,
      `select series_id, period, payload from ${rollupTables[tier]} where series_id = any('{${listed(ids)}}'::int[]) and period >= ${whole(fromPeriod)} and period < ${whole(toPeriod)}`,
    );
    const places = new Map<number, number>();
    for (let i = 0; i < ids.length; i++) places.set(ids[i] as number, i);
    rows.forEach(3, (starts, ends) => {
      const series = rows.int(starts[0] as number);
      take(found[places.get(series) as number], {
        series,
        period: rows.int(starts[1] as number),
        bytes: rows.bytes,
        start: starts[2] as number,
        end: ends[2] as number,
      });
    });
  }
  return found.map((list) => list.sort((a, b) => a.period - b.period));
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
