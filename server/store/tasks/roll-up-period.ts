import type { Damage } from "../damage.ts";
import type { CounterKind, Falls } from "../../../core/counters/counter.ts";
import type { Column } from "../../../core/series/batch.ts";
import { fiveMinutesMs, hourMs, rollUp, rollUpFurther, rollupKind, type Rollup } from "../../../core/series/rollup.ts";
import type { Connection } from "../../db/pool.ts";
import { partitioned, slotsPerDay } from "../partitions.ts";
import { type KnownTimes, readChunks } from "./chunk-rows.ts";
import { setAside } from "../quarantine-rows.ts";
import { noteDue } from "./rollup-due.ts";
import { fallsOf } from "../series-registry.ts";
import { readRollups, replaceRollups } from "./rollup-rows.ts";
import type { RollUpTask, TaskContext } from "./task.ts";

const seriesAtOnce = 200;
/** Days of 5 min buckets in a period of hours. */
const daysPerPeriod = partitioned.rollup_1h.unitMs / partitioned.rollup_5m.unitMs;

/**
 * Works out the rollups of a due period and takes the note away, in the caller's transaction. What is rolled up depends
 * on the tier below alone,
 * so repeating it changes nothing. Does nothing where the period is not due. The partitions must be there.
 */
export async function rollUpPeriod(
  connection: Connection,
  { knownTimes, damages }: TaskContext,
  { tier, period }: RollUpTask,
): Promise<undefined> {
  // Compaction that makes it due again meanwhile waits for this row, and notes it anew.
  const due = await connection.query<{ series_ids: number[] | null }>(
    "select series_ids from rollup_due where tier = $1::text and period = $2::int for update",
    [tier, period],
  );
  if (due.rows.length === 0) return undefined;
  const only = due.rows[0]?.series_ids ?? null;
  const series = await seriesOf(connection, tier, period, only);
  for (let from = 0; from < series.length; from += seriesAtOnce) {
    const some = series.slice(from, from + seriesAtOnce);
    const ids = some.map(({ id }) => id);
    const rollups =
      tier === "5m"
        ? await dayOf(connection, knownTimes, some, period, damages)
        : await hoursOf(connection, some, period, damages);
    await setAside(connection, damages.splice(0));
    await replaceRollups(connection, tier, period, ids, rollups);
  }
  if (tier === "5m") await noteDue(connection, "1h", [Math.floor(period / daysPerPeriod)], only);
  await connection.query("delete from rollup_due where tier = $1::text and period = $2::int", [tier, period]);
  return undefined;
}

interface SeriesKind {
  readonly id: number;
  readonly kind: CounterKind;
  readonly falls: Falls;
}

/** The series that have something in the period, in the order in which they lie in it. */
async function seriesOf(
  connection: Connection,
  tier: RollUpTask["tier"],
  period: number,
  only: readonly number[] | null,
): Promise<readonly SeriesKind[]> {
  const [table, unit, from, to] =
    tier === "5m"
      ? ["chunk", "slot", period * slotsPerDay, (period + 1) * slotsPerDay]
      : ["rollup_5m", "period", period * daysPerPeriod, (period + 1) * daysPerPeriod];
  const { rows } = await connection.query<
    Omit<SeriesKind, "falls"> & { readonly counter: string; readonly falls: string | null }
  >(
    `select id, counter, kind, falls
     from series
     where id in (select series_id from ${table} where ${unit} >= $1::int and ${unit} < $2::int) and ($3::int[] is null or id = any($3::int[]))
     order by id`,
    [from, to, only],
  );
  return rows.map(({ id, counter, kind, falls }) => ({ id, kind, falls: fallsOf(counter, falls) }));
}

async function dayOf(
  connection: Connection,
  knownTimes: KnownTimes,
  series: readonly SeriesKind[],
  day: number,
  damages: Damage[],
): Promise<readonly Rollup[]> {
  const columns = await readChunks(
    { connection, knownTimes, damages },
    series.map(({ id }) => id),
    day * slotsPerDay,
    (day + 1) * slotsPerDay,
  );
  const { unitMs } = partitioned.rollup_5m;
  return series.map(({ kind, falls }, i) =>
    rollUp(columns[i] as Column, rollupKind(kind), fiveMinutesMs, day * unitMs, (day + 1) * unitMs, falls),
  );
}

async function hoursOf(
  connection: Connection,
  series: readonly SeriesKind[],
  period: number,
  damages: Damage[],
): Promise<readonly Rollup[]> {
  const days = await readRollups(
    { connection, damages },
    series.map(({ id }) => id),
    { tier: "5m", fromPeriod: period * daysPerPeriod, toPeriod: (period + 1) * daysPerPeriod },
  );
  const { unitMs } = partitioned.rollup_1h;
  return series.map(({ kind, falls }, i) =>
    rollUpFurther(
      days[i] as readonly Rollup[],
      rollupKind(kind),
      hourMs,
      period * unitMs,
      (period + 1) * unitMs,
      falls,
    ),
  );
}
