import { spawn } from "node:child_process";
import { once } from "node:events";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, expect, test, vi } from "vitest";
import { relativeSpeeds } from "../../../core/fit/relative-speeds.ts";
import { projectRoot } from "../../project-root.ts";
import type { Sources } from "../../sources/sources.ts";
import { speedCounter } from "../../sources/speed-wishes.ts";
import type { Store } from "../../store/store.ts";
import { type OwnedServer, ownedServer } from "../../testing/owned-server.ts";
import { hostSpeeds } from "./host-speeds.ts";

let it: OwnedServer;
let folder: string;
beforeAll(async () => {
  it = await ownedServer();
  folder = mkdtempSync(join(tmpdir(), "nubrel-speed-"));
}, 60_000);
afterAll(async () => {
  await it.close();
  rmSync(folder, { recursive: true, force: true });
});

const ask = (machine: string) => it.owner.ask("POST", "/api/planning/speed", { machine });

test("a collector measures its machine when it is asked, once; what has none cannot", async () => {
  expect(await ask("vault")).toMatchObject({ status: 409, body: { detail: expect.stringMatching(/vault/) } });
  const { store } = it.server as unknown as { store: Store };
  const { body: source } = await it.owner.ask("POST", "/api/sources", {
    kind: "collector",
    name: "lamp",
    machine: "lamp",
    intervalMs: 1000,
  });
  const { body: token } = await it.owner.ask("POST", "/api/tokens", { name: "l", scope: "write", sourceId: source.id });
  const series = () => store.series.ofCounter(speedCounter).find(({ tags }) => tags["machine"] === "lamp");
  const samples = async () => (await store.read([series()?.id as number], 0, Date.now() + 5000))[0]?.value ?? [];
  const isWished = (machine: string) =>
    (it.server as unknown as { sources: Sources }).sources.speedWishes.isWished(machine, Date.now());
  const child = spawn("dash", [join(projectRoot, "collector/nubrel-collector.sh"), "run"], {
    env: {
      ...process.env,
      ...{ NUBREL_STATE: folder, NUBREL_TOKEN: token.token, NUBREL_ADDRESS: it.server.address, NUBREL_INTERVAL: "5" },
      ...{ NUBREL_DRIVES_EVERY: "1000", NUBREL_SLOW_EVERY: "1000" },
    },
    detached: true,
  });
  try {
    await vi.waitFor(() => expect(store.series.ofCounter("system.cpu.time").length).toBeGreaterThan(0), {
      timeout: 20_000,
      interval: 200,
    });
    expect(series()).toBeUndefined();
    expect(await ask("lamp")).toMatchObject({ status: 200, body: { machine: "lamp" } });
    await vi.waitFor(async () => expect((await samples()).length).toBe(1), { timeout: 60_000, interval: 500 });
    // MD5 makes tens of megabytes a second on the slowest machine, and less than 5 GB on any.
    const [speed] = await samples();
    expect(speed).toBeGreaterThan(1e7);
    expect(speed).toBeLessThan(5e9);
    expect(isWished("lamp")).toBe(false);
    process.kill(-(child.pid as number), "SIGTERM");
    await once(child, "exit");
    const [other] = await store.series.resolve([
      { counter: speedCounter, tags: { machine: "lantern" }, unit: "By/s", kind: "level" },
    ]);
    await store.write({
      series: Int32Array.of(other as number),
      timeMs: Float64Array.of(Date.now()),
      value: Float64Array.of(2 * (speed as number)),
      length: 1,
    } as never);
    // the collector goes on telling what it told together with its speed
    expect((await ask("lamp")).status).toBe(200);
    const together = Date.now() + 1000;
    const others = store.series
      .all()
      .filter(({ tags }) => tags["machine"] === "lamp")
      .map(({ id }) => id);
    const told = others.filter((id) => id !== series()?.id);
    await store.write({
      series: Uint32Array.from(told),
      timeMs: new Float64Array(told.length).fill(together),
      value: new Float64Array(told.length),
      length: told.length,
    });
    expect(isWished("lamp")).toBe(true); // those are no speed
    const speedOf = await hostSpeeds(store, { speeds: { mast: 0.5 } });
    expect(["lamp", "lantern", "mast", "ups"].map(speedOf)).toEqual([
      { factor: 1, by: "its collector" },
      { factor: 2, by: "its collector" },
      { factor: 0.5, by: "a person" },
      { factor: 1, by: "nothing" },
    ]);
  } finally {
    if (child.exitCode === null && child.signalCode === null) process.kill(-(child.pid as number), "SIGTERM");
  }
}, 120_000);

test("a collector that only sends tables of the system's own tool cannot measure, and is not asked", async () => {
  const { body: source } = await it.owner.ask("POST", "/api/sources", {
    kind: "collector",
    name: "desk",
    machine: "desk",
    intervalMs: 60_000,
  });
  const { body: token } = await it.owner.ask("POST", "/api/tokens", { name: "d", scope: "write", sourceId: source.id });
  const sent = await fetch(`${it.server.address}/api/push/csv`, {
    method: "POST",
    headers: { authorization: `Bearer ${token.token}`, "content-type": "text/csv" },
    body: `time,load\n${new Date().toISOString()},1\n`,
  });
  expect(sent.status).toBe(200);
  expect((await ask("desk")).status).toBe(409);
});

test("speeds are beside the slowest that was measured", () => {
  expect([
    ...relativeSpeeds(
      new Map([
        ["a", 300],
        ["b", 450],
        ["c", 1000],
      ]),
    ),
  ]).toEqual([
    ["a", 1],
    ["b", 1.5],
    ["c", 3.33],
  ]);
  expect(relativeSpeeds(new Map()).size).toBe(0);
});
