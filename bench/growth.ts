import { readFileSync, writeFileSync } from "node:fs";
import { monitorEventLoopDelay } from "node:perf_hooks";
import type { Batch } from "../core/series/batch.ts";
import { startServerProcess } from "../e2e/support/server-process.mjs";
import { answerReading } from "../server/reading/answer-reading.ts";
import type { NewSeries } from "../server/store/series-registry.ts";
import { slotMs, slotOf, slotStart } from "../server/store/slots.ts";
import { Store } from "../server/store/store.ts";
import { WorkerPool } from "../server/work/worker-pool.ts";
import { benchDatabase } from "./bench-database.ts";
import { growthPicture } from "./growth-picture.ts";
import { mixedSeries } from "./mix.ts";
import { finish, median, msOf, report, round } from "./report.ts";
import { signIn } from "./served.ts";

// What happens at a hundred and a thousand times the usual number of series: a machine has a thousand, of two hundred
// counters. A sample of each comes every quarter of an hour, so that a million can be written here.
const sizes = (process.env["NUBREL_GROWTH"] ?? "1000,10000,100000,1000000").split(",").map(Number);
const [perMachine, counters] = [1000, 200];
const everyMs = slotMs / 8;
const mostFlushed = 10_000;
const rounds = 7;

const deviceOf = (i: number) => `device-${Math.floor((i % perMachine) / counters)}`;
const seriesOf = (i: number): NewSeries => ({
  counter: `bench.counter_${i % counters}`,
  tags: { machine: `machine-${Math.floor(i / perMachine)}`, device: deviceOf(i) },
  unit: "1",
  kind: "level",
});
const values = Array.from({ length: 500 }, (_, i) => mixedSeries(i, 3));

/** Heap that stays, after a collection. */
function heapBytes(): number {
  (globalThis as { gc?: () => void }).gc?.();
  const { heapUsed, arrayBuffers } = process.memoryUsage();
  return heapUsed + arrayBuffers;
}

/** What series answer at a time, a run a machine. */
function answer(ids: Uint32Array, atMs: number, apartMs = 1): Batch {
  const { length } = ids;
  const batch = { series: ids, timeMs: new Float64Array(length), value: new Float64Array(length), length };
  for (let i = 0; i < length; i++) {
    batch.timeMs[i] = atMs + Math.floor(i / perMachine) * apartMs;
    batch.value[i] = (values[i % values.length] as () => number)();
  }
  return batch;
}

/** Writes until it is durable; how long that took, ms. */
const written = (store: Store, batch: Batch) =>
  msOf(async () => {
    const done = store.write(batch);
    await store.flush();
    await done;
  });

async function medianMs(work: () => Promise<unknown>): Promise<number> {
  await work();
  const times: number[] = [];
  for (let i = 0; i < rounds; i++) times.push(await msOf(work));
  return median(times);
}

/** What the picture shows of each size. */
const units = {
  "a flush of 10,000 samples": "ms",
  "reading one series": "ms",
  "finding a counter": "ms",
  "a start": "s",
  "compacting a slot": "s",
  "the server's memory": "MB",
};
type Drawn = keyof typeof units;
const measured: Readonly<Record<Drawn, number>>[] = [];

for (const size of sizes) {
  const { database, url } = await benchDatabase(`growth_${size}`);
  const stored = await store(size, database, url);
  const served = await serve(size, url);
  await database.end();
  const words = { series: size.toLocaleString("en"), ...stored.words, ...served.words };
  console.log(
    Object.entries(words)
      .map(([what, figure]) => `${what} ${figure}`)
      .join("; "),
  );
  measured.push({ ...stored.drawn, ...served.drawn });
}
if (process.env["NUBREL_GROWTH"] === undefined)
  writeFileSync(
    "docs/growth.svg",
    growthPicture(
      sizes,
      (Object.keys(units) as Drawn[]).map((what) => ({
        what,
        unit: units[what],
        values: measured.map((one) => one[what]),
      })),
    ),
  );
await afterKill();
finish();

