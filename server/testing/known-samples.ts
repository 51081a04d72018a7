import { type Batch, batchOf } from "../../core/series/batch.ts";
import type { Database } from "../db/pool.ts";
import { Store } from "../store/store.ts";
import type { Damage } from "../store/damage.ts";
import { readRollups } from "../store/tasks/rollup-rows.ts";

/** Samples that can be told from their number: batch `k` holds 20 samples a minute apart of each of 40 series. */
const seriesCount = 40;
const samplesEach = 20;
const batchMs = samplesEach * 60_000;
export const samplesPerBatch = seriesCount * samplesEach;
/** The first of ten days. */
export const startMs = 20_700 * 86_400_000;
const dayMs = 86_400_000;

const valueAt = (series: number, minute: number) => ((series * 7919 + minute * 31) % 10_007) / 8;

export function knownBatch(k: number): Batch {
  const rows: [number, number, number][] = [];
  for (let i = 0; i < samplesEach; i++) {
    const minute = k * samplesEach + i;
    for (let series = 1; series <= seriesCount; series++)
      rows.push([series, startMs + minute * 60_000, valueAt(series, minute)]);
  }
  return batchOf(rows);
}

/** The clock of a store that is about to take batch `k`. */
export const nowAt = (k: number): number => startMs + (k + 1) * batchMs;

/** Gives the series their ids, 1 to 40. */
export async function makeKnownSeries(store: Store): Promise<void> {
  await store.series.resolve(
    Array.from({ length: seriesCount }, (_, i) => ({
      counter: "known",
      tags: { machine: "vault", n: String(i) },
      unit: "1",
      kind: "level" as const,
    })),
  );
}

export interface CountAndSum {
  readonly count: number;
  readonly sum: number;
}

/** What batches `[0, batches)` hold from `fromMs` on. */
export function expectedOf(batches: number, fromMs = startMs, toMs = Number.POSITIVE_INFINITY): CountAndSum {
  let count = 0;
  let sum = 0;
  for (let minute = 0; minute < batches * samplesEach; minute++) {
    const time = startMs + minute * 60_000;
    if (time < fromMs || time >= toMs) continue;
    for (let series = 1; series <= seriesCount; series++) {
      count++;
      sum += valueAt(series, minute);
    }
  }
  return { count, sum };
}

/** What a store holds in `[fromMs, toMs)`, as samples; each must be the one that was written, at its time, once. */
export async function storedIn(store: Store, fromMs = startMs, toMs = 1e15): Promise<CountAndSum> {
  let count = 0;
  let sum = 0;
  const columns = await store.read(
    Array.from({ length: seriesCount }, (_, i) => i + 1),
    fromMs,
    toMs,
  );
  columns.forEach(({ timeMs, value }, i) => {
    for (let k = 0; k < timeMs.length; k++) {
      const minute = ((timeMs[k] as number) - startMs) / 60_000;
      if (value[k] !== valueAt(i + 1, minute)) throw new Error(`series ${i + 1} has ${value[k]} at minute ${minute}`);
      if (k > 0 && !((timeMs[k] as number) > (timeMs[k - 1] as number)))
        throw new Error(`series ${i + 1} has minute ${minute} twice`);
      count++;
      sum += value[k] as number;
    }
  });
  return { count, sum };
}

/** What the rollups of five minutes hold of a day. */
export async function rolledUpOn(database: Database, day: number): Promise<CountAndSum> {
  const connection = await database.connect();
  try {
    let count = 0;
    let sum = 0;
    const damages: Damage[] = [];
    for (const [rollup] of await readRollups(
      { connection, damages },
      Array.from({ length: seriesCount }, (_, i) => i + 1),
      { tier: "5m", fromPeriod: day, toPeriod: day + 1 },
    )) {
      if (rollup?.kind !== "level") continue;
      for (let i = 0; i < rollup.count.length; i++) {
        count += rollup.count[i] as number;
        sum += rollup.sum[i] as number;
      }
    }
    if (damages.length > 0) throw new Error(`rollups are damaged: ${JSON.stringify(damages)}`);
    return { count, sum };
  } finally {
    connection.release();
  }
}

/** The first day of which samples are kept, as whole partitions, in a database. */
export async function firstRawDay(database: Database): Promise<number> {
  const { rows } = await database.query<{ day: number | null }>("select min(slot) / 12 as day from chunk");
  return rows[0]?.day ?? startMs / dayMs;
}

/** Opens a store as it would be right after batch `k`. */
export function openKnown(database: Database, k: number): Promise<Store> {
  return Store.open(database, { now: () => nowAt(k) });
}
