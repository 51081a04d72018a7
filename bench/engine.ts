import type { ReadingDocument } from "../core/reading/document.ts";
import { fiveMinutesMs, hourMs, rollUp } from "../core/series/rollup.ts";
import { answerReading } from "../server/reading/answer-reading.ts";
import { ensurePartition } from "../server/store/partitions.ts";
import { slotMs } from "../server/store/slots.ts";
import { Store } from "../server/store/store.ts";
import { replaceRollups } from "../server/store/tasks/rollup-rows.ts";
import { WorkerPool } from "../server/work/worker-pool.ts";
import { benchDatabase, walOf } from "./bench-database.ts";
import { DataSet, levelsOf } from "./data-set.ts";
import { mixedSeries } from "./mix.ts";
import { copyPlain, makePlainTable, plainRows } from "./plain-rows.ts";
import { compare, finish, median, msOf, report, round, warmRounds } from "./report.ts";

// The whole engine beside plain rows in the same cluster: a thousand series over eight hours (1.9 million samples, the
// mix of mix.ts),
// a hundred over a day, all every 15 s; ten over a week every 5 s, as this machine is gathered; one over a year of
// rollups.
const dayMs = 86_400_000;
const endMs = 20_780 * dayMs; // the end of a slot, a day, and ten days
const usualMs = 15_000;

/** A store of its own and the same samples as plain rows. */
async function bench(name: string, series: number, hours: number, everyMs = usualMs) {
  const { database, url } = await benchDatabase(name);
  await makePlainTable(database);
  const fromMs = endMs - hours * hourMs;
  let now = fromMs;
  const open = () => Store.open(database, { now: () => now, executor: new WorkerPool(url) });
  let store = await open();
  await store.series.resolve(levelsOf(series));
  const data = new DataSet(series, fromMs, (hours * hourMs) / everyMs, everyMs, 1);
  let oursBytes = 0;
  let plainBytes = 0;
  let samples = 0;
  while (data.left > 0) {
    const batch = data.next(Math.max(1, Math.floor(20_000 / series)));
    now = Math.max(now, batch.timeMs[batch.length - 1] as number);
    const rows = plainRows(batch);
    oursBytes += await walOf(database, () => store.write(batch));
    plainBytes += await walOf(database, () => copyPlain(database, rows));
    samples += batch.length;
  }
  const memory = store.memory;
  // Ten minutes later the last slot is in chunks as well, and still in memory.
  now = endMs + 600_000;
  oursBytes += await walOf(database, () => store.maintain());
  await database.query("vacuum analyze");
  const head = store;
  const fromDisk = async () => {
    now = endMs + slotMs + 600_000;
    await store.maintain();
    await store.close();
    store = await open();
    return store;
  };
  return {
    database,
    url,
    samples,
    memory,
    oursBytes,
    plainBytes,
    head,
    fromDisk,
    fromMs,
    close: async () => store.close(),
  };
}

const wide = await bench("wide", 1000, 8);
const sizes = await wide.database.query<{ ours: number; plain: number; payload: number }>(
  `select (select sum(pg_total_relation_size(inhrelid)) from pg_inherits where inhparent in ('chunk'::regclass, 'chunk_times'::regclass))::float8 as ours,
     pg_total_relation_size('sample')::float8 as plain,
     ((select sum(length(payload)) from chunk) + (select sum(length(payload)) from chunk_times))::float8 as payload`,
);
const { ours, plain, payload } = sizes.rows[0] as { ours: number; plain: number; payload: number };
report(
  "disk of chunks with index, against plain rows",
  plain / ours,
  "times",
  { atLeast: 35 },
  `${round(ours / wide.samples)} B, ${round(plain / wide.samples)} B a sample`,
);
report(
  "payload, times included",
  payload / wide.samples,
  "B a sample",
  { atMost: 2 },
  "the published scheme has 1.37 on its authors' data",
);
report(
  "write-ahead log against plain rows",
  wide.plainBytes / wide.oursBytes,
  "times",
  { atLeast: 20 },
  `${round(wide.oursBytes / wide.samples)} B, ${round(wide.plainBytes / wide.samples)} B a sample; journal, chunks, rollups`,
);
report(
  "head",
  wide.memory.headBytes / wide.memory.headSamples,
  "B a sample",
  { atMost: 5.5 },
  `${wide.memory.headSamples} samples`,
);

