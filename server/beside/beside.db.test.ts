import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, expect, test, vi } from "vitest";
import { Store } from "../store/store.ts";
import { freeTcpPort } from "../testing/free-port.ts";
import { HttpClient } from "../testing/http-client.ts";
import { type ServerProcess, startOneOfSeveral } from "../testing/one-of-several.ts";
import { pushText } from "../testing/push-text.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";

// Two real server processes on one database. In order: each test goes on where the one before ended.

const second = 1000;
const waiting = { timeout: 20 * second, interval: 100 };
const password = "kestrel on the quay";

let db: TestDatabase;
let folder: string;
let ports: readonly number[];
let leader: ServerProcess;
let other: ServerProcess;
let atLeader: HttpClient;
let atOther: HttpClient;
let token: string;
/** What was answered as stored. */
const acknowledged: number[] = [];

const startOne = (which: 0 | 1, keyFile = "key"): Promise<ServerProcess> =>
  startOneOfSeveral(db.url, folder, {
    NUBREL_PORT: String(ports[which]),
    NUBREL_GATHER_MS: "1000",
    NUBREL_KEY_FILE: join(folder, keyFile),
  });

beforeAll(async () => {
  db = await testDatabase({ migrated: false });
  folder = mkdtempSync(join(tmpdir(), "nubrel-beside-"));
  ports = [await freeTcpPort(), await freeTcpPort()];
  leader = await startOne(0);
  atLeader = new HttpClient(leader.address);
  await atLeader.ask("POST", "/api/setup", { code: leader.setupCode, name: "Ines", password });
  const source = { kind: "push", name: "lamp", machine: "lamp", intervalMs: second };
  const { body } = await atLeader.ask("POST", "/api/sources", source);
  token = (await atLeader.ask("POST", "/api/tokens", { name: "lamp", scope: "write", sourceId: body.id })).body.token;
  other = await startOne(1);
  atOther = new HttpClient(other.address);
}, 60 * second);
afterAll(async () => {
  await other?.stop();
  await leader?.stop();
  await db?.drop();
  rmSync(folder, { recursive: true, force: true });
});

const beganMs = Math.floor(Date.now() / second) * second - 600 * second;
async function push(n: number, address = other.address): Promise<void> {
  const answer = await pushText(address, token, `lamp_count ${n} ${beganMs + n * 10}\n`);
  if (answer.status === 200) acknowledged.push(n);
}

const readingOf = (counter: string, fromMs: number, toMs: number) => ({
  sentences: { a: { counter, lines: "each" } },
  window: { from: fromMs, to: toMs },
  step: 1,
});

/** All that is stored of the lamp, by a store of its own. */
async function storedOfLamp(): Promise<readonly number[]> {
  const store = await Store.open(db.database, { mayWrite: () => false });
  const ids = store.series.ofCounter("lamp_count").map(({ id }) => id);
  const [column] = await store.read(ids, beganMs, Date.now());
  await store.close();
  return [...(column?.value ?? [])];
}

test("it stands beside the one that leads, and answers what that one answers: who signs in there is signed in here", async () => {
  expect(other.said()).toContain("beside the server that leads");
  expect((await atOther.ask("GET", "/api/me")).status).toBe(401);
  expect((await atOther.ask("POST", "/api/session", { name: "Ines", password })).status).toBe(200);
  expect((await atOther.ask("GET", "/api/me")).body.name).toBe("Ines");
  const named = await atOther.ask("PUT", "/api/machines/vault", { friendlyName: "the vault", tags: {} });
  expect(named.status).toBe(200);
  const { body } = await atLeader.ask("GET", "/api/machines/vault");
  expect(body.friendlyName).toBe("the vault");
});

test("what is sent to it is stored once, and read there and here alike within a second", async () => {
  for (let n = 1; n <= 50; n++) await push(n);
  expect(acknowledged).toHaveLength(50);
  const asked = readingOf("lamp_count", beganMs, beganMs + 2 * second);
  const there = (await atLeader.ask("POST", "/api/readings", asked)).body;
  expect(there.lines).toHaveLength(1);
  await vi.waitFor(async () => {
    expect((await atOther.ask("POST", "/api/readings", asked)).body).toEqual(there);
  }, 1000);
});

test("the reading is answered by itself: the server that leads hears nothing of it, and is stopped meanwhile", async () => {
  process.kill(leader.pid as number, "SIGSTOP");
  try {
    const asked = readingOf("lamp_count", beganMs, beganMs + 2 * second);
    const { status, body } = await atOther.ask("POST", "/api/readings", asked);
    expect([status, body.lines.length]).toEqual([200, 1]);
  } finally {
    process.kill(leader.pid as number, "SIGCONT");
  }
});

