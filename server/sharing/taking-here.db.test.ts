import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { promisify } from "node:util";
import { gzip } from "node:zlib";
import { afterAll, beforeAll, expect, test, vi } from "vitest";
import { Store } from "../store/store.ts";
import { freeTcpPort } from "../testing/free-port.ts";
import { HttpClient } from "../testing/http-client.ts";
import { type ServerProcess, startOneOfSeveral } from "../testing/one-of-several.ts";
import { pushText } from "../testing/push-text.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";

// Two real server processes on one database: what is sent to the one that stands beside is stored by itself. In order:
// each test goes on where the one before ended.

const second = 1000;
const waiting = { timeout: 20 * second, interval: 50 };
const password = "kestrel on the quay";

let db: TestDatabase;
let folder: string;
let leader: ServerProcess;
let other: ServerProcess;
let atLeader: HttpClient;
let sourceId: number;
let token: { readonly id: number; readonly text: string };

const startOne = async (): Promise<ServerProcess> =>
  startOneOfSeveral(db.url, folder, { NUBREL_PORT: String(await freeTcpPort()), NUBREL_GATHER_MS: "3600000" });

async function newToken(): Promise<typeof token> {
  const { body } = await atLeader.ask("POST", "/api/tokens", { name: "lamp", scope: "write", sourceId });
  return { id: body.id, text: body.token };
}

beforeAll(async () => {
  db = await testDatabase({ migrated: false });
  folder = mkdtempSync(join(tmpdir(), "nubrel-taking-"));
  leader = await startOne();
  atLeader = new HttpClient(leader.address);
  await atLeader.ask("POST", "/api/setup", { code: leader.setupCode, name: "Ines", password });
  const source = { kind: "collector", name: "lamp", machine: "lamp", intervalMs: second };
  sourceId = (await atLeader.ask("POST", "/api/sources", source)).body.id;
  token = await newToken();
  other = await startOne();
}, 60 * second);
afterAll(async () => {
  await other?.stop();
  await leader?.stop();
  await db?.drop();
  rmSync(folder, { recursive: true, force: true });
});

const beganMs = Math.floor(Date.now() / second) * second - 600 * second;

interface Answer {
  readonly status: number;
  readonly body: {
    readonly taken?: number;
    readonly leftOut?: object;
    readonly detail?: string;
    readonly gather?: object;
  };
}
async function send(text: string | Buffer<ArrayBuffer>, headers: Record<string, string> = {}): Promise<Answer> {
  const answer = await pushText(other.address, token.text, text, headers);
  return { status: answer.status, body: (await answer.json()) as Answer["body"] };
}
const count = (n: number, value = n) => send(`lamp_count ${value} ${beganMs + n * 10}\n`);

/** With the one that leads standing still: nothing can be handed on. */
async function byItself<T>(work: () => Promise<T>): Promise<T> {
  process.kill(leader.pid as number, "SIGSTOP");
  try {
    return await work();
  } finally {
    process.kill(leader.pid as number, "SIGCONT");
  }
}

async function stored(counter = "lamp_count"): Promise<readonly (readonly [number, number])[]> {
  const store = await Store.open(db.database, { mayWrite: () => false });
  const ids = store.series.ofCounter(counter).map(({ id }) => id);
  const [column] = await store.read(ids, beganMs - 1000 * second, Date.now());
  await store.close();
  return [...(column?.timeMs ?? [])].map((ms, i) => [(ms - beganMs) / 10, column?.value[i] as number]);
}
const source = async () => (await atLeader.ask("GET", `/api/sources/${sourceId}`)).body;

test("what is known is stored while the one that leads stands still, and read there; what is not waits for that one", async () => {
  expect((await count(1)).body.taken).toBe(1); // a series is made for it, by the one that leads
  await vi.waitFor(async () => expect((await byItself(() => count(2))).status).toBe(200), waiting);
  await byItself(async () => {
    expect((await count(3)).body).toMatchObject({ found: 1, taken: 1, leftOut: {}, notes: [] });
    const packed = await promisify(gzip)(`lamp_count 4 ${beganMs + 40}\n`);
    expect((await send(packed, { "content-encoding": "gzip" })).body.taken).toBe(1);
    const isMade = send(`lamp_new 1 ${beganMs}\n`).then(() => "made");
    expect(await Promise.race([isMade, new Promise((resolve) => setTimeout(resolve, 500, "waits"))])).toBe("waits");
    process.kill(leader.pid as number, "SIGCONT");
    expect(await isMade).toBe("made");
  });
  expect(await stored()).toEqual([1, 2, 3, 4].map((n) => [n, n]));
  const { rows } = await db.database.query("select distinct segment / 2::bigint ^ 24 as era from journal");
  expect(rows.length).toBeGreaterThanOrEqual(2);
});

test("the one that leads knows of it: samples, when the source was heard, what it sent, of which version it is", async () => {
  const page = "# HELP lamp_count How often it was lit.\n# TYPE lamp_count gauge\n";
  await byItself(() => send(`${page}lamp_count 5 ${beganMs + 50}\n`, { "user-agent": "nubrel-collector/1.2.3" }));
  const sentMs = Date.now();
  await vi.waitFor(async () => {
    const { heardMs, state, taken, senderVersion, failure } = await source();
    expect([state, taken, senderVersion, failure]).toEqual(["reporting", 1, "1.2.3", null]);
    expect(Math.abs(heardMs - sentMs)).toBeLessThan(5 * second);
  }, waiting);
  const asked = {
    sentences: { a: { counter: "lamp_count", lines: "each" } },
    window: { from: beganMs, to: beganMs + second },
    step: 1,
  };
  await vi.waitFor(async () => {
    const { body } = await atLeader.ask("POST", "/api/readings", asked);
    expect(body.lines[0].values.filter((value: number | null) => value !== null).at(-1)).toBeCloseTo(5, 0);
  }, waiting);
  await vi.waitFor(async () => {
    const { body } = await atLeader.ask("GET", `/api/sources/${sourceId}/raw`);
    expect(body).toMatch(/lamp_count \d/);
  }, waiting);
});

