import { chmodSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { startCluster } from "../scripts/cluster.mjs";
import { answerReading } from "../server/reading/answer-reading.ts";
import { migrate } from "../server/db/migrate.ts";
import { openDatabase } from "../server/db/pool.ts";
import { Store } from "../server/store/store.ts";
import { WorkerPool } from "../server/work/worker-pool.ts";
import { walOf } from "./bench-database.ts";
import { DataSet, levelsOf } from "./data-set.ts";
import { median, msOf, round } from "./report.ts";

// What settings of a cluster of its own do to the product's work, each beside the one that is used. Two thousand series
// over ten days (a sample every quarter of an hour, as the number of chunks is what counts), then commits, a slot's
// compaction and readings from disk under each setting, in turns. Nothing is held to a limit: docs/decisions.md says
// what was chosen by it.
const dayMs = 86_400_000;
const [series, days, everyMs] = [2000, Number(process.env["NUBREL_CLUSTER_DAYS"] ?? 10), 900_000];
const rounds = 5;
const [flushes, flushed] = [15, 10_000];
const used = { shared_buffers: "64MB", wal_compression: "pglz", synchronous_commit: "on", max_wal_size: "512MB" };
const variants: readonly (readonly [name: string, value: string])[] = [
  ["shared_buffers", "16MB"],
  ["shared_buffers", "64MB"],
  ["shared_buffers", "256MB"],
  ["shared_buffers", "1GB"],
  ["wal_compression", "off"],
  ["wal_compression", "pglz"],
  ["wal_compression", "lz4"],
  ["wal_compression", "zstd"],
  ["synchronous_commit", "on"],
  ["synchronous_commit", "off"],
  ["max_wal_size", "128MB"],
  ["max_wal_size", "512MB"],
  ["max_wal_size", "2GB"],
];

const folder = mkdtempSync(join(tmpdir(), "nubrel-bench-"));
chmodSync(folder, 0o711);
const cluster = await startCluster(folder);
try {
  const endMs = Math.floor(Date.now() / dayMs) * dayMs;
  let nowMs = endMs - days * dayMs;
  let at = openDatabase(cluster.url);
  await migrate(at);
  const filling = await Store.open(at, { now: () => nowMs, executor: new WorkerPool(cluster.url) });
  const ids = await filling.series.resolve(levelsOf(series));
  const data = new DataSet(series, nowMs, (days * dayMs) / everyMs, everyMs, 1);
  while (data.left > 0) {
    const batch = data.next(96);
    nowMs = Math.max(nowMs, batch.timeMs[batch.length - 1] as number);
    await filling.write(batch);
    await filling.maintain();
  }
  await filling.close();
  const { rows } = await at.query<{ mb: number }>("select pg_database_size(current_database()) / 1e6 as mb");
  await at.end();
  console.log(`a database of ${round(Number(rows[0]?.mb))} MB: ${ids.length} series, ${days} days\n`);

  const measured = variants.map(() => ({
    flush: [] as number[],
    wal: [] as number[],
    slot: [] as number[],
    day: [] as number[],
    whole: [] as number[],
  }));
  let slot = 0;
  for (let round = 0; round < rounds; round++) {
    for (const [i, [name, value]] of variants.entries()) {
      const settle = openDatabase(cluster.url);
      for (const [setting, usual] of Object.entries(used))
        await settle.query(`alter system set ${setting} = '${setting === name ? value : usual}'`);
      await settle.end();
      await cluster.stop("fast");
      const said = await cluster.start();
      if (said !== undefined) throw new Error(said);
      at = openDatabase(cluster.url);
      const { flush, wal, slot: slots, day, whole } = measured[i] as (typeof measured)[number];
      nowMs = endMs + (2 + 2 * slot++) * 7_200_000;
      const store = await Store.open(at, { now: () => nowMs, executor: new WorkerPool(cluster.url) });
      const fresh = new DataSet(series, nowMs - 3_600_000, (flushes * flushed) / series, 5000, slot);
      const ofRound: number[] = [];
      wal.push(
        await walOf(at, async () => {
          for (let k = 0; k < flushes; k++) {
            const batch = fresh.next(flushed / series);
            ofRound.push(
              await msOf(async () => {
                const written = store.write(batch);
                await store.flush();
                await written;
              }),
            );
          }
          nowMs += 7_200_000;
          slots.push(await msOf(() => store.compact(nowMs)));
        }),
      );
      flush.push(median(ofRound));
      const read = (machines: number, from: number) => () =>
        answerReading(store, {
          window: { from, to: endMs },
          step: (endMs - from) / 400_000,
          sentences: {
            x: {
              counter: "bench",
              where: [{ tag: "of", is: Array.from({ length: machines }, (_, k) => String(k * 7)) }],
            },
          },
        });
      day.push(await msOf(read(100, endMs - dayMs)));
      whole.push(await msOf(read(100, endMs - days * dayMs)));
      await store.close();
      await at.end();
    }
  }
  for (const [i, [name, value]] of variants.entries()) {
    const { flush, wal, slot, day, whole } = measured[i] as (typeof measured)[number];
    console.log(
      `${`${name} = ${value}`.padEnd(28)} a commit of ${flushed} ${round(median(flush))} ms; compaction of ${series} series ${round(median(slot))} ms; write-ahead log of both ${round(median(wal) / 1e6)} MB; the first reading of 100 series over a day ${round(median(day))} ms, over ${days} days ${round(median(whole))} ms`,
    );
  }
} finally {
  await cluster.stop("immediate");
  rmSync(folder, { recursive: true, force: true });
}