/** What the store does with so many series: new ones, writing, reading, compacting. */
async function store(size: number, database: Awaited<ReturnType<typeof benchDatabase>>["database"], url: string) {
  const endSlot = slotOf(Date.now());
  let nowMs = slotStart(endSlot - 2);
  const before = heapBytes();
  const opened = await Store.open(database, { now: () => nowMs, executor: new WorkerPool(url) });
  const held = monitorEventLoopDelay({ resolution: 5 });
  held.enable();
  let ids: Uint32Array = new Uint32Array(0);
  const newMs = await msOf(async () => {
    ids = await opened.series.resolve(Array.from({ length: size }, (_, i) => seriesOf(i)));
  });
  held.disable();
  if (size === 100_000) report("100,000 new series at once", newMs / 1000, "s", { atMost: 5 });
  const known = (heapBytes() - before) / size;
  let writeMs = 0;
  for (let atMs = nowMs; atMs < slotStart(endSlot) + everyMs; atMs += everyMs) {
    nowMs = atMs + everyMs / 2;
    writeMs += await written(opened, answer(ids, atMs));
  }
  const some = ids.subarray(0, Math.min(mostFlushed, size));
  const flushes: number[] = [];
  for (let i = 0; i < rounds; i++) flushes.push(await written(opened, answer(some, nowMs + i * 1000)));
  const inHead = (heapBytes() - before) / size;
  const read = (machines: number) => () =>
    answerReading(opened, {
      window: { from: nowMs - 3_600_000, to: nowMs },
      step: 900,
      sentences: {
        x: {
          counter: "bench.counter_7",
          where: [
            { tag: "machine", is: Array.from({ length: machines }, (_, i) => `machine-${i}`) },
            ...(machines === 1 ? [{ tag: "device", is: ["device-0"] }] : []),
          ],
        },
      },
    });
  const flushMs = median(flushes);
  const oneMs = await medianMs(read(1));
  const hundredMs = await medianMs(read(Math.min(20, size / perMachine)));
  const compaction = (await msOf(() => opened.compact(slotStart(endSlot) + 60_000))) / 2000;
  const words = {
    "new at once": `${round(newMs / 1000)} s, others held up ${round(held.max / 1e6)} ms`,
    memory: `${round(known)} B a series, ${round(inHead)} B with three slots of it`,
    written: `${round((writeMs * 1e6) / (17 * size))} ns a sample`,
    [`flush of ${some.length.toLocaleString("en")}`]: `${round(flushMs)} ms`,
    "reading one": `${round(oneMs)} ms`,
    "reading a hundred": `${round(hundredMs)} ms`,
    "compacting a slot": `${round(compaction)} s`,
  };
  await opened.close();
  return {
    words,
    drawn: {
      "a flush of 10,000 samples": flushMs,
      "reading one series": oneMs,
      "compacting a slot": compaction,
    },
  };
}

/** What a server with so many series does: starting, lists, finding. */
async function serve(size: number, url: string) {
  const began = performance.now();
  const server = await startServerProcess(url, { env: { NUBREL_GATHER_MS: "3600000" } });
  const start = (performance.now() - began) / 1000;
  const words: Record<string, string> = { start: `${round(start)} s` };
  const findings: number[] = [];
  let memory = 0;
  try {
    const ask = await signIn(server);
    for (const [what, path] of [
      ["finding a counter", "/api/counters"],
      ["list of machines", "/api/machines"],
      ["one counter", "/api/counters/bench.counter_7"],
    ] as const) {
      const first = await msOf(() => ask("GET", path));
      const again = await medianMs(() => ask("GET", path));
      findings.push(again);
      words[what] = `${round(again)} ms, the first time ${round(first)} ms`;
      if (size === 1e6 && what !== "one counter")
        report(`${what} among a million series`, again, "ms", { atMost: 100 });
    }
    memory = Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${server.pid}/status`, "utf8"))?.[1]) / 1000;
    words["the server's memory"] = `${round(memory)} MB`;
  } finally {
    await server.stop();
  }
  return {
    words,
    drawn: {
      "a start": start,
      "the server's memory": memory,
      "finding a counter": findings[0] as number,
    },
  };
}

/** How long a start takes after a kill, with two hours of journal at 10,000 samples a second. */
async function afterKill(): Promise<void> {
  const { database, url } = await benchDatabase("growth_killed");
  const from = slotStart(slotOf(Date.now()));
  const [series, apartMs] = [150_000, 15_000];
  let nowMs = from;
  const writing = await Store.open(database, { now: () => nowMs });
  const ids = await writing.series.resolve(Array.from({ length: series }, (_, i) => seriesOf(i)));
  for (nowMs = from; nowMs < from + slotMs; nowMs += apartMs) await written(writing, answer(ids, nowMs, 7));
  await writing.close();
  await database.end();
  const began = performance.now();
  const server = await startServerProcess(url, { env: { NUBREL_GATHER_MS: "3600000" } });
  const tookMs = performance.now() - began;
  await server.stop();
  report("a start after SIGKILL, 72 million samples in the journal", tookMs / 1000, "s", { atMost: 5 });
}