test("what is older, or was written before, goes to the one that leads, and the last written wins", async () => {
  expect((await count(6)).status).toBe(200);
  expect((await count(6, 66)).status).toBe(200);
  const packed = await promisify(gzip)(`lamp_count 33 ${beganMs + 30}\n`); // goes on as it came
  expect((await send(packed, { "content-encoding": "gzip" })).status).toBe(200);
  expect((await count(7)).status).toBe(200);
  expect(await stored()).toEqual([
    ...[1, 2].map((n) => [n, n]),
    [3, 33],
    ...[4, 5].map((n) => [n, n]),
    [6, 66],
    [7, 7],
  ]);
});

test("what cannot be read is refused in the words of the one that leads, and noted with the source", async () => {
  const { status, body } = await send("lamp_count seven\n");
  expect([status, body.detail]).toEqual([422, expect.stringContaining("Nothing of it was taken")]);
  await vi.waitFor(async () => expect((await source()).failure?.kind).toBe("not the format"), waiting);
  await count(8);
  await vi.waitFor(async () => expect((await source()).failure).toBeNull(), waiting);
});

test("a pause holds at once, and a token that is revoked is known no more", async () => {
  const untilMs = Date.now() + 600 * second;
  await atLeader.ask("PUT", `/api/sources/${sourceId}/pause`, { untilMs, why: "" });
  expect((await count(9)).status).toBe(409);
  await atLeader.ask("DELETE", `/api/sources/${sourceId}/pause`);
  expect((await count(10)).status).toBe(200);
  await atLeader.ask("DELETE", `/api/tokens/${token.id}`);
  expect((await count(11)).status).toBe(401);
  token = await newToken();
  expect((await count(12)).status).toBe(200);
  expect((await stored()).map(([n]) => n)).toEqual([1, 2, 3, 4, 5, 6, 7, 8, 10, 12]);
});

async function change(settings: object): Promise<number> {
  const { name, machine, intervalMs, tellsSilence, address, trust, tags, take } = await source();
  const before = { name, machine, intervalMs, tellsSilence, address, trust, tags, take };
  return (await atLeader.ask("PUT", `/api/sources/${sourceId}`, { ...before, ...settings })).status;
}

test("settings that are changed hold for the next page", async () => {
  const take = [{ do: "leave", counter: "lamp_count" }];
  expect(await change({ take })).toBe(200);
  expect((await count(13)).body).toMatchObject({ taken: 0, leftOut: { "left by a rule": 1 } });
  expect(await change({ take: [] })).toBe(200);
  expect((await count(14)).body.taken).toBe(1);
});

test("a collector that sends there hears that it is to gather faster, and hears it no more after that", async () => {
  const recording = { name: "lamp", everySeconds: 1, forSeconds: 20, sentences: [{ counter: "lamp_count" }] };
  expect(await change({ intervalMs: 10 * second })).toBe(200);
  const { body } = await atLeader.ask("POST", "/api/recordings", recording);
  const { status, body: run } = await atLeader.ask("POST", `/api/recordings/${body.id}/runs`, {});
  expect(status).toBe(201);
  let n = 20;
  await vi.waitFor(async () => expect((await count(++n)).body.gather).toMatchObject({ everySeconds: 1 }), waiting);
  expect((await byItself(() => count(++n))).body.gather).toMatchObject({ everySeconds: 1 });
  await atLeader.ask("POST", `/api/recordings/${body.id}/runs/${run.id}/stop`, {});
  await vi.waitFor(async () => expect((await count(++n)).body.gather).toBeUndefined(), waiting);
});

test(
  "killed under load, either of them: nothing acknowledged is missing, and what is sent is taken while none leads",
  async () => {
    const acknowledged: number[] = [];
    let [n, isOver, longestMs, lastMs] = [1000, false, 0, performance.now()];
    const sending = (async () => {
      while (!isOver) {
        const one = ++n;
        const answer = await count(one).catch(() => undefined);
        if (answer?.status !== 200) continue;
        acknowledged.push(one);
        longestMs = Math.max(longestMs, performance.now() - lastMs);
        lastMs = performance.now();
      }
    })();
    await vi.waitFor(() => expect(acknowledged.length).toBeGreaterThan(10), waiting);
    await leader.kill("SIGKILL");
    await vi.waitFor(() => expect(other.said()).toContain("this one does"), waiting);
    const before = acknowledged.length;
    expect(before).toBeGreaterThan(10);
    await vi.waitFor(() => expect(acknowledged.length).toBeGreaterThan(before + 10), waiting);
    leader = other;
    other = await startOne();
    atLeader = new HttpClient(leader.address);
    const both = acknowledged.length;
    await vi.waitFor(() => expect(acknowledged.length).toBeGreaterThan(both + 10), waiting);
    await other.kill("SIGKILL");
    isOver = true;
    await sending;
    const there = new Set((await stored()).map(([at]) => at));
    expect(acknowledged.filter((one) => !there.has(one))).toEqual([]);
    expect(longestMs).toBeLessThan(15 * second);
  },
  90 * second,
);
