import type { RunningServer } from "../running-server.ts";
import { createSocket } from "node:dgram";
import { mkdtempSync, rmSync } from "node:fs";
import { createServer, type Server } from "node:http";
import { tmpdir } from "node:os";
import { join } from "node:path";
import pino from "pino";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { MachineEvent } from "../../core/events/machine-event.ts";
import type { SourceView, WalkAnswer } from "../../core/api/sources.ts";
import { gateState } from "../../standins/devices/snmp-devices.ts";
import { StreamEngine } from "../../standins/devices/stream-host.ts";
import { type EngineServer, startEngineServer } from "../../standins/protocols/engine-server.ts";
import { startSnmpAgent } from "../../standins/protocols/snmp-agent.ts";
import { World } from "../../standins/world/world.ts";
import { readConfig } from "../config.ts";
import { startServer } from "../compose.ts";
import { deviceKindNames } from "../../core/sources/kinds/device-kinds.ts";
import { HttpClient } from "../testing/http-client.ts";
import { freeUdpPort } from "../testing/snmp-agent.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";

let db: TestDatabase;
let server: RunningServer;
let owner: HttpClient;
let folder: string;
let port: number;
let agent: { close(): void };
const now = () => Date.now() / 1000;
const world = new World(Math.floor(now()), 0);

beforeAll(async () => {
  db = await testDatabase({ migrated: false });
  server = await startServer(
    readConfig({ NUBREL_DATABASE_URL: db.url, NUBREL_PORT: "0", NUBREL_MACHINE: "playout", NUBREL_GATHER_MS: "1000" }),
    { log: pino({ level: "silent" }) },
  );
  owner = new HttpClient(server.address);
  await owner.ask("POST", "/api/setup", { code: server.setupCode, name: "Ines", password: "kestrel on the quay" });
  folder = mkdtempSync(join(tmpdir(), "nubrel-devices-"));
  port = await freeUdpPort();
  agent = await startSnmpAgent(port, { community: "quayside" }, gateState(world), now);
});
afterAll(async () => {
  await server.close();
  agent.close();
  rmSync(folder, { recursive: true, force: true });
  await db.drop();
});

const viewOf = async (id: number): Promise<SourceView> => (await owner.ask("GET", `/api/sources/${id}`)).body;
const snmpDevice = (more: object = {}) => ({ kind: "snmp", host: "127.0.0.1", port, timeoutMs: 1000, ...more });
const create = async (name: string, kind: string, more: object): Promise<SourceView> => {
  const answer = await owner.ask("POST", "/api/sources", { kind, name, machine: name, intervalMs: 1000, ...more });
  expect(answer.status, JSON.stringify(answer.body)).toBe(201);
  return answer.body;
};

test("a router that sends its flows is a source: what it tells is its machine's traffic by protocol", async () => {
  const flowPort = await freeUdpPort();
  const edge = await create("edge", "flow", {
    device: { kind: "flow", host: "127.0.0.1", port: flowPort, from: "", timeoutMs: 5000 },
  });
  // IPFIX (RFC 7011): a template of four fields, and a record of 1,000 bytes between the ports 50000 and 443 of TCP.
  const message = Uint8Array.from([
    0, 10, 0, 53, 0, 0, 0, 1, 0, 0, 0, 0, 0, 0, 0, 7, 0, 2, 0, 24, 1, 44, 0, 4, 0, 7, 0, 2, 0, 11, 0, 2, 0, 4, 0, 1, 0,
    1, 0, 4, 1, 44, 0, 13, 195, 80, 1, 187, 6, 0, 0, 3, 232,
  ]);
  const socket = createSocket("udp4");
  const sending = setInterval(() => socket.send(message, flowPort, "127.0.0.1"), 100);
  try {
    await expect.poll(async () => (await viewOf(edge.id)).state, { timeout: 10_000 }).toBe("reporting");
    await expect
      .poll(async () => (await owner.ask("GET", "/api/machines/edge")).body.counters, { timeout: 5000 })
      .toEqual(["system.network.protocol.io"]);
    const reading = () =>
      owner.ask("POST", "/api/readings", {
        window: { from: Date.now() - 60_000, to: Date.now() + 1000 },
        sentences: { q: { counter: "system.network.protocol.io", where: [{ tag: "machine", is: ["edge"] }] } },
      });
    await expect
      .poll(async () => (await reading()).body.lines[0], { timeout: 10_000 })
      .toMatchObject({
        unit: "By/s",
        tags: { protocol: "https", transport: "tcp", direction: "receive", interface: "all" },
      });
  } finally {
    clearInterval(sending);
    socket.close();
    await owner.ask("DELETE", `/api/sources/${edge.id}`);
  }
});

