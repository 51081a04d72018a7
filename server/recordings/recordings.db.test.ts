import { readFileSync } from "node:fs";
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { afterAll, beforeAll, describe, expect, test, vi } from "vitest";
import { type OwnedServer, ownedServer } from "../testing/owned-server.ts";

// This machine's own kernel is the counterpart: it is gathered every 5 s, and every second while something records.

let it: OwnedServer;
beforeAll(async () => {
  it = await ownedServer({ NUBREL_GATHER_MS: "5000" });
  await vi.waitFor(async () => expect((await it.owner.ask("GET", "/api/counters")).body.length).toBeGreaterThan(20), {
    timeout: 20_000,
    interval: 200,
  });
}, 60_000);
afterAll(() => it.close());

const ask = (method: string, path: string, body?: unknown, headers?: Record<string, string>) =>
  it.owner.ask(method, `/api${path}`, body, headers);
const document = (name: string, more: object = {}) => ({
  name,
  everySeconds: 1,
  sentences: {
    busy: { counter: "system.cpu.time", where: [{ tag: "mode", is: ["user", "idle"] }] },
    memory: { counter: "system.memory.usage", lines: "together", combine: "sum" },
  },
  ...more,
});
const made = async (name: string, more: object = {}) => (await ask("POST", "/recordings", document(name, more))).body;
const ended = async (path: string) => {
  await vi.waitFor(async () => expect((await ask("GET", path)).body.endedAtMs).toEqual(expect.any(Number)), {
    timeout: 15_000,
    interval: 250,
  });
  return (await ask("GET", path)).body;
};
/** The times of a counter's samples in a window, as they are stored. */
async function timesOf(counter: string, from: number, to: number): Promise<readonly number[]> {
  const { store } = it.server as unknown as { store: import("../store/store.ts").Store };
  const id = (store.series.ofCounter(counter)[0] as { id: number }).id;
  return [...((await store.read([id], from, to))[0]?.timeMs ?? [])];
}