const ask = (
  fromMs: number,
  toMs: number,
  step: number,
  more: Partial<ReadingDocument["sentences"][string]>,
): ReadingDocument => ({ window: { from: fromMs, to: toMs }, step, sentences: { x: { counter: "bench", ...more } } });
const sqlTimes = (fromMs: number, toMs: number) =>
  `ts >= to_timestamp(${fromMs / 1000}) and ts < to_timestamp(${toMs / 1000})`;

// From the head: a store that holds the last hour in memory; from disk: one that was opened after compaction.
const hourAgo = endMs - hourMs;
const sumSql = `select date_bin('15 s', ts, 'epoch') as step, sum(value) from sample where ${sqlTimes(hourAgo, endMs)} group by 1`;
const sumOf = (store: Store) => () =>
  answerReading(store, ask(hourAgo, endMs, 15, { lines: "together", combine: "sum" }));
await wide.database.query("set jit = off");
{
  const { oursMs, theirsMs, ratio } = await compare(9, sumOf(wide.head), () => wide.database.query(sumSql));
  report(
    "1,000 series, 1 h, sum per 15 s, from the head",
    ratio,
    "times",
    { atLeast: 40 },
    `${round(oursMs)} ms, SQL ${round(theirsMs)} ms`,
  );
}
{
  const store = await wide.fromDisk();
  const { oursMs, theirsMs, ratio } = await compare(9, sumOf(store), () => wide.database.query(sumSql));
  report(
    "1,000 series, 1 h, sum per 15 s, from disk",
    ratio,
    "times",
    { atLeast: 8 },
    `${round(oursMs)} ms, SQL ${round(theirsMs)} ms`,
  );
}

// Durable writes: one flush, acknowledged, against COPY of the same rows into the table that holds the rest.
for (const [size, limit] of [
  [10_000, 20],
  [50_000, 30],
] as const) {
  const store = await Store.open(wide.database, { now: () => endMs + dayMs });
  const data = new DataSet(1000, endMs, (warmRounds + 11) * (size / 1000), usualMs, size);
  const times: { ours: number; theirs: number }[] = [];
  for (let i = 0; i < warmRounds + 11; i++) {
    const batch = data.next(size / 1000);
    const rows = plainRows(batch);
    const oursMs = await msOf(async () => {
      const written = store.write(batch);
      await store.flush();
      await written;
    });
    if (i >= warmRounds) times.push({ ours: oursMs, theirs: await msOf(() => copyPlain(wide.database, rows)) });
  }
  await wide.database.query(`delete from sample where ts >= to_timestamp(${endMs / 1000})`);
  report(
    `durable write of ${size.toLocaleString("en")} samples, against COPY`,
    median(times.map((one) => one.theirs / one.ours)),
    "times",
    { atLeast: limit },
    `${round(median(times.map((one) => one.ours)))} ms, COPY ${round(median(times.map((one) => one.theirs)))} ms`,
  );
  await store.close();
}
await wide.close();

const day = await bench("day", 100, 24);
{
  const store = await day.fromDisk();
  const sql = `select series_id, date_bin('1 min', ts, 'epoch') as step, avg(value) from sample where ${sqlTimes(endMs - dayMs, endMs)} group by 1, 2`;
  const { oursMs, theirsMs, ratio } = await compare(
    9,
    () => answerReading(store, ask(endMs - dayMs, endMs, 60, {})),
    () => day.database.query(sql),
  );
  report(
    "100 series, 24 h, 1 min means, from disk",
    ratio,
    "times",
    { atLeast: 25 },
    `${round(oursMs)} ms, SQL ${round(theirsMs)} ms`,
  );
}
await day.close();