describe("a device of SNMP", () => {
  let gate: SourceView;
  test("is asked at its interval, and its machine appears with its counters", async () => {
    gate = await create("gate", "snmp", {
      device: snmpDevice({
        numbers: [{ oid: "1.3.6.1.4.1.32473.2.2.0", counter: "link.quality", factor: 0.01, unit: "1" }],
      }),
      credentials: { kind: "community", community: "quayside" },
    });
    await expect.poll(async () => (await viewOf(gate.id)).state, { timeout: 10_000 }).toBe("reporting");
    const view = await viewOf(gate.id);
    expect(view.found).toBe(view.taken);
    await expect
      .poll(async () => (await owner.ask("GET", "/api/machines/gate")).body.counters, { timeout: 5000 })
      .toEqual(expect.arrayContaining(["system.network.io", "system.memory.usage", "link.quality"]));
    const ask = () =>
      owner.ask("POST", "/api/readings", {
        window: { from: Date.now() - 60_000, to: Date.now() + 1000 },
        sentences: { q: { counter: "link.quality", where: [{ tag: "machine", is: ["gate"] }] } },
      });
    await expect
      .poll(async () => (await ask()).body.lines[0], { timeout: 5000 })
      .toMatchObject({ unit: "1", last: expect.closeTo(0.66, 0) });
  });
  test("its answer can be looked at, and rules be tried on it", async () => {
    const raw = await owner.ask("GET", `/api/sources/${gate.id}/raw`);
    expect(raw.body).toContain("1.3.6.1.2.1.31.1.1.1.1.1 = text: wan\n");
    const preview = await owner.ask("POST", `/api/sources/${gate.id}/preview`, {
      take: [{ do: "leave", counter: "system.network.*", where: { interface: "mast" } }],
      tags: { site: "rack" },
    });
    expect(preview.body.leftOut).toEqual({ "left by a rule": 8 });
    expect(preview.body.series.find(({ made }: { made: unknown }) => made).made.tags.site).toBe("rack");
  });
  test("its community is sealed; a wrong one is told with all that it could be, and the right one again mends it", async () => {
    const { rows } = await db.database.query(
      "select row_to_json(source)::text as text, encode(secret, 'escape') as secret from source where id = $1",
      [gate.id],
    );
    expect(rows[0].text + rows[0].secret).not.toContain("quayside");
    const { state: _s, ...settings } = { ...gate };
    const body = (community: string) => ({
      name: settings.name,
      machine: settings.machine,
      intervalMs: 1000,
      device: settings.device,
      credentials: { kind: "community", community },
    });
    expect((await owner.ask("PUT", `/api/sources/${gate.id}`, body("wrong"))).status).toBe(200);
    await expect.poll(async () => (await viewOf(gate.id)).failure?.kind, { timeout: 10_000 }).toBe("no answer");
    await owner.ask("PUT", `/api/sources/${gate.id}`, body("quayside"));
    await expect.poll(async () => (await viewOf(gate.id)).failure, { timeout: 10_000 }).toBeNull();
  });
  test("a walk tells what it has; a failing one what is wrong", async () => {
    const walk = async (community: string) =>
      (
        await owner.ask("POST", "/api/sources/walk", {
          device: snmpDevice(),
          credentials: { kind: "community", community },
        })
      ).body as WalkAnswer;
    const found = await walk("quayside");
    expect(found.kind === "walked" && found.walk.groups.map(({ module }) => module)).toEqual([
      "system",
      "interfaces",
      "host resources",
      "sensors",
    ]);
    expect(found.kind === "walked" && found.walk.unknown[0]?.oid).toBe("1.3.6.1.4.1.32473.2.1.0");
    expect(await walk("wrong")).toMatchObject({ kind: "failed", failure: { kind: "no answer" } });
  });
  test.each([
    [{ device: { kind: "snmp", host: "gate", numbers: [{ oid: "1.3.x", counter: "a" }] } }, "is not a number of SNMP"],
    [{ device: { kind: "snmp", host: "http://gate" } }, "without https:// and without a path"],
    [{ device: { kind: "snmp", host: "gate", modules: ["weather"] } }, "must be one of"],
    [{}, "is missing"],
    [
      {
        device: { kind: "snmp", host: "gate" },
        credentials: { kind: "snmp user", user: "ines", level: "sealed", authKey: "short", privKey: "kestrelquay" },
      },
      "8 signs at least",
    ],
    [{ device: { kind: "teapot" } }, `is none of: ${deviceKindNames.join(", ")}`],
  ])("%j is refused with what is wrong", async (more, words) => {
    const answer = await owner.ask("POST", "/api/sources", {
      kind: "snmp",
      name: "bad",
      machine: "bad",
      intervalMs: 15_000,
      ...more,
    });
    expect(answer.status).toBe(422);
    expect(JSON.stringify(answer.body)).toContain(words);
  });
  test("a source keeps its kind: another's device is refused", async () => {
    const answer = await owner.ask("PUT", `/api/sources/${gate.id}`, {
      name: "gate",
      machine: "gate",
      intervalMs: 1000,
      device: { kind: "ipmi", host: "gate" },
    });
    expect(answer.status).toBe(422);
  });
});