test("a counter that is looked at there alone is one that somebody looks at, for the server that leads too", async () => {
  await pushText(leader.address, token, `lamp_hue 7 ${beganMs}\nlamp_glow 8 ${beganMs}\n`);
  const unused = async () => {
    const { body } = await atLeader.ask("GET", "/api/planning/watching");
    const lamp = body.sources.find(({ name }: { name: string }) => name === "lamp");
    return lamp.unused.map(({ counter }: { counter: string }) => counter);
  };
  expect(await unused()).toEqual(expect.arrayContaining(["lamp_hue", "lamp_glow"]));
  await atOther.ask("POST", "/api/readings", readingOf("lamp_hue", beganMs, beganMs + second));
  await vi.waitFor(async () => expect(await unused()).not.toContain("lamp_hue"), waiting);
  expect(await unused()).toContain("lamp_glow");
});

test("the live stream goes through it as it comes", async () => {
  const gone = new AbortController();
  const answer = await fetch(`${other.address}/api/live`, {
    headers: { cookie: atOther.cookie, accept: "text/event-stream" },
    signal: gone.signal,
  });
  expect(answer.headers.get("content-type")).toContain("text/event-stream");
  let heard = "";
  const reading = (async () => {
    for await (const piece of answer.body as never as AsyncIterable<Uint8Array>) {
      heard += Buffer.from(piece).toString();
      if (heard.includes('"samples"')) return;
    }
  })();
  await reading;
  gone.abort();
  expect(heard).toContain('"samples"');
});

test("one that has another key could not lead: it says so and ends", async () => {
  const recipient = {
    kind: "webhook",
    name: "bell",
    webhook: { url: "http://127.0.0.1:9/", headers: [{ name: "x-desk", value: "studio" }] },
  };
  const { status } = await atLeader.ask("POST", "/api/recipients", recipient);
  expect(status).toBe(201);
  await expect(startOne(1, "another")).rejects.toThrow("opens none of the passwords that are sealed");
});

test("nobody without the pass is taken for a server that hands on", async () => {
  const answer = await fetch(`${leader.address}/api/me`, {
    headers: { "nubrel-handed-on": "guessed", "nubrel-handed-from": "10.9.9.9", "nubrel-handed-over": "https" },
  });
  expect(answer.status).toBe(401);
  // What it hands on it says itself, whatever the one who asks says.
  await fetch(`${other.address}/api/session`, {
    method: "POST",
    headers: { "content-type": "application/json", origin: other.address, "nubrel-handed-from": "10.9.9.9" },
    body: JSON.stringify({ name: "Ines", password }),
  });
  const { body } = await atLeader.ask("GET", "/api/sessions");
  expect(JSON.stringify(body)).not.toContain("10.9.9.9");
});

test("the page of its condition names both, how far the other is behind, and what it stores itself", async () => {
  let n = 0;
  await vi.waitFor(async () => {
    await pushText(other.address, token, `lamp_hue 7 ${beganMs + ++n * 10}\n`);
    const { servers } = (await atLeader.ask("GET", "/api/condition")).body;
    expect(servers.map((one: { leads: boolean }) => one.leads)).toEqual([true, false]);
    expect(servers[1]).toMatchObject({ address: other.address, pid: other.pid });
    expect(servers[1].behindMs).toBeGreaterThanOrEqual(0);
    expect(servers[1].behindMs).toBeLessThan(1000);
    expect(servers[0].storesPerSecond).toBeNull();
    expect(servers[1].storesPerSecond).toBeGreaterThan(0.5);
    expect(servers[1].storesPerSecond).toBeLessThan(20);
  }, waiting);
});

test(
  "the one that leads is killed under load: the other leads within seconds, and nothing acknowledged is missing or twice",
  async () => {
    let n = 50;
    let isOver = false;
    const sending = (async () => {
      while (!isOver) await push(++n).catch(() => undefined);
    })();
    await vi.waitFor(() => expect(acknowledged.length).toBeGreaterThan(70), waiting);
    await leader.kill("SIGKILL");
    const killedMs = Date.now();
    await vi.waitFor(() => expect(other.said()).toContain("this one does"), waiting);
    const before = acknowledged.length;
    await vi.waitFor(() => expect(acknowledged.length).toBeGreaterThan(before + 10), waiting);
    isOver = true;
    await sending;
    // Its own machine is gathered on there within 15 s.
    await vi.waitFor(async () => {
      const { lastSampleAt } = (await atOther.ask("GET", "/api/health")).body;
      expect(lastSampleAt).toBeGreaterThan(killedMs);
    }, waiting);
    expect(Date.now() - killedMs).toBeLessThan(15 * second);
    const stored = await storedOfLamp();
    expect(stored).toEqual([...new Set(stored)].sort((a, b) => a - b));
    expect(acknowledged.filter((one) => !stored.includes(one))).toEqual([]);
  },
  60 * second,
);

test(
  "the one that was killed stands beside it when it is started again, and leads when the other is stopped",
  async () => {
    leader = await startOne(0);
    expect(leader.said()).toContain("beside the server that leads");
    const from = acknowledged.length;
    await push(90_000, leader.address);
    expect(acknowledged).toHaveLength(from + 1);
    await other.stop();
    await vi.waitFor(async () => {
      expect(leader.said()).toContain("this one does");
      await push(90_001, leader.address);
      expect(acknowledged).toHaveLength(from + 2);
    }, waiting);
  },
  60 * second,
);
