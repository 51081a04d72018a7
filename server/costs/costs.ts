import { statfs } from "node:fs/promises";
import type { CostsView, TierCosts } from "../../core/api/costs.ts";
import { bucketBytesPerDay, expectedBytesPerSample, rawBytesPerDay } from "../../core/capacity/disk-forecast.ts";
import type { Database } from "../db/pool.ts";
import { periodsOf, readSizes } from "./cost-rows.ts";
import { listPartitions, type Partition, type PartitionedTable } from "../store/partitions.ts";
import type { ProcessorShare } from "./processor-share.ts";
import type { Store } from "../store/store.ts";

/**
 * A day of 5 min buckets beside a day of samples every 5 to 15 s, and hours beside those: about what the bench shows.
 */
const fiveMinutesToRaw = 0.35;
const hoursToFiveMinutes = 1 / 10;

/**
 * What the store costs: disk by tier, now and a day, memory, processor. `folder` is where the database's own disk is,
 * if that is known.
 */
export async function readCosts(
  database: Database,
  store: Store,
  samplesPerSecond: number,
  processor: ProcessorShare,
  folder: string | undefined,
): Promise<CostsView> {
  const partitions = await listPartitions(database);
  const { database: databaseBytes, journal: journalBytes, samples } = await readSizes(database);
  const { retention } = store;
  const raw = diskOf(partitions, ["chunk", "chunk_times"]);
  const fives = diskOf(partitions, ["rollup_5m"]);
  const hours = diskOf(partitions, ["rollup_1h"]);
  const bytesPerSample = samples ? raw.sizeBytes / samples : expectedBytesPerSample;
  const rawDay = rawBytesPerDay(samplesPerSecond, bytesPerSample);
  const fiveDay = bucketBytesPerDay(await heldIn(database, "rollup_5m", fives.sizeBytes, 1), rawDay, fiveMinutesToRaw);
  const hourDay = bucketBytesPerDay(
    await heldIn(database, "rollup_1h", hours.sizeBytes, 10),
    fiveDay,
    hoursToFiveMinutes,
  );
  const tier = (
    name: TierCosts["tier"],
    keptDays: number,
    disk: typeof raw,
    perDay: number | undefined,
  ): TierCosts => ({
    tier: name,
    keptDays,
    sizeBytes: disk.sizeBytes,
    fromMs: disk.fromMs,
    bytesPerDay: perDay ?? null,
  });
  return {
    samplesPerSecond,
    series: store.series.size,
    bytesPerSample,
    isEstimated: !samples,
    tiers: [
      tier("raw", retention.rawDays, raw, rawDay),
      tier("5m", retention.fiveMinuteDays, fives, fiveDay),
      tier("1h", retention.hourDays, hours, hourDay),
    ],
    journalBytes,
    databaseBytes,
    diskFreeBytes: folder === undefined ? null : await freeBytes(folder),
    memoryBytes: process.memoryUsage().rss,
    headBytes: store.memory.headBytes,
    headSamples: store.memory.headSamples,
    processorShare: processor.share(),
    refused: store.health.refused,
  };
}

function diskOf(
  partitions: readonly Partition[],
  tables: readonly PartitionedTable[],
): { readonly sizeBytes: number; readonly fromMs: number | null } {
  const own = partitions.filter(({ table }) => tables.includes(table));
  return {
    sizeBytes: own.reduce((sum, { sizeBytes }) => sum + sizeBytes, 0),
    fromMs: own.length === 0 ? null : Math.min(...own.map(({ fromMs }) => fromMs)),
  };
}

/** How much time a tier of rollups holds: partitions are longer than what is in them. */
async function heldIn(
  database: Database,
  table: "rollup_5m" | "rollup_1h",
  sizeBytes: number,
  daysPerPeriod: number,
): Promise<{ readonly sizeBytes: number; readonly heldMs: number }> {
  return { sizeBytes, heldMs: (await periodsOf(database, table)) * daysPerPeriod * 86_400_000 };
}

async function freeBytes(folder: string): Promise<number | null> {
  const found = await statfs(folder).catch(() => undefined);
  return found ? found.bavail * found.bsize : null;
}