describe("a container engine", () => {
  let engine: EngineServer | undefined;
  let broken: Server | undefined;
  let source: SourceView;
  const socketPath = () => join(folder, "engine.sock");
  afterAll(async () => {
    await engine?.close();
    broken?.closeAllConnections();
  });
  const events = async (): Promise<readonly MachineEvent[]> =>
    (await owner.ask("GET", `/api/events?from=${Date.now() - 600_000}&to=${Date.now() + 600_000}&machine=stream`)).body;

  test("what happens to its containers becomes events", async () => {
    engine = await startEngineServer(socketPath(), new StreamEngine(world), now);
    source = await create("stream", "containers", { device: { kind: "containers", socket: socketPath() } });
    await expect.poll(async () => (await viewOf(source.id)).state, { timeout: 10_000 }).toBe("reporting");
    engine.tell({
      Type: "container",
      Action: "restart",
      Actor: { Attributes: { name: "chat", image: "quay/chat:2.7" } },
      time: now(),
    });
    engine.tell({ Type: "container", Action: "exec_start", Actor: { Attributes: { name: "chat" } }, time: now() });
    await expect
      .poll(async () => (await events()).map(({ kind, text, tags }) => [kind, text, tags]), { timeout: 10_000 })
      .toEqual([["container restarted", "chat was restarted", { container: "chat", image: "quay/chat:2.7" }]]);
  });
  test("one that dies in the middle of an answer is told, and gathered again when it is back", async () => {
    await engine?.close();
    engine = undefined;
    rmSync(socketPath(), { force: true });
    broken = createServer((_request, response) => {
      response.writeHead(200, { "content-type": "application/json", "content-length": "1000" });
      response.write('[{"Id":"3ee0');
      setTimeout(() => response.destroy(), 20);
    });
    await new Promise<void>((resolve) => broken?.listen(socketPath(), resolve));
    await expect.poll(async () => (await viewOf(source.id)).failure?.kind, { timeout: 10_000 }).toBe("truncated");
    broken.closeAllConnections();
    await new Promise((resolve) => broken?.close(resolve));
    await expect
      .poll(async () => (await viewOf(source.id)).failure?.kind, { timeout: 10_000 })
      .toMatch(/wrong path|nothing listens/);
    engine = await startEngineServer(socketPath(), new StreamEngine(world), now);
    await expect.poll(async () => (await viewOf(source.id)).failure, { timeout: 10_000 }).toBeNull();
    engine.tell({
      Type: "container",
      Action: "die",
      Actor: { Attributes: { name: "relay", image: "quay/relay:4.2", exitCode: "1" } },
      time: now(),
    });
    await expect
      .poll(async () => (await events()).map(({ text }) => text), { timeout: 10_000 })
      .toContain("relay ended with code 1");
  });
  test("what is no engine is told so", async () => {
    const answer = await owner.ask("POST", "/api/sources/try", {
      device: { kind: "containers", socket: "/no/such/socket" },
    });
    expect(answer.body).toMatchObject({ kind: "failed", failure: { kind: "wrong path" } });
  });
});
