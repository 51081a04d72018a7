import { readFileSync } from "node:fs";
import { cpus, freemem, totalmem } from "node:os";
import { gzipSync } from "node:zlib";
import { OTLPMetricExporter as JsonExporter } from "@opentelemetry/exporter-metrics-otlp-http";
import { OTLPMetricExporter as ProtobufExporter } from "@opentelemetry/exporter-metrics-otlp-proto";
import { HostMetrics } from "@opentelemetry/host-metrics";
import { resourceFromAttributes } from "@opentelemetry/resources";
import {
  AggregationTemporality,
  AggregationType,
  MeterProvider,
  PeriodicExportingMetricReader,
} from "@opentelemetry/sdk-metrics";
import { afterAll, beforeAll, describe, expect, test, vi } from "vitest";
import { filesystemUsed, memoryUsed, networkBits, processorBusy } from "../../core/reading/common-readings.ts";
import type { RunningServer } from "../running-server.ts";
import type { HttpClient } from "../testing/http-client.ts";
import { type OwnedServer, ownedServer } from "../testing/owned-server.ts";

let owned: OwnedServer;
let server: RunningServer;
let owner: HttpClient;
let token = "";

beforeAll(async () => {
  owned = await ownedServer();
  ({ server, owner } = owned);
  const { id } = (
    await owner.ask("POST", "/api/sources", { kind: "push", name: "booking", machine: "booking", intervalMs: 60_000 })
  ).body;
  token = (await owner.ask("POST", "/api/tokens", { name: "booking", scope: "write", sourceId: id })).body.token;
});
afterAll(() => owned.close());

const ask = async (counter: string, more: object = {}) =>
  (
    await owner.ask("POST", "/api/readings", {
      window: { from: Date.now() - 120_000, to: Date.now() + 10_000 },
      step: 10,
      sentences: { x: { counter, ...more } },
    })
  ).body;

