import { batchOf } from "../core/series/batch.ts";
import { gaussian, seeded } from "../core/testing/random.ts";
import type { ReadingDocument } from "../core/reading/document.ts";
import pino from "pino";
import { HourlyPast } from "../server/differences/hourly-past.ts";
import { listsOf } from "../server/differences/read-lines.ts";
import { findDifferences } from "../server/differences/find-differences.ts";
import { answerReading } from "../server/reading/answer-reading.ts";
import { Store } from "../server/store/store.ts";
import { WorkerPool } from "../server/work/worker-pool.ts";
import { benchDatabase } from "./bench-database.ts";
import { finish, median, msOf, report } from "./report.ts";

// Two thousand lines of a hundred machines over eight weeks, every quarter of an hour: what was different in half an
// hour of them, and what is usual of twenty of them over a week. Then four hundred machines more.
const machines = 100;
const machinesAtMost = 500;
const counters = 20;
const days = 57;
const everyMs = 900_000;
const dayMs = 86_400_000;
const until = Date.UTC(2026, 10, 24);
const begin = until - days * dayMs;

const { database, url } = await benchDatabase("bench_differences");
const pool = new WorkerPool(url);
let clock = begin;
const store = await Store.open(database, { now: () => clock, executor: pool });
try {
  const random = seeded(1);
  const eightWeeks = async (fromMachine: number, toMachine: number, farEveryMs = everyMs) => {
    const ids = await store.series.resolve(
      Array.from({ length: (toMachine - fromMachine) * counters }, (_, i) => ({
        counter: `load.${i % counters}`,
        tags: { machine: `m${fromMachine + Math.floor(i / counters)}` },
        unit: "%",
        kind: "level" as const,
      })),
    );
    for (let from = begin; from < until; from += dayMs) {
      const rows: [number, number, number][] = [];
      for (let at = from; at < from + dayMs; at += from < until - 7 * dayMs ? farEveryMs : everyMs)
        for (const id of ids) rows.push([id, at, Math.round(200 * Math.exp(0.2 * gaussian(random))) / 10]);
      clock = from + dayMs;
      await store.write(batchOf(rows));
      await store.maintain();
    }
  };
  await eightWeeks(0, machines);
  const span = { from: until - 3 * dayMs, to: until - 3 * dayMs + 1_800_000 };
  const past = new HourlyPast(store, pino({ level: "silent" }), () => listsOf(store));
  const times: number[] = [];
  for (let round = 0; round < 4; round++)
    times.push(await msOf(() => findDifferences({ store, executor: pool, past }, span, "Europe/Berlin")));
  report("what was different among 2,000 lines, once warm", median(times.slice(1)) / 1000, "s", { atMost: 2 });
  report("the first time", (times[0] as number) / 1000, "s", {});
  const bands: number[] = [];
  const week: ReadingDocument = {
    window: { from: until - 7 * dayMs, to: until },
    points: 600,
    zone: "Europe/Berlin",
    usual: true,
    sentences: {
      a: {
        counter: "load.0",
        where: [{ tag: "machine", is: Array.from({ length: 20 }, (_, i) => `m${i}`) }],
        lines: "each",
      },
    },
  };
  const unkept: number[] = [];
  for (let round = 0; round < 8; round++) {
    bands.push(await msOf(() => answerReading(store, week, undefined, undefined, { past })));
    unkept.push(await msOf(() => answerReading(store, week)));
  }
  report("twenty lines of a week beside what is usual", median(bands.slice(1)), "ms", { atMost: 100 });
  report("the same before its past is in memory", median(unkept.slice(1)), "ms", {});
  // Older than a week, these have a sample each hour: what is usual is by hours.
  await eightWeeks(machines, machinesAtMost, 3_600_000);
  const manyPast = new HourlyPast(store, pino({ level: "silent" }), () => listsOf(store));
  const many: number[] = [];
  for (let round = 0; round < 3; round++)
    many.push(await msOf(() => findDifferences({ store, executor: pool, past: manyPast }, span, "Europe/Berlin")));
  report("what was different among 10,000 lines, once warm", median(many.slice(1)) / 1000, "s", { atMost: 10 });
  report("its first time", (many[0] as number) / 1000, "s", {});
} finally {
  await store.close();
  await pool.close();
  await database.end();
}
finish();