describe("a run of this machine at one second", () => {
  test("gathers what is recorded every second, and only that; ends by itself, and says so", async () => {
    const recording = await made("morning");
    expect(recording).toMatchObject({ name: "morning", everySeconds: 1, runs: 0, lastRun: null });
    const began = await ask("POST", `/recordings/${recording.id}/runs`, { forSeconds: 6 });
    expect(began).toMatchObject({ status: 201, body: { name: "morning", endedAtMs: null, origin: "person" } });
    expect((await ask("GET", "/runs")).body).toEqual([expect.objectContaining({ id: began.body.id })]);
    const run = await ended(`/recordings/${recording.id}/runs/${began.body.id}`);
    const { startedAtMs, endedAtMs } = run;
    expect(run).toMatchObject({ endedBecause: "length", endedAtMs: startedAtMs + 6000, notes: [] });
    const seconds = (await timesOf("system.cpu.time", startedAtMs, endedAtMs)).map((ms) => ms % 1000);
    expect(seconds.length).toBeGreaterThanOrEqual(5);
    // What had to wait for the gathering before it, on a machine that is busy, is of its own moment.
    expect(seconds.filter((ms) => ms !== 0).length).toBeLessThanOrEqual(1);
    expect((await timesOf("system.uptime", startedAtMs, endedAtMs)).length).toBeLessThanOrEqual(2);
    expect((await ask("GET", "/runs")).body).toEqual([]);
  }, 40_000);

  test("its numbers are those of its samples", async () => {
    const { body: all } = await ask("GET", "/recordings");
    const recording = all.find(({ name }: { name: string }) => name === "morning");
    const run = (await ask("GET", `/recordings/${recording.id}/runs/${recording.lastRun.id}`)).body;
    const memory = run.lines.find(({ of }: { of: string }) => of === "memory");
    const total = Number(/MemTotal:\s+(\d+) kB/.exec(readFileSync("/proc/meminfo", "utf8"))?.[1]) * 1024;
    // The states of memory add up to all of it.
    expect(memory).toMatchObject({ unit: "By", least: total, most: total, mean: total, last: total, p95: total });
    expect(memory).toMatchObject({ change: 0, sum: null });
    const idle = run.lines.find(({ tags }: { tags: { mode?: string } }) => tags.mode === "idle");
    const { store } = it.server as unknown as { store: import("../store/store.ts").Store };
    const series = store.series.ofCounter("system.cpu.time").find(({ tags }) => tags["mode"] === "idle");
    const [column] = await store.read([series?.id as number], run.startedAtMs - 20_000, run.endedAtMs);
    const values = [...(column?.value ?? [])];
    expect(idle.sum.unit).toBe("s");
    expect(idle.sum.value).toBeGreaterThan(0);
    expect(idle.sum.value).toBeLessThanOrEqual((values.at(-1) as number) - (values[0] as number));
    expect(idle.least).toBeLessThanOrEqual(idle.mean);
    expect(idle.mean).toBeLessThanOrEqual(idle.most);
    expect(run.reading.lines).toHaveLength(3);
  });

  test("the ordinary series stay one: no time twice, no gap at either seam, its interval as before", async () => {
    const { body: all } = await ask("GET", "/recordings");
    const { startedAtMs, endedAtMs } = all.find(({ name }: { name: string }) => name === "morning").lastRun;
    await vi.waitFor(
      async () => expect((await timesOf("system.cpu.time", endedAtMs + 1000, Date.now())).length).toBeGreaterThan(1),
      { timeout: 20_000, interval: 250 },
    );
    const times = await timesOf("system.cpu.time", startedAtMs - 10_000, Date.now());
    expect(new Set(times).size).toBe(times.length);
    const from = (times[0] as number) + 5000;
    const to = Math.floor((times.at(-1) as number) / 5000) * 5000;
    const step = { window: { from, to }, step: 5 };
    const where = [{ tag: "mode", is: ["idle"] }];
    const answer = (
      await ask("POST", "/readings", { ...step, sentences: { a: { counter: "system.cpu.time", where } } })
    ).body;
    expect(answer.lines[0].values).not.toContain(null);
    const { store } = it.server as unknown as { store: import("../store/store.ts").Store };
    const ids = store.series.ofCounter("system.cpu.time").map(({ id }) => id);
    expect([...store.intervalsMs(ids)]).toEqual(ids.map(() => 5000));
  }, 40_000);

  test("a script begins it with its source's token, by name; somebody ends it", async () => {
    const { body: source } = await ask("POST", "/sources", {
      kind: "push",
      name: "lamp",
      machine: "lamp",
      intervalMs: 5000,
    });
    const { body: token } = await ask("POST", "/tokens", { name: "lamp", scope: "write", sourceId: source.id });
    const recording = await made("by script");
    const headers = { Authorization: `Bearer ${token.token}` };
    const begun = await ask("POST", "/recordings/By%20Script/runs", { forSeconds: 240 }, headers);
    expect(begun).toMatchObject({ status: 201, body: { recordingId: recording.id, origin: "script" } });
    expect(begun.body.leftMs).toBeGreaterThan(230_000);
    const { body } = await ask("POST", `/recordings/${recording.id}/runs/${begun.body.id}/stop`);
    expect(body).toMatchObject({ endedBecause: "by hand" });
    const other = await ask("POST", "/recordings/nobody/runs", {}, headers);
    expect(other).toMatchObject({ status: 404, body: { detail: expect.stringContaining("no recording nobody") } });
  });

  test("a page is asked every second, and only what is recorded is taken of it", async () => {
    let asked = 0;
    const page = createServer((_request, response) => {
      asked++;
      response.setHeader("content-type", "text/plain; version=0.0.4");
      response.end(`# TYPE lamp_lux gauge\nlamp_lux ${asked}\n# TYPE lamp_volts gauge\nlamp_volts ${asked}\n`);
    });
    await new Promise<void>((resolve) => page.listen(0, "127.0.0.1", resolve));
    const { port } = page.address() as AddressInfo;
    const address = { scheme: "http", host: "127.0.0.1", port, path: "/metrics", timeoutMs: 1000 };
    const source = { kind: "pull", name: "page", machine: "page", intervalMs: 3000, address };
    expect((await ask("POST", "/sources", source)).status).toBe(201);
    const { store } = it.server as unknown as { store: import("../store/store.ts").Store };
    await vi.waitFor(() => expect(store.series.ofCounter("lamp_lux")).toHaveLength(1), {
      timeout: 10_000,
      interval: 100,
    });
    const recording = await made("page", { sentences: [{ counter: "lamp_lux" }] });
    const before = asked;
    const { body: run } = await ask("POST", `/recordings/${recording.id}/runs`, { forSeconds: 7 });
    const report = await ended(`/recordings/${recording.id}/runs/${run.id}`);
    const [lux, volts] = [
      await timesOf("lamp_lux", report.startedAtMs, report.endedAtMs),
      await timesOf("lamp_volts", report.startedAtMs, report.endedAtMs),
    ];
    expect(asked - before).toBeGreaterThanOrEqual(6);
    expect(lux.length).toBeGreaterThanOrEqual(6);
    expect(volts.length).toBeLessThanOrEqual(3);
    expect(report.lines).toMatchObject([{ of: "a", sum: null }]);
    // Each answer is one more than the one before.
    expect(report.lines[0].change).toBeGreaterThan(lux.length - 2);
    expect(report.lines[0].change).toBeLessThan(lux.length + 1);
    page.close();
  }, 40_000);

  test("what it costs is told before, and what is over the budget is asked about", async () => {
    const { body: forecast } = await ask("POST", "/recordings/forecast", document("dear", { forSeconds: 600 }));
    expect(forecast).toMatchObject({ series: 7, forSeconds: 600, advisedEverySeconds: 1, over: [] });
    expect(forecast.cost.samples).toBe(7 * 600);
    expect(forecast.cost.serverShare).toBeGreaterThan(0);
    expect(forecast.cost.serverShare).toBeLessThan(0.05);
    const recording = await made("dear", { forSeconds: 30 * 86_400 });
    const begun = await ask("POST", `/recordings/${recording.id}/runs`);
    expect(begun).toMatchObject({ status: 409, body: { detail: expect.stringContaining("18,144,000 samples") } });
    const anyway = await ask("POST", `/recordings/${recording.id}/runs`, { anyway: true });
    expect(anyway.status).toBe(201);
    await ask("DELETE", `/recordings/${recording.id}`);
    expect((await ask("GET", "/runs")).body).toEqual([]);
  });

  test("removed, it is brought back with its runs, unless another has its name", async () => {
    const all = async () => (await ask("GET", "/recordings")).body.map(({ name }: { name: string }) => name);
    const recording = await made("away for a while");
    expect((await ask("POST", `/recordings/${recording.id}/bring-back`)).status).toBe(409);
    await ask("DELETE", `/recordings/${recording.id}`);
    expect(await all()).not.toContain("away for a while");
    const other = await made("Away for a While");
    expect((await ask("POST", `/recordings/${recording.id}/bring-back`)).status).toBe(409);
    await ask("DELETE", `/recordings/${other.id}`);
    expect((await ask("POST", `/recordings/${recording.id}/bring-back`)).status).toBe(204);
    expect(await all()).toContain("away for a while");
    await ask("DELETE", `/recordings/${recording.id}`);
  });

  test("what cannot be is refused in words", async () => {
    const wrong = await ask("POST", "/recordings", { ...document("wrong"), everySeconds: 0.5 });
    expect(wrong).toMatchObject({
      status: 422,
      body: { detail: expect.stringContaining("The interval must be a whole number") },
    });
    expect(await ask("POST", "/recordings", document("Morning"))).toMatchObject({
      status: 409,
      body: { detail: expect.stringContaining("Give this one another name") },
    });
    const schedule = { weekdays: [1], from: "7:20", to: "07:50", zone: "Europe/Berlin" };
    expect(await ask("POST", "/recordings", document("early", { schedule }))).toMatchObject({
      status: 422,
      body: { detail: expect.stringContaining('a time of day such as "07:20"') },
    });
    expect((await ask("GET", "/recordings/1/runs/99999")).body.detail).toContain("no run 99999");
    expect((await ask("GET", "/recordings/1/runs/abc")).status).toBe(404);
  });
});
