import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { setTimeout as wait } from "node:timers/promises";
import pino from "pino";
import type { RuleDocument } from "../core/rules/rule.ts";
import { watchedValue } from "../core/rules/rule.ts";
import { readConfig } from "../server/config.ts";
import { startServer } from "../server/compose.ts";
import { HttpClient } from "../server/testing/http-client.ts";
import { benchDatabase } from "./bench-database.ts";
import { finish, median, report } from "./report.ts";

// 5,000 lines of rules checked every 10 s from the head; from a value to a webhook at that load; a month of 20 lines
// rehearsed.
const rulesInAll = 50;
const linesEach = 100;
const everyMs = 10_000;
const measuredMs = 30_000;
const dayMs = 86_400_000;
const pastEveryMs = 15_000;

const { database, url } = await benchDatabase("bench_rules");
await database.end();
const server = await startServer(
  readConfig({ NUBREL_DATABASE_URL: url, NUBREL_PORT: "0", NUBREL_MACHINE: "bench", NUBREL_GATHER_MS: "3600000" }),
  { log: pino({ level: "silent" }) },
);
const owner = new HttpClient(server.address);
await owner.ask("POST", "/api/setup", { code: server.setupCode, name: "Ines", password: "kestrel on the quay" });
const heard: { readonly atMs: number; readonly text: string }[] = [];
const receiver = createServer((request, response) => {
  let text = "";
  request.on("data", (part) => (text += part));
  request.on("end", () => {
    heard.push({ atMs: Date.now(), text });
    response.end();
  });
});
await new Promise<void>((done) => receiver.listen(0, "127.0.0.1", done));
const document = (counter: string, more: Partial<RuleDocument> = {}): RuleDocument => ({
  name: counter,
  reading: { sentences: { a: { counter } } },
  watch: watchedValue,
  compare: "above",
  notice: { high: 75 },
  urgent: { high: 90 },
  everySeconds: everyMs / 1000,
  mustLastSeconds: 0,
  staysRaisedSeconds: 0,
  noData: "hold",
  marginSeconds: null,
  place: null,
  advice: "",
  ...more,
});
let feeding: NodeJS.Timeout | undefined;
try {
  await rehearsals();
  const ids = await server.store.series.resolve(
    Array.from({ length: rulesInAll * linesEach }, (_, i) => ({
      counter: `load.${Math.floor(i / linesEach)}`,
      tags: { machine: `m${i % linesEach}` },
      unit: "%",
      kind: "level" as const,
    })),
  );
  let high = -1;
  const feed = async () => {
    const at = Math.floor(Date.now() / everyMs) * everyMs;
    await server.store.write({
      series: Uint32Array.from(ids),
      timeMs: new Float64Array(ids.length).fill(at),
      value: Float64Array.from(ids, (_, i) => (i === high ? 80 : 20 + (i % 40))),
      length: ids.length,
    });
  };
  const plan = () => {
    feeding = setTimeout(() => void feed().then(plan), everyMs - (Date.now() % everyMs) + 20);
  };
  await feed();
  plan();
  await wait(2 * everyMs);
  const without = await share();
  for (let i = 0; i < rulesInAll; i++) await owner.ask("POST", "/api/rules", document(`load.${i}`));
  await wait(2 * everyMs);
  const within = await share();
  const { lagMs, checkedLines } = (await owner.ask("GET", "/api/alerting")).body;
  report(
    "5,000 lines of rules checked every 10 s, beside gathering them",
    Math.max(0, within - without),
    "% of a core",
    { atMost: 25 },
  );
  report("lines that are checked", checkedLines, "", { atLeast: rulesInAll * linesEach });
  // Looked at once a second, at six tenths of it: that much is not lateness of the work.
  report("checks are late by at most", lagMs / 1000, "s", { atMost: 1 });

  await owner.ask("POST", "/api/recipients", {
    name: "bench",
    kind: "webhook",
    webhook: { url: `http://127.0.0.1:${(receiver.address() as AddressInfo).port}/` },
  });
  const times: number[] = [];
  for (let round = 0; round < 3; round++) {
    high = round * 700 + 3;
    heard.length = 0;
    await wait(everyMs - (Date.now() % everyMs) + 20);
    const written = Date.now();
    while (!heard.some(({ text }) => text.includes('"kind":"raised"')) && Date.now() - written < 15_000) await wait(10);
    times.push(
      (heard.find(({ text }) => text.includes('"kind":"raised"'))?.atMs ?? Number.POSITIVE_INFINITY) - written,
    );
  }
  report("from a value over its limit to the webhook, at that load", median(times) / 1000, "s", { atMost: 2 });
} finally {
  clearTimeout(feeding);
  receiver.close();
  await server.close();
}
finish();

/** Processor time of this process, server and worker threads alike, as a share of one core. */
async function share(): Promise<number> {
  const before = process.cpuUsage();
  const began = performance.now();
  await wait(measuredMs);
  const { user, system } = process.cpuUsage(before);
  return (user + system) / 10 / (performance.now() - began);
}

async function rehearsals(): Promise<void> {
  const to = Math.floor(Date.now() / 60_000) * 60_000;
  const from = to - 29 * dayMs;
  const ids = await server.store.series.resolve(
    Array.from({ length: 20 }, (_, i) => ({
      counter: "past.level",
      tags: { machine: `m${i}` },
      unit: "%",
      kind: "level" as const,
    })),
  );
  const hourMs = 3_600_000;
  for (let hour = from; hour < to; hour += hourMs) {
    const steps = hourMs / pastEveryMs;
    const length = steps * ids.length;
    const batch = {
      series: new Uint32Array(length),
      timeMs: new Float64Array(length),
      value: new Float64Array(length),
      length,
    };
    for (let t = 0, at = 0; t < steps; t++) {
      for (let i = 0; i < ids.length; i++, at++) {
        const ms = hour + t * pastEveryMs;
        batch.series[at] = ids[i] as number;
        batch.timeMs[at] = ms;
        batch.value[at] = Math.round(100 * (45 + 30 * Math.sin(ms / 2e7 + i) + 15 * Math.sin(ms / 3e5 + i * 7))) / 100;
      }
    }
    await server.store.write(batch);
  }
  await server.store.maintain();
  const zone = "Europe/Berlin";
  const rehearse = async (rule: RuleDocument) => {
    const began = performance.now();
    const { body } = await owner.ask("POST", "/api/rules/rehearse", { rule, from, to, zone });
    const { result } = JSON.parse(String(body).trim().split("\n").at(-1) ?? "{}");
    return { ms: performance.now() - began, count: result?.count as number, stepMs: result?.stepMs as number };
  };
  const rule = document("past.level", { everySeconds: 0 });
  const first = await rehearse(rule);
  report(
    `29 days of 20 lines every ${first.stepMs / 1000} s read and rehearsed`,
    first.ms / 1000,
    "s",
    {},
    `(${first.count} incidents)`,
  );
  const moved: number[] = [];
  for (let i = 1; i <= 9; i++)
    moved.push((await rehearse({ ...rule, notice: { high: 75 + i }, mustLastSeconds: i * 60 })).ms);
  report("the same with another limit and another time that it must last", median(moved), "ms", { atMost: 150 });
}