const week = await bench("week", 10, 7 * 24, 5000);
{
  const store = await week.fromDisk();
  const one = { where: [{ tag: "of", is: ["13"] }] };
  const first = { where: [{ tag: "of", is: ["0"] }] };
  const sql = `select date_bin('5 min', ts, 'epoch') as step, avg(value) from sample where series_id = 1 and ${sqlTimes(endMs - 7 * dayMs, endMs)} group by 1`;
  const read = () => answerReading(store, ask(endMs - 7 * dayMs, endMs, 300, first));
  const { oursMs, theirsMs, ratio } = await compare(15, read, () => week.database.query(sql));
  report(
    "1 series, 7 days of 5 s, 5 min means, from disk",
    ratio,
    "times",
    { atLeast: 40 },
    `${round(oursMs)} ms, SQL ${round(theirsMs)} ms`,
  );

  // A year of another series: rollups as they would have been made of samples every 15 s.
  const [id] = await store.series.resolve([
    { counter: "bench", tags: { machine: "m0", of: "13" }, unit: "1", kind: "level" },
  ]);
  const next = mixedSeries(13, 9);
  const connection = await week.database.connect();
  for (let period = endMs / dayMs / 10 - 37; period < endMs / dayMs / 10; period++) {
    const fromMs = period * 10 * dayMs;
    const count = (10 * dayMs) / usualMs;
    const column = {
      timeMs: Float64Array.from({ length: count }, (_, i) => fromMs + i * usualMs),
      value: Float64Array.from({ length: count }, next),
    };
    await ensurePartition(week.database, "rollup_1h", period);
    await replaceRollups(
      connection,
      "1h",
      period,
      [id as number],
      [rollUp(column, "level", hourMs, fromMs, fromMs + 10 * dayMs)],
    );
  }
  connection.release();
  const raw = () => answerReading(store, ask(endMs - 7 * dayMs, endMs, 240, first));
  const year = () => answerReading(store, { ...ask(endMs - 365 * dayMs, endMs, 6 * 3600, one) });
  const compared = await compare(15, year, raw);
  const answer = await year();
  if ((answer.lines[0]?.values.filter((v) => v !== null).length ?? 0) < 1400) throw new Error("the year is not there");
  report(
    "1 series, 1 year, from rollups, against 7 days of samples",
    compared.ratio,
    "times",
    { atLeast: 1 },
    `${round(compared.oursMs)} ms, ${round(compared.theirsMs)} ms (${fiveMinutesMs / 60_000} min buckets ${round(oursMs)} ms)`,
  );
}
await week.close();

// Growth: what a sample costs as series and days become ten and a hundred times as many. It should stay about the same.
console.log("\ngrowth with the number of series (one hour of each):");
for (const series of [10, 100, 1000]) {
  const grown = await bench(`series_${series}`, series, 1);
  const data = new DataSet(series, endMs, 240, usualMs, 3);
  const store = await Store.open(grown.database, { now: () => endMs + slotMs });
  const batches = Array.from({ length: 24 }, () => data.next(10));
  const writeMs = median(
    await inTurn(batches, (batch) =>
      msOf(async () => {
        const written = store.write(batch);
        await store.flush();
        await written;
      }),
    ),
  );
  const readMs = median(
    await inTurn(
      Array.from({ length: 9 }, (_, i) => i),
      () => msOf(() => answerReading(store, ask(hourAgo, endMs, 15, { where: [{ tag: "of", is: ["3"] }] }))),
    ),
  );
  console.log(
    `  ${String(series).padStart(5)} series: a flush of 10 answers ${round(writeMs)} ms, ${round((writeMs * 1e6) / (10 * series))} ns a sample; reading one of them ${round(readMs)} ms`,
  );
  await store.close();
  await grown.close();
}
console.log("growth with the number of days (ten series):");
for (const days of [0.1, 1, 10]) {
  const grown = await bench(`days_${days * 10}`, 10, days * 24);
  const store = await grown.fromDisk();
  const hour = median(
    await inTurn(
      Array.from({ length: 9 }, (_, i) => i),
      () => msOf(() => answerReading(store, ask(endMs - 2 * hourMs, endMs, 15, {}))),
    ),
  );
  const whole = median(
    await inTurn(
      Array.from({ length: 9 }, (_, i) => i),
      () => msOf(() => answerReading(store, ask(grown.fromMs, endMs, 600, {}))),
    ),
  );
  console.log(
    `  ${String(days).padStart(5)} days: reading the last two hours of all ${round(hour)} ms, all days in steps of 10 min ${round(whole)} ms`,
  );
  await grown.close();
}
finish();

async function inTurn<T>(list: readonly T[], work: (one: T) => Promise<number>): Promise<number[]> {
  const results: number[] = [];
  for (const one of list) results.push(await work(one));
  return results;
}
