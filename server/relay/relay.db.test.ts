import { type ChildProcess, spawn } from "node:child_process";
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync } from "node:fs";
import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, beforeEach, afterEach, describe, expect, test, vi } from "vitest";
import { gzipSync } from "node:zlib";
import { projectRoot } from "../project-root.ts";
import type { RunningServer } from "../running-server.ts";
import { HttpClient } from "../testing/http-client.ts";
import { type OwnedServer, ownedServer, serverOn } from "../testing/owned-server.ts";
import { hasSnmpd, type RealAgent, startSnmpd } from "../testing/snmp-agent.ts";
import { type WeakLink, weakLink } from "../testing/weak-link.ts";
import { RelaySpool } from "./there/relay-spool.ts";

const second = 1000;
const waiting = { timeout: 30 * second, interval: 200 };

let owned: OwnedServer;
let folder: string;
let link: WeakLink;
let relayId: number;
let token: string;
let child: ChildProcess | undefined;
let said = "";

beforeAll(async () => {
  owned = await ownedServer();
});
afterAll(() => owned.close());
beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), "nubrel-relay-test-"));
  link = await weakLink(Number(new URL(owned.server.address).port));
  const name = `mast ${Math.round(performance.now())}`;
  const made = await owned.owner.ask("POST", "/api/sources", {
    ...{ kind: "relay", name, machine: name, intervalMs: second, backDays: 60 },
  });
  expect(made.status).toBe(201);
  relayId = made.body.id;
  const { body } = await owned.owner.ask("POST", "/api/tokens", { name, scope: "write", sourceId: relayId });
  token = body.token;
});
afterEach(async () => {
  await end("SIGTERM");
  await link.close();
  rmSync(folder, { recursive: true, force: true });
});

function start(): void {
  const settings = { to: `http://127.0.0.1:${link.port}`, token, folder, mostBytes: 2 ** 28 };
  child = spawn(process.execPath, [join(projectRoot, "dist/server/relay.js")], {
    env: { ...process.env, NUBREL_RELAY: JSON.stringify(settings) },
    stdio: ["ignore", "pipe", "pipe"],
  });
  for (const stream of [child.stdout, child.stderr]) stream?.on("data", (text) => (said += text));
}

async function end(signal: NodeJS.Signals): Promise<void> {
  if (!child || child.exitCode !== null || child.signalCode !== null) return;
  const ended = new Promise((resolve) => child?.once("exit", resolve));
  child.kill(signal);
  await ended;
}

/** What a process was started with; nothing of one that has ended. */
function environmentOf(pid: string): string {
  try {
    return readFileSync(`/proc/${pid}/environ`, "utf8");
  } catch {
    return "";
  }
}

const viewOf = async (id: number, by = owned.owner) =>
  ((await by.ask("GET", "/api/sources")).body as { id: number }[]).find((one) => one.id === id) as never as {
    heardMs: number | null;
    taken: number | null;
    failure: { kind: string; words: string } | null;
    relay: { version: string; waiting: { records: number } } | null;
  };

/** What is stored of a counter of a source, by time. */
async function stored(server: RunningServer, sourceId: number, counter: string) {
  await server.store.flush();
  const ids = server.store.series.all().filter((one) => one.sourceId === sourceId && one.counter === counter);
  const [column] = await server.store.read(
    ids.slice(0, 1).map(({ id }) => id),
    0,
    Date.now() + 1000,
  );
  return { timeMs: [...(column?.timeMs ?? [])], value: [...(column?.value ?? [])] };
}

