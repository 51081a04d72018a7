import { batchOf } from "../core/series/batch.ts";
import { gaussian, seeded } from "../core/testing/random.ts";
import type { FitProblem } from "../core/fit/fit-problem.ts";
import { MachineNames } from "../server/machines/machine-names.ts";
import { energyView } from "../server/planning/energy/energy-view.ts";
import { searchFitKind, watched } from "../server/planning/fit/search-work.ts";
import { problemOf } from "../server/planning/fit/fit-answer.ts";
import { readLoads } from "../server/planning/fit/read-loads.ts";
import { Store } from "../server/store/store.ts";
import { WorkerPool } from "../server/work/worker-pool.ts";
import { benchDatabase } from "./bench-database.ts";
import { finish, median, msOf, report } from "./report.ts";

// A year of the power of twenty machines, by the hour; and thirty days of
// forty guests on six hosts by the five minutes.
const dayMs = 86_400_000;
const hourMs = 3_600_000;
const fiveMinutesMs = 300_000;
const until = Date.UTC(2026, 10, 24);
const yearDays = 365;
const machines = 20;
const fitDays = 30;
const guests = 40;
const hosts = 6;
const gib = 2 ** 30;

const { database, url } = await benchDatabase("bench_planning");
const pool = new WorkerPool(url);
let clock = until - yearDays * dayMs;
const store = await Store.open(database, { now: () => clock, executor: pool });
const random = seeded(1);
try {
  const power = await store.series.resolve(
    Array.from({ length: machines }, (_, i) => ({
      counter: "hw.host.power",
      tags: { machine: `m${i}`, sensor: "whole" },
      unit: "W",
      kind: "level" as const,
    })),
  );
  for (let from = clock; from < until; from += 30 * dayMs) {
    const rows: [number, number, number][] = [];
    for (let at = from; at < Math.min(until, from + 30 * dayMs); at += hourMs)
      for (const id of power) rows.push([id, at, Math.round(100 + 20 * gaussian(random))]);
    clock = Math.min(until, from + 30 * dayMs);
    await store.write(batchOf(rows));
    await store.maintain();
  }
  const names = await MachineNames.open(database);
  const tariffs = [
    {
      name: "rack",
      currency: "EUR",
      zone: "Europe/Berlin",
      from: "2020-01-01",
      price: 0.3,
      hours: [{ from: "22:00", to: "06:00", price: 0.2 }],
    },
  ];
  const settings = { guesses: {}, feeders: [], speeds: {}, fills: [], meters: [], diskOperations: {} };
  const year = {
    window: { from: until - yearDays * dayMs, to: until },
    per: "machine" as const,
    zone: "Europe/Berlin",
  };
  const times: number[] = [];
  for (let round = 0; round < 6; round++)
    times.push(await msOf(() => energyView({ store, names, tariffs, settings }, { ...year, step: "month" })));
  report("energy of twenty machines over a year, with its cost", median(times.slice(1)), "ms", { atMost: 300 });

  await writeGuests();
  const window = { from: until - fitDays * dayMs, to: until };
  const how = { percentile: 0.95, headroom: 0.2 };
  let proven = false;
  const fits: number[] = [];
  for (let round = 0; round < 4; round++)
    fits.push(
      await msOf(async () => {
        const loads = await readLoads(store, window, undefined, {
          speedOf: () => 1,
          diskOperationsOf: () => Number.POSITIVE_INFINITY,
        });
        const problem: FitProblem = problemOf(loads, { window, ...how }, how);
        const shared = new Int32Array(new SharedArrayBuffer(4 * watched.length));
        ({ proven } = await pool.run(searchFitKind, { problem, shared, mostMs: 3000 }));
      }),
    );
  report(
    "would forty guests of thirty days fit on fewer hosts",
    median(fits.slice(1)) / 1000,
    "s",
    { atMost: 2 },
    proven ? "proven" : "not proven",
  );
} finally {
  await store.close();
  await pool.close();
  await database.end();
}
finish();

async function writeGuests(): Promise<void> {
  const total = (counter: string, tags: Record<string, string>) => ({
    counter,
    tags,
    unit: "s",
    kind: "total" as const,
  });
  const level = (counter: string, tags: Record<string, string>) => ({
    counter,
    tags,
    unit: "By",
    kind: "level" as const,
  });
  const tagsOf = (g: number) => ({ machine: `host${g % hosts}`, guest: `g${g}` });
  const cpu = await store.series.resolve(Array.from({ length: guests }, (_, g) => total("guest.cpu.time", tagsOf(g))));
  const memory = await store.series.resolve(
    Array.from({ length: guests }, (_, g) => level("guest.memory.usage", tagsOf(g))),
  );
  const ofHosts = await store.series.resolve(
    Array.from({ length: hosts }, (_, h) => [
      total("system.cpu.time", { machine: `host${h}`, mode: "user" }),
      total("system.cpu.time", { machine: `host${h}`, mode: "idle" }),
      level("system.memory.usage", { machine: `host${h}`, state: "used" }),
      level("system.memory.limit", { machine: `host${h}` }),
    ]).flat(),
  );
  const used = new Float64Array(guests);
  const busy = new Float64Array(hosts);
  const idle = new Float64Array(hosts);
  for (let from = until - fitDays * dayMs; from < until; from += 6 * dayMs) {
    const rows: [number, number, number][] = [];
    for (let at = from; at < from + 6 * dayMs; at += fiveMinutesMs) {
      for (let h = 0; h < hosts; h++) busy[h] = (busy[h] as number) + 60;
      for (let g = 0; g < guests; g++) {
        const isUp = (at / dayMs + g / guests) % 1 < 0.4;
        const rate = (isUp ? 1 : 0.2) * (0.4 + 0.1 * Math.abs(gaussian(random)));
        used[g] = (used[g] as number) + rate * 300;
        busy[g % hosts] = (busy[g % hosts] as number) + rate * 300;
        rows.push([cpu[g] as number, at, used[g] as number], [memory[g] as number, at, (1 + (g % 4)) * gib]);
      }
      for (let h = 0; h < hosts; h++) {
        idle[h] = (idle[h] as number) + 2400;
        rows.push(
          [ofHosts[4 * h] as number, at, busy[h] as number],
          [ofHosts[4 * h + 1] as number, at, idle[h] as number],
          [ofHosts[4 * h + 2] as number, at, 20 * gib],
          [ofHosts[4 * h + 3] as number, at, 64 * gib],
        );
      }
    }
    clock = Math.max(clock, from + 6 * dayMs);
    await store.write(batchOf(rows));
    await store.maintain();
  }
}