// The real sender: the OpenTelemetry JS SDK with its own exporters, unmodified.
describe.each([
  ["JSON", JsonExporter, AggregationTemporality.CUMULATIVE],
  ["JSON", JsonExporter, AggregationTemporality.DELTA],
  ["protobuf", ProtobufExporter, AggregationTemporality.CUMULATIVE],
  ["protobuf", ProtobufExporter, AggregationTemporality.DELTA],
] as const)("the OpenTelemetry SDK, %s", (encoding, Exporter, temporality) => {
  const word = `${encoding.toLowerCase()}.${temporality === AggregationTemporality.DELTA ? "delta" : "cumulative"}`;
  test(`${word}: what was counted is what is read`, async () => {
    const exporter = new Exporter({
      url: `${server.address}/v1/metrics`,
      headers: { authorization: `Bearer ${token}` },
      temporalityPreference: temporality,
      ...(encoding === "protobuf" && { compression: "gzip" as never }),
    });
    const provider = new MeterProvider({
      resource: resourceFromAttributes({ "service.name": "booking", "telemetry.sdk.language": "nodejs" }),
      readers: [new PeriodicExportingMetricReader({ exporter, exportIntervalMillis: 3_600_000 })],
      views: [{ instrumentName: `${word}.sizes`, aggregation: { type: AggregationType.EXPONENTIAL_HISTOGRAM } }],
    });
    const meter = provider.getMeter("studio");
    const seats = meter.createCounter(`${word}.seats`, { unit: "{seat}", description: "Seats that were booked." });
    const waiting = meter.createUpDownCounter(`${word}.waiting`, { unit: "{person}" });
    const took = meter.createHistogram(`${word}.duration`, {
      unit: "s",
      advice: { explicitBucketBoundaries: [0.1, 1, 10] },
    });
    const sizes = meter.createHistogram(`${word}.sizes`, { unit: "By" });
    meter
      .createObservableGauge(`${word}.room`, { unit: "Cel" })
      .addCallback((result) => result.observe(21.5, { room: "studio" }));
    seats.add(3, { show: "morning" });
    waiting.add(4);
    for (const s of [0.05, 0.5, 0.6, 30]) took.record(s);
    for (const size of [3, 5, 7, 100]) sizes.record(size);
    await provider.forceFlush();
    seats.add(4, { show: "morning" });
    waiting.add(-1);
    const nowMs = Date.now();
    await vi.waitUntil(() => Date.now() > nowMs, { interval: 1 }); // a later millisecond
    await provider.shutdown();

    const booked = await ask(`${word}.seats`, { as: "increase", lines: "each" });
    expect(booked.lines[0]).toMatchObject({
      tags: { machine: "booking", show: "morning", "service.name": "booking" },
      unit: "{seat}",
    });
    expect(booked.lines[0].tags).not.toHaveProperty("telemetry.sdk.language");
    const increase = booked.lines[0].values.reduce((sum: number, v: number | null) => sum + (v ?? 0), 0);
    // The first value of a cumulative sum has nothing before it to compare with; a delta says where it began.
    expect(increase).toBeCloseTo(temporality === AggregationTemporality.DELTA ? 7 : 4, 6);
    expect((await ask(`${word}.waiting`, { of_every: "last" })).lines[0].last).toBe(3);
    expect((await ask(`${word}.room`)).lines[0]).toMatchObject({ last: 21.5, unit: "Cel", tags: { room: "studio" } });
    const counts = (name: string) => server.store.series.ofCounter(name).map(({ tags }) => tags["le"]);
    expect(counts(`${word}.duration`)).toEqual(["0.1", "1", "10", "+Inf"]);
    // Each size lies between two bounds of its own: the sender's scale for four sizes from 3 to 100 is 4 or finer,
    // buckets of 4.5 % at the most.
    const bounds = counts(`${word}.sizes`)
      .filter((le) => le !== "+Inf")
      .map(Number);
    for (const size of [3, 5, 7, 100])
      expect(
        bounds.some((bound) => bound >= size && bound < size * 1.045) &&
          bounds.some((bound) => bound < size && bound > size / 1.045),
      ).toBe(true);
    const last = async (name: string, le: string) =>
      (await ask(name, { as: "value", of_every: "last", where: [{ tag: "le", is: [le] }] })).lines[0].last;
    expect([
      await last(`${word}.duration`, "1"),
      await last(`${word}.duration`, "+Inf"),
      await last(`${word}.sizes`, "+Inf"),
    ]).toEqual([3, 4, 4]);
    const counters: { name: string; explains: string }[] = (await owner.ask("GET", "/api/counters")).body;
    expect(counters.find(({ name }) => name === `${word}.seats`)?.explains).toBe("Seats that were booked.");
  });
});

const post = (body: string | Uint8Array<ArrayBuffer>, headers: Record<string, string> = {}) =>
  fetch(`${server.address}/v1/metrics`, {
    method: "POST",
    body,
    headers: { authorization: `Bearer ${token}`, "content-type": "application/json", ...headers },
  });
const gauge = (points: object[]) =>
  JSON.stringify({
    resourceMetrics: [{ scopeMetrics: [{ metrics: [{ name: "g", gauge: { dataPoints: points } }] }] }],
  });

test("full success is an empty answer, partial success says how many and why", async () => {
  const now = `${Date.now()}000000`;
  const all = await post(gauge([{ timeUnixNano: now, asInt: 1 }]));
  expect([all.status, await all.json()]).toEqual([200, {}]);
  const some = await post(
    gauge([
      { timeUnixNano: now, asInt: 1 },
      { asInt: 1 },
      { timeUnixNano: `${Date.now() - 2 * 86_400_000}000000`, asInt: 1 },
    ]),
  );
  expect([some.status, await some.json()]).toEqual([
    200,
    {
      partialSuccess: {
        rejectedDataPoints: "2",
        errorMessage: "1: a point without a time; 1: more than a day back, as its settings have it",
      },
    },
  ]);
});

