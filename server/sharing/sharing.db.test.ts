import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, expect, test, vi } from "vitest";
import { Store } from "../store/store.ts";
import { freeTcpPort } from "../testing/free-port.ts";
import { HttpClient } from "../testing/http-client.ts";
import { type ServerProcess, startOneOfSeveral } from "../testing/one-of-several.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";

// Three real server processes on one database, served below a path, ask nine pages that count how often they are asked,
// and by when. In order: each test goes on where the one before ended.

const second = 1000;
const waiting = { timeout: 20 * second, interval: 100 };
const password = "kestrel on the quay";

/** A page that counts, and notes when it was asked, by whom. */
interface CountingPage {
  readonly server: Server;
  readonly port: number;
  readonly askedMs: number[];
  authorization: string | undefined;
  status: number;
}

async function countingPage(): Promise<CountingPage> {
  const askedMs: number[] = [];
  const server = createServer((request, response) => {
    askedMs.push(Date.now());
    page.authorization = request.headers.authorization;
    response.statusCode = page.status;
    response.setHeader("content-type", "text/plain; version=0.0.4");
    response.end(`# TYPE visits gauge\nvisits ${askedMs.length}\n`);
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  const page: CountingPage = {
    ...{ server, askedMs, authorization: undefined, status: 200 },
    port: (server.address() as AddressInfo).port,
  };
  return page;
}

let db: TestDatabase;
let folder: string;
let ports: readonly number[];
let pages: CountingPage[];
let ids: number[];
const processes: ServerProcess[] = [];
let owner: HttpClient;

const startOne = (which: number): Promise<ServerProcess> =>
  startOneOfSeveral(db.url, folder, {
    NUBREL_BASE_PATH: "/quay",
    NUBREL_PORT: String(ports[which]),
    NUBREL_GATHER_MS: "60000",
  });
const at = (which: number): ServerProcess => processes[which] as ServerProcess;
const page = (which: number): CountingPage => pages[which] as CountingPage;

const settingsOf = (which: number, port = page(which).port) => ({
  ...{ kind: "pull", name: `page ${which}`, machine: `page ${which}`, intervalMs: second },
  address: { scheme: "http", host: "127.0.0.1", port, path: "/" },
});

beforeAll(async () => {
  db = await testDatabase();
  folder = mkdtempSync(join(tmpdir(), "nubrel-sharing-"));
  ports = [await freeTcpPort(), await freeTcpPort(), await freeTcpPort()];
  pages = await Promise.all(Array.from({ length: 9 }, countingPage));
  processes[0] = await startOne(0);
  owner = new HttpClient(at(0).address);
  await owner.ask("POST", "/api/setup", { code: at(0).setupCode, name: "Ines", password });
  ids = [];
  for (let which = 0; which < pages.length; which++) {
    const { status, body } = await owner.ask("POST", "/api/sources", settingsOf(which));
    expect(status).toBe(201);
    ids.push(body.id);
  }
  processes[1] = await startOne(1);
  processes[2] = await startOne(2);
}, 60 * second);
afterAll(async () => {
  for (const one of processes) await one?.stop();
  for (const { server } of pages ?? []) server.close();
  await db?.drop();
  rmSync(folder, { recursive: true, force: true });
});

/** How many sources each server that stands beside asks, by its address. */
async function shares(): Promise<ReadonlyMap<string, number>> {
  const { servers } = (await owner.ask("GET", "/api/condition")).body as {
    servers: readonly { address: string; asks: number | null; leads: boolean }[];
  };
  return new Map(servers.filter(({ leads }) => !leads).map(({ address, asks }) => [address, asks ?? 0]));
}

/** Which pages a server asks. */
async function pagesOf(which: number): Promise<readonly number[]> {
  const { rows } = await db.database.query<{ id: number }>(
    `select source_id as id from source_lease
     where server = (select instance from beside where pid = $1::int order by heard desc limit 1) order by 1`,
    [at(which).pid],
  );
  return rows.map(({ id }) => ids.indexOf(id));
}

/** What was stored of a page, by a store of its own, and when it was asked. */
async function storedOf(which: number): Promise<readonly number[]> {
  const store = await Store.open(db.database, { mayWrite: () => false });
  const its = store.series.ofCounter("visits").filter(({ sourceId }) => sourceId === ids[which]);
  const [column] = await store.read(
    its.map(({ id }) => id),
    0,
    Date.now() + second,
  );
  await store.close();
  return [...(column?.value ?? [])];
}

/** Whether a page was asked more often since a moment than one that asks once a second does. */
const isAskedTwice = (which: number, fromMs: number): boolean =>
  since(which, fromMs).length > (Date.now() - fromMs) / second + 2;
const mostGap = (times: readonly number[]): number =>
  times.slice(1).reduce((most, ms, i) => Math.max(most, ms - (times[i] as number)), 0);
const since = (which: number, ms: number): readonly number[] => page(which).askedMs.filter((one) => one >= ms);
const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

test("three servers ask a third each; every page goes on being asked once a second, and all of it is stored", async () => {
  const beganMs = Date.now();
  await vi.waitFor(async () => expect([...(await shares()).values()]).toEqual([3, 3]), waiting);
  await pause(3 * second);
  for (let which = 0; which < 9; which++) {
    const times = since(which, beganMs);
    expect([which, isAskedTwice(which, beganMs)]).toEqual([which, false]);
    expect([which, mostGap(times) < 4 * second]).toEqual([which, true]);
  }
  for (const which of [...(await pagesOf(1)), ...(await pagesOf(2))]) {
    const asked = page(which).askedMs.length;
    await vi.waitFor(async () => {
      const stored = await storedOf(which);
      expect(stored).toEqual(Array.from({ length: Math.max(asked, stored.length) }, (_, i) => i + 1));
    }, waiting);
  }
}, 60_000);

test("what they ask they store themselves, while the one that leads stands still, and that one knows of it when it goes on", async () => {
  const [which] = (await pagesOf(1)) as [number];
  const there = async () => (await owner.ask("GET", `/api/sources/${ids[which]}`)).body;
  expect(await there()).toMatchObject({ state: "reporting", failure: null });
  process.kill(at(0).pid as number, "SIGSTOP");
  try {
    const visits = page(which).askedMs.length;
    await vi.waitFor(async () => expect((await storedOf(which)).at(-1)).toBeGreaterThan(visits + 2), waiting);
  } finally {
    process.kill(at(0).pid as number, "SIGCONT");
  }
  const fromMs = Date.now();
  await vi.waitFor(async () => {
    const { heardMs, taken, tookMs, failure, hasRaw } = await there();
    expect(heardMs).toBeGreaterThan(fromMs - second);
    expect([taken, tookMs > 0, failure, hasRaw]).toEqual([1, true, null, true]);
  }, waiting);
}, 60_000);

test("what is changed, paused or wanted with a password is asked so where it is asked", async () => {
  const [moved, paused, known] = (await pagesOf(1)) as [number, number, number];
  const other = await countingPage();
  try {
    const change = (which: number, more: object) => {
      const { kind: _, ...settings } = settingsOf(which);
      return owner.ask("PUT", `/api/sources/${ids[which]}`, { ...settings, ...more });
    };
    expect((await change(moved, { address: settingsOf(moved, other.port).address })).status).toBe(200);
    const credentials = { kind: "basic", user: "quay", password: "a lamp" };
    expect((await change(known, { credentials })).status).toBe(200);
    const until = Date.now() + 3_600_000;
    expect((await owner.ask("PUT", `/api/sources/${ids[paused]}/pause`, { untilMs: until, why: "" })).status).toBe(200);
    await vi.waitFor(() => {
      expect(other.askedMs.length).toBeGreaterThan(1);
      expect(page(known).authorization).toBe(`Basic ${Buffer.from("quay:a lamp").toString("base64")}`);
    }, waiting);
    await pause(second);
    const fromMs = Date.now();
    await pause(2.5 * second);
    expect([since(moved, fromMs), since(paused, fromMs)]).toEqual([[], []]);
    expect((await owner.ask("DELETE", `/api/sources/${ids[paused]}/pause`)).status).toBe(200);
    expect((await change(moved, {})).status).toBe(200);
    await vi.waitFor(() => {
      expect(since(moved, fromMs).length).toBeGreaterThan(0);
      expect(since(paused, fromMs).length).toBeGreaterThan(0);
    }, waiting);
  } finally {
    other.server.close();
  }
}, 60_000);

test("nobody else hands in what was gathered, at whichever server", async () => {
  const line = { seq: 1, source: ids[0], atMs: Date.now(), tookMs: 1, kind: "page", dialect: "text" };
  const body = JSON.stringify({
    ...line,
    contentType: "text/plain",
    bytes: Buffer.from("visits 1e6\n").toString("base64"),
  });
  for (const { address } of processes) {
    const answer = await fetch(`${address}/api/beside/records`, {
      ...{ method: "POST", body, headers: { "nubrel-handed-own": "yes", "nubrel-handed-on": "guessed" } },
    });
    expect([address, answer.status]).toEqual([address, 403]);
  }
  expect(await storedOf(0)).not.toContain(1e6);
});

test("one that stands still loses its sources within 10 s, and asks none of them when it goes on", async () => {
  const its = await pagesOf(2);
  expect(its).toHaveLength(3);
  const stoppedMs = Date.now();
  process.kill(at(2).pid as number, "SIGSTOP");
  try {
    await vi.waitFor(() => {
      for (const which of its) expect(since(which, stoppedMs + 2 * second).length).toBeGreaterThan(1);
    }, waiting);
    // Two seconds are for what else runs on two cores meanwhile.
    for (const which of its) expect(mostGap(page(which).askedMs)).toBeLessThan(12 * second);
  } finally {
    process.kill(at(2).pid as number, "SIGCONT");
  }
  const wentOnMs = Date.now();
  await vi.waitFor(async () => expect(await pagesOf(2)).toHaveLength(3), waiting);
  for (const which of its) {
    const atOnce = since(which, wentOnMs).filter((ms) => ms < wentOnMs + 0.8 * second);
    expect([which, atOnce.length <= 1, isAskedTwice(which, wentOnMs)]).toEqual([which, true, false]);
  }
}, 60_000);

test("what fails from there is asked by the one that leads, and stays there", async () => {
  const [which] = (await pagesOf(2)) as [number];
  page(which).status = 500;
  await vi.waitFor(async () => expect(await pagesOf(2)).not.toContain(which), waiting);
  page(which).status = 200;
  const fromMs = Date.now();
  await vi.waitFor(() => expect(since(which, fromMs).length).toBeGreaterThan(2), waiting);
  expect(await pagesOf(2)).not.toContain(which);
}, 60_000);

test("the one that leads is killed: another does, and what the third asks goes on without a gap", async () => {
  const [ofOne, ofTwo] = [await pagesOf(1), await pagesOf(2)];
  const killedMs = Date.now();
  await at(0).kill("SIGKILL");
  await vi.waitFor(() => expect(at(1).said() + at(2).said()).toContain("this one does"), waiting);
  const isOne = at(1).said().includes("this one does");
  owner = new HttpClient((isOne ? at(1) : at(2)).address);
  await vi.waitFor(async () => {
    expect((await owner.ask("POST", "/api/session", { name: "Ines", password })).status).toBe(200);
  }, waiting);
  await vi.waitFor(() => {
    for (let which = 0; which < 9; which++) expect(since(which, killedMs + second).length).toBeGreaterThan(1);
  }, waiting);
  for (let which = 0; which < 9; which++) {
    expect([which, mostGap(since(which, killedMs - 2 * second)) < 15 * second]).toEqual([which, true]);
    expect([which, isAskedTwice(which, killedMs - 2 * second)]).toEqual([which, false]);
  }
  for (const which of isOne ? ofTwo : ofOne) {
    expect([which, mostGap(since(which, killedMs - 2 * second)) < 4 * second]).toEqual([which, true]);
    const fromVisit = page(which).askedMs.findIndex((ms) => ms >= killedMs - 2 * second) + 1;
    const toVisit = page(which).askedMs.length;
    await vi.waitFor(async () => {
      const stored = (await storedOf(which)).filter((visit) => visit >= fromVisit && visit <= toVisit);
      expect(stored).toEqual(Array.from({ length: toVisit - fromVisit + 1 }, (_, i) => fromVisit + i));
    }, waiting);
  }
  // Two are left: half of what can be shared is asked by each.
  await vi.waitFor(async () => expect([...(await shares()).values()]).toEqual([4]), waiting);
}, 60_000);
