import { rmSync, mkdtempSync, statSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { startServerProcess } from "../e2e/support/server-process.mjs";
import { takeBackup } from "../scripts/backups.mjs";
import { findPostgres } from "../scripts/debian-packages.mjs";
import { hourMs, rollUp } from "../core/series/rollup.ts";
import { answerReading } from "../server/reading/answer-reading.ts";
import { ensurePartition } from "../server/store/partitions.ts";
import { Store } from "../server/store/store.ts";
import { replaceRollups } from "../server/store/tasks/rollup-rows.ts";
import { WorkerPool } from "../server/work/worker-pool.ts";
import { benchDatabase } from "./bench-database.ts";
import { DataSet, levelsOf } from "./data-set.ts";
import { mixedSeries } from "./mix.ts";
import { finish, median, msOf, report, round } from "./report.ts";

// What happens as days become many: three hundred series, a sample of each every quarter of an hour so that a year can
// be written here, each day compacted and rolled up as it ends; the five years before the last of them as buckets of an
// hour, as they would have been kept. A flush, a reading of the last day and a start must cost what they cost with one
// day.
const dayMs = 86_400_000;
const [series, everyMs, rounds] = [300, 900_000, 9];
const all = (process.env["NUBREL_GROWTH_DAYS"] ?? "1,30,365").split(",").map(Number);
const yearsOfHours = 5;
const endMs = Math.floor(Date.now() / dayMs) * dayMs;
const measured: Measured[] = [];

interface Measured {
  readonly flushMs: number;
  readonly oneMs: number;
  readonly hundredMs: number;
  readonly startMs: number;
}

for (const days of all) measured.push(await withDays(days, days === all[all.length - 1]));
const [least, most] = [measured[0] as Measured, measured[measured.length - 1] as Measured];
if (process.env["NUBREL_GROWTH_DAYS"] === undefined)
  for (const [what, key] of [
    ["a flush", "flushMs"],
    ["reading one series over the last day", "oneMs"],
    ["reading a hundred over the last day", "hundredMs"],
    ["a start", "startMs"],
  ] as const)
    report(`${what}, with a year and five of hours against one day`, most[key] / least[key], "times", { atMost: 1.5 });
finish();

type Words = Record<string, string>;
type BenchDatabase = Awaited<ReturnType<typeof benchDatabase>>["database"];

async function withDays(days: number, hasYears: boolean): Promise<Measured> {
  const { database, url } = await benchDatabase(`days_${days}`);
  const words: Words = {};
  // an hour later, so that what is flushed below is of the past
  const open = () => Store.open(database, { now: () => endMs + hourMs, executor: new WorkerPool(url) });
  await fill(database, url, days, hasYears, words);
  const readings = await inStore(await open(), days, hasYears, words);
  const startMs = await started(url);
  words["a start"] = `${round(startMs / 1000)} s`;
  await backedUp(url, words);
  const store = await open();
  await store.setRetention({ rawDays: 2, fiveMinuteDays: 14, hourDays: 10 * 365 });
  words["dropping all but two days"] = `${round(await msOf(() => store.expire(endMs)))} ms`;
  await store.close();
  await database.end();
  const told = Object.entries(words).map(([what, figure]) => `${what} ${figure}`);
  console.log(`${days} days: ${told.join("; ")}`);
  return { ...readings, startMs };
}

/** Writes so many days through the store, and five years of hours before them where they are wanted. */
async function fill(database: BenchDatabase, url: string, days: number, hasYears: boolean, words: Words) {
  let nowMs = endMs - days * dayMs;
  const store = await Store.open(database, { now: () => nowMs, executor: new WorkerPool(url) });
  await store.setRetention({ rawDays: 400, fiveMinuteDays: 800, hourDays: 10 * 365 });
  const ids = await store.series.resolve(levelsOf(series));
  const data = new DataSet(series, nowMs, (days * dayMs) / everyMs, everyMs, 1);
  let compactionMs = 0;
  while (data.left > 0) {
    const batch = data.next(dayMs / everyMs);
    nowMs += dayMs;
    await store.write(batch);
    compactionMs += await msOf(() => store.maintain(nowMs + 7_200_000));
  }
  words["compaction and roll-up of a day"] = `${round(compactionMs / days)} ms`;
  if (hasYears) await hoursBefore(database, ids, endMs - days * dayMs);
  await store.close();
  const { rows } = await database.query<{ mb: number }>("select pg_database_size(current_database()) / 1e6 as mb");
  words["the database"] = `${round(Number(rows[0]?.mb))} MB`;
}

/** What readings and flushes take; closes the store. */
async function inStore(store: Store, days: number, hasYears: boolean, words: Words) {
  const read = (machines: number, fromMs: number, step: number) => () =>
    answerReading(store, {
      window: { from: fromMs, to: endMs },
      step,
      sentences: {
        x: { counter: "bench", where: [{ tag: "of", is: Array.from({ length: machines }, (_, i) => String(i)) }] },
      },
    });
  const oneMs = await medianMs(read(1, endMs - dayMs, 900));
  const hundredMs = await medianMs(read(100, endMs - dayMs, 900));
  words["one series, last day"] = `${round(oneMs)} ms`;
  words["a hundred, last day"] = `${round(hundredMs)} ms`;
  words["one series, all days"] =
    `${round(await medianMs(read(1, endMs - days * dayMs, Math.max(900, days * 240))))} ms`;
  if (hasYears) {
    const years = read(1, endMs - yearsOfHours * 365 * dayMs, 86_400);
    const answer = await years();
    if ((answer.lines[0]?.values.filter((value) => value !== null).length ?? 0) < 1700)
      throw new Error("the five years are not there");
    words["one series, five years"] = `${round(await medianMs(years))} ms`;
  }
  const flushes: number[] = [];
  const fresh = new DataSet(series, endMs, rounds * 33, 5000, 2);
  for (let i = 0; i < rounds; i++) {
    const batch = fresh.next(33);
    let taken = 0;
    flushes.push(
      await msOf(async () => {
        const written = store.write(batch);
        await store.flush();
        taken = (await written).taken;
      }),
    );
    if (taken !== batch.length) throw new Error(`${batch.length - taken} samples were refused`);
  }
  await store.close();
  const flushMs = median(flushes);
  words["a flush of 10,000"] = `${round(flushMs)} ms`;
  return { flushMs, oneMs, hundredMs };
}

async function backedUp(url: string, words: Words): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), "nubrel-bench-"));
  try {
    const file = join(folder, "whole.backup");
    const tookMs = await msOf(() => takeBackup(file, { folder, url, bin: findPostgres() as string }));
    words["a backup"] = `${round(tookMs / 1000)} s, ${round(statSync(file).size / 1e6)} MB`;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/** Buckets of an hour of five years, up to `untilMs`. */
async function hoursBefore(database: BenchDatabase, ids: Uint32Array, untilMs: number): Promise<void> {
  const last = Math.floor(untilMs / dayMs / 10);
  const sources = Array.from(ids, (_, i) => mixedSeries(i, 9));
  const connection = await database.connect();
  for (let period = Math.floor((endMs / dayMs - yearsOfHours * 365) / 10); period < last; period++) {
    const fromMs = period * 10 * dayMs;
    const count = (10 * dayMs) / everyMs;
    const timeMs = Float64Array.from({ length: count }, (_, i) => fromMs + i * everyMs);
    await ensurePartition(database, "rollup_1h", period);
    const buckets = sources.map((next) =>
      rollUp({ timeMs, value: Float64Array.from(timeMs, next) }, "level", hourMs, fromMs, fromMs + 10 * dayMs),
    );
    await replaceRollups(connection, "1h", period, [...ids], buckets);
  }
  connection.release();
}

async function started(url: string): Promise<number> {
  const times: number[] = [];
  for (let i = 0; i < 3; i++) {
    const began = performance.now();
    const server = await startServerProcess(url, { env: { NUBREL_GATHER_MS: "3600000" } });
    times.push(performance.now() - began);
    await server.stop();
  }
  return median(times);
}

async function medianMs(work: () => Promise<unknown>): Promise<number> {
  for (let i = 0; i < 3; i++) await work();
  const times: number[] = [];
  for (let i = 0; i < rounds; i++) times.push(await msOf(work));
  return median(times);
}