test.each([
  [
    "what is no request, with the field",
    () => post('{"resourceMetrics":5}'),
    400,
    "resourceMetrics: a list should stand here, not 5. Nothing of it was taken.",
  ],
  [
    "another encoding",
    () => post("x", { "content-type": "text/plain" }),
    415,
    "Send application/x-protobuf or application/json.",
  ],
  ["no token", () => post("{}", { authorization: "" }), 401, "Send the source's token"],
  [
    "damaged gzip",
    () => post(Uint8Array.from(gzipSync("{}").subarray(0, 12)), { "content-encoding": "gzip" }),
    400,
    "cannot be unpacked",
  ],
])("%s is refused in words", async (_name, send, status, words) => {
  const answer = await send();
  const told = await answer.json();
  expect([answer.status, told.message]).toEqual([
    status,
    expect.stringContaining(words.replace("cannot be unpacked", "not whole")),
  ]);
});

test("the OpenTelemetry host metrics package: processor, memory and network are this machine's, by the figures of its page", async () => {
  const { id } = (
    await owner.ask("POST", "/api/sources", { kind: "push", name: "berth", machine: "berth", intervalMs: 15_000 })
  ).body;
  const own = (await owner.ask("POST", "/api/tokens", { name: "berth", scope: "write", sourceId: id })).body.token;
  const exporter = new ProtobufExporter({
    url: `${server.address}/v1/metrics`,
    headers: { authorization: `Bearer ${own}` },
  });
  const provider = new MeterProvider({
    readers: [new PeriodicExportingMetricReader({ exporter, exportIntervalMillis: 3_600_000 })],
  });
  new HostMetrics({ meterProvider: provider }).start();
  // Nobody may wonder at an idle machine: one processor works between the two.
  const ticks = () => cpus().map(({ times }) => times);
  const octets = () =>
    readFileSync("/proc/net/dev", "utf8")
      .split("\n")
      .filter((line) => /^\s*e/.test(line))
      .map((line) => line.split(":")[1]?.trim().split(/\s+/).map(Number) ?? [])
      .reduce((sum, columns) => sum + (columns[0] ?? 0) + (columns[8] ?? 0), 0);
  await provider.forceFlush();
  const [before, fromMs, octetsBefore] = [ticks(), Date.now(), octets()];
  while (Date.now() - fromMs < 1500);
  await new Promise((resolve) => setTimeout(resolve, 1000));
  await provider.forceFlush();
  const [after, toMs, octetsAfter] = [ticks(), Date.now(), octets()];
  await provider.shutdown();
  const read = async (reading: object) =>
    (
      await owner.ask("POST", "/api/readings", {
        window: { from: toMs - 60_000, to: toMs + 60_000 },
        step: 120,
        ...reading,
      })
    ).body.lines.map((line: { values: readonly (number | null)[] }) => line.values.findLast((value) => value !== null));
  const here = [{ tag: "machine", is: ["berth"] }];
  const spent = (pick: (times: (typeof before)[0]) => number) =>
    after.reduce((sum, times, i) => sum + pick(times) - pick(before[i] as typeof times), 0);
  const busy =
    (spent(({ user, nice, sys, irq }) => user + nice + sys + irq) /
      spent(({ user, nice, sys, irq, idle }) => user + nice + sys + irq + idle)) *
    100;
  const [told] = await read(processorBusy(here));
  expect(told).toBeGreaterThan(20);
  expect(Math.abs(told - busy)).toBeLessThan(15); // the two were not read in the same moment
  const [memory] = await read(memoryUsed(here));
  expect(Math.abs(memory - (1 - freemem() / totalmem()) * 100)).toBeLessThan(5);
  const [bits] = await read(networkBits(here));
  expect(bits).toBeGreaterThanOrEqual(0);
  expect(bits).toBeLessThanOrEqual((Math.max(1000, octetsAfter - octetsBefore) * 8 * 1.5) / ((toMs - fromMs) / 1000));
  const counters = (await owner.ask("GET", "/api/machines/berth")).body.counters as readonly string[];
  expect(counters).toEqual(
    expect.arrayContaining(["system.cpu.time", "system.memory.usage", "system.network.io", "process.cpu.time"]),
  );
  expect(await read(filesystemUsed(here))).toEqual([]); // it tells of none
}, 30_000);