/** A page at the other site that counts how often it was asked, and says it. */
async function countingPage(): Promise<{
  readonly server: Server;
  readonly port: number;
  readonly asked: () => number;
}> {
  let asked = 0;
  const server = createServer((_request, response) => {
    response.setHeader("content-type", "text/plain; version=0.0.4");
    response.end(`# TYPE visits gauge\nvisits ${++asked}\n`);
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  return { server, port: (server.address() as AddressInfo).port, asked: () => asked };
}

const pageSource = async (name: string, port: number) =>
  await owned.owner.ask("POST", "/api/sources", {
    ...{ kind: "pull", name, machine: name, intervalMs: second, askedFrom: relayId },
    address: { scheme: "http", host: "127.0.0.1", port, path: "/metrics" },
  });

test("it tells of its own machine, and stands in the list with its version", async () => {
  start();
  await vi.waitFor(async () => expect((await viewOf(relayId)).taken).toBeGreaterThan(20), waiting);
  const { relay } = await viewOf(relayId);
  expect(relay).toMatchObject({ version: expect.stringMatching(/^\d+\.\d+\.\d+$/), dropped: 0 });
  expect((await stored(owned.server, relayId, "system.uptime")).value.length).toBeGreaterThan(0);
});

test("a link that is cut for a while, and a relay that is killed meanwhile: every answer of the page is stored once, at its time", async () => {
  const page = await countingPage();
  try {
    const source = (await pageSource(`page ${relayId}`, page.port)).body.id as number;
    start();
    await vi.waitFor(async () => expect((await stored(owned.server, source, "visits")).value).toContain(2), waiting);
    link.cut();
    const before = page.asked();
    await vi.waitFor(() => expect(page.asked()).toBeGreaterThan(before + 3), waiting);
    await end("SIGKILL");
    const killedAt = page.asked();
    start(); // by the orders that it kept: its server is not reached
    await vi.waitFor(() => expect(page.asked()).toBeGreaterThan(killedAt + 3), waiting);
    link.mend();
    await vi.waitFor(
      async () => expect((await stored(owned.server, source, "visits")).value.length).toBeGreaterThan(killedAt + 2),
      { timeout: 90 * second, interval: 500 },
    );
    await end("SIGTERM");
    const { timeMs, value } = await stored(owned.server, source, "visits");
    // What was under way when the relay was killed may be missing: it had not been answered yet.
    const missing = Array.from({ length: value.length }, (_, i) => i + 1).filter((n) => !value.includes(n));
    expect(missing.every((n) => n === killedAt || n === killedAt + 1)).toBe(true);
    expect(new Set(value).size).toBe(value.length);
    expect(timeMs).toEqual([...timeMs].sort((a, b) => a - b));
  } finally {
    page.server.close();
  }
});

test("a day away by a link of 40 kB a second: all of it comes, with its own times, while what is new comes too", async () => {
  const page = await countingPage();
  const source = (await pageSource(`day ${relayId}`, page.port)).body.id as number;
  const dayMs = 86_400 * second;
  const everyMs = 15 * second;
  const firstMs = Math.floor((Date.now() - dayMs) / everyMs) * everyMs;
  mkdirSync(folder, { recursive: true });
  const spool = new RelaySpool(join(folder, "spool"));
  const count = dayMs / everyMs;
  for (let i = 0; i < count; i++)
    spool.add({
      ...{ source, atMs: firstMs + i * everyMs, tookMs: 3, kind: "page", dialect: "text", contentType: "text/plain" },
      ...{ bytes: Buffer.from(`old_visits ${i}\n`).toString("base64"), certificateUntilMs: null },
    });
  await link.close();
  link = await weakLink(Number(new URL(owned.server.address).port), 40_000);
  start();
  try {
    await vi.waitFor(async () => expect((await stored(owned.server, source, "old_visits")).value).toHaveLength(count), {
      timeout: 110 * second,
      interval: 1000,
    });
    const { timeMs, value } = await stored(owned.server, source, "old_visits");
    expect(value).toEqual(Array.from({ length: count }, (_, i) => i));
    expect(timeMs.every((ms, i) => ms === firstMs + i * everyMs)).toBe(true);
    await vi.waitFor(async () => expect((await stored(owned.server, source, "visits")).value).not.toEqual([]), waiting);
  } finally {
    page.server.close();
  }
}, 180_000);

test("what nobody can read of a spool is told, and holds up nothing behind it", async () => {
  const spool = new RelaySpool(join(folder, "spool"));
  const reading = (counter: string, tags: object = {}) => ({ counter, tags, value: 1, unit: "1", kind: "level" });
  const record = (readings: object[]) =>
    spool.add({
      ...{
        source: relayId,
        atMs: Date.now(),
        tookMs: 1,
        kind: "readings",
        raw: "",
        rawType: "text/plain",
        leftOut: [],
      },
      ...{ readings: readings as never, certificateUntilMs: null, events: [] },
    });
  record([reading("lamp.lit"), reading("lamp.name", { text: "half a \ud800 sign" })]);
  record([{ counter: 5 }]);
  start();
  await vi.waitFor(async () => expect((await viewOf(relayId)).taken).toBeGreaterThan(20), waiting);
  // One text that cannot be stored costs its own series alone.
  expect((await stored(owned.server, relayId, "lamp.lit")).value).toEqual([1]);
});

test("what a server had taken before it was restarted is not taken twice by the next", async () => {
  const mine = await ownedServer();
  try {
    const made = await mine.owner.ask("POST", "/api/sources", {
      ...{ kind: "relay", name: "mast", machine: "mast", intervalMs: second, backDays: 60 },
    });
    const { body } = await mine.owner.ask("POST", "/api/tokens", { name: "m", scope: "write", sourceId: made.body.id });
    const event = { fromMs: 1_800_000_000_000, toMs: 1_800_000_000_000, kind: "fan", text: "fan 2 failed", tags: {} };
    const record = {
      ...{
        seq: 1,
        source: made.body.id,
        atMs: Date.now(),
        tookMs: 1,
        kind: "readings",
        raw: "x",
        rawType: "text/plain",
      },
      ...{
        readings: [],
        leftOut: [],
        certificateUntilMs: null,
        events: [{ ...event, fromMs: Date.now(), toMs: Date.now() }],
      },
    };
    const post = (address: string) =>
      fetch(`${address}/api/relay/records`, {
        ...{ method: "POST", body: gzipSync(`${JSON.stringify(record)}\n`) },
        headers: { authorization: `Bearer ${body.token}`, "content-encoding": "gzip", "nubrel-relay-life": "a" },
      }).then((answer) => answer.json());
    expect(await post(mine.server.address)).toEqual({ takenUntil: 1 });
    await mine.server.close();
    const next = await serverOn(mine.db);
    try {
      expect(await post(next.address)).toEqual({ takenUntil: 1 });
      const { rows } = await mine.db.database.query("select from event where text = 'fan 2 failed'");
      expect(rows).toHaveLength(1);
    } finally {
      await next.close();
    }
  } finally {
    await mine.db.drop();
  }
});

describe.skipIf(!hasSnmpd)("a device that only the relay reaches (Debian's snmpd)", () => {
  let agent: RealAgent;
  beforeAll(async () => {
    agent = await startSnmpd();
  });
  afterAll(() => agent.stop());
  const device = () => ({
    ...{
      kind: "snmp",
      host: "127.0.0.1",
      port: agent.port,
      version: "2c",
      transport: "udp",
      timeoutMs: 2000,
    },
    ...{ modules: ["system"], numbers: [] },
  });
  const heard = () => vi.waitFor(async () => expect((await viewOf(relayId)).relay).not.toBeNull(), waiting);

  test("is walked and tried from there before it is saved, and told apart where that fails", async () => {
    start();
    await heard();
    const credentials = { kind: "community", community: "quay" };
    const walk = await owned.owner.ask("POST", "/api/sources/walk", {
      device: device(),
      credentials,
      askedFrom: relayId,
    });
    expect(walk.body).toMatchObject({ kind: "walked", walk: { name: "kestrel" } });
    const ask = { device: device(), machine: "tower", askedFrom: relayId };
    const good = await owned.owner.ask("POST", "/api/sources/try", { ...ask, credentials });
    expect(good.body).toMatchObject({ kind: "page", format: "device" });
    expect(good.body.taken).toBeGreaterThan(0);
    const other = { kind: "community", community: "not this" };
    const bad = await owned.owner.ask("POST", "/api/sources/try", { ...ask, credentials: other });
    expect(bad.body).toMatchObject({ kind: "failed", failure: { kind: "no answer" } });
  });

  test("is asked over and over, and its secret stays with the place that it was entered for", async () => {
    const made = await owned.owner.ask("POST", "/api/sources", {
      ...{ kind: "snmp", name: `tower ${relayId}`, machine: "tower", intervalMs: second, device: device() },
      ...{ askedFrom: relayId, credentials: { kind: "community", community: "quay" } },
    });
    expect(made.status).toBe(201);
    start();
    await vi.waitFor(
      async () => expect((await stored(owned.server, made.body.id, "system.uptime")).value.length).toBeGreaterThan(1),
      waiting,
    );
    const { credentials: _, ...settings } = made.body;
    const { name, machine, intervalMs, address, trust, tags, take } = settings;
    const here = await owned.owner.ask("PUT", `/api/sources/${made.body.id}`, {
      ...{ name, machine, intervalMs, address, trust, tags, take, device: device(), askedFrom: null },
    });
    expect(here).toMatchObject({ status: 422, body: { type: expect.stringContaining("another-destination") } });
  });
});

test("a page that is not there is told as the relay saw it, at once after the source was changed", async () => {
  start();
  await vi.waitFor(async () => expect((await viewOf(relayId)).relay).not.toBeNull(), waiting);
  const { body } = await pageSource(`gone ${relayId}`, 1);
  await vi.waitFor(
    async () => expect((await viewOf(body.id)).failure).toMatchObject({ kind: "nothing listens" }),
    waiting,
  );
});

test("trying from a relay that is away says so", async () => {
  const address = { scheme: "http", host: "127.0.0.1", port: 1, path: "/metrics" };
  const answer = await owned.owner.ask("POST", "/api/sources/try", { address, machine: "x", askedFrom: relayId });
  expect(answer).toMatchObject({ status: 503, body: { type: expect.stringContaining("the-relay-is-away") } });
});

describe("what is refused", () => {
  const post = (path: string, body: string, as = token) =>
    fetch(`${owned.server.address}/api/relay/${path}`, {
      ...{ method: "POST", body },
      headers: { authorization: `Bearer ${as}`, "nubrel-relay-life": "b" },
    });
  const record = (more: object) =>
    `${JSON.stringify({
      ...{ seq: 1, source: relayId, atMs: Date.now(), tookMs: 1, kind: "readings", raw: "", rawType: "text/plain" },
      ...{
        readings: [{ counter: "system.uptime", tags: {}, value: 5 }],
        leftOut: [],
        certificateUntilMs: null,
        events: [],
      },
      ...more,
    })}\n`;

  test("the token of what is no relay, and none", async () => {
    const other = await owned.owner.ask("POST", "/api/sources", {
      ...{ kind: "push", name: `pusher ${relayId}`, machine: "p", intervalMs: second },
    });
    const of = { name: "p", scope: "write", sourceId: other.body.id };
    const { body } = await owned.owner.ask("POST", "/api/tokens", of);
    expect((await post("records", record({}), body.token)).status).toBe(409);
    expect((await post("work", "{}", body.token)).status).toBe(409);
    expect((await post("work", "{}", "no such token")).status).toBe(401);
  });

  test("records of a source that it is not to ask are left", async () => {
    const { body } = await owned.owner.ask("POST", "/api/sources", {
      ...{ kind: "push", name: `else ${relayId}`, machine: "e", intervalMs: second },
    });
    expect((await post("records", record({ source: body.id }))).status).toBe(200);
    expect((await stored(owned.server, body.id, "system.uptime")).value).toEqual([]);
  });

  test("what is no record is told at its page, and what stands beside it is taken", async () => {
    const answer = await post("records", `{"seq": 1}\n${record({ seq: 2 })}`);
    expect(await answer.json()).toEqual({ takenUntil: 2 });
    expect((await stored(owned.server, relayId, "system.uptime")).value).toEqual([5]);
    expect((await post("work", "no json")).status).toBe(400);
    expect((await post("work", "{}")).status).toBe(422);
  });

  test("a relay goes only when nothing is asked from it; only what is asked is asked from one", async () => {
    const page = await pageSource(`held ${relayId}`, 1);
    expect((await owned.owner.ask("DELETE", `/api/sources/${relayId}`)).status).toBe(409);
    expect((await owned.owner.ask("DELETE", `/api/sources/${page.body.id}`)).status).toBe(204);
    expect((await owned.owner.ask("DELETE", `/api/sources/${relayId}`)).status).toBe(204);
    const sender = { kind: "push", name: `s ${relayId}`, machine: "s", intervalMs: second };
    expect((await owned.owner.ask("POST", "/api/sources", { ...sender, askedFrom: relayId })).status).toBe(422);
    expect((await pageSource(`none ${relayId}`, 1)).status).toBe(422);
  });
});

test("the pasted line starts it (bin/nubrel), and what is wrong is told in words", async () => {
  await owned.server.store.flush();
  const to = `http://127.0.0.1:${link.port}`;
  child = spawn(join(projectRoot, "bin/nubrel"), ["relay", to, "--token", token], {
    env: { ...process.env, NUBREL_DATA: folder },
    stdio: ["ignore", "pipe", "pipe"],
  });
  said = "";
  for (const stream of [child.stdout, child.stderr]) stream?.on("data", (text) => (said += text));
  await vi.waitFor(() => expect(said).toContain("Its server is reached."), waiting);
  const of = new HttpClient(owned.server.address);
  of.cookie = owned.owner.cookie;
  const tokens = (await of.ask("GET", "/api/tokens")).body as { id: number; sourceId: number | null }[];
  const its = tokens.find(({ sourceId }) => sourceId === relayId) as { id: number };
  expect((await of.ask("DELETE", `/api/tokens/${its.id}`)).status).toBe(204);
  await vi.waitFor(() => expect(said).toMatch(/Its server refuses it: .*token/), waiting);
  await end("SIGTERM");
  // Nothing of it runs on.
  const running = readdirSync("/proc").filter((pid) => /^\d+$/.test(pid) && environmentOf(pid).includes(folder));
  expect(running).toEqual([]);
});
