import { chmodSync, mkdirSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, expect, test, vi } from "vitest";
import { startCluster } from "../../scripts/cluster.mjs";
import { writableAddress } from "../../scripts/writable-address.mjs";
import type { RunningServer } from "../running-server.ts";
import { HttpClient } from "../testing/http-client.ts";
import { serverOn } from "../testing/owned-server.ts";
import { askCluster, type Cluster, killCluster, startStandby } from "../testing/standby.ts";
import { findWritable, openDatabase } from "./pool.ts";

// PostgreSQL's own streaming replication, with commits that wait for the standby: the primary is killed, the standby
// promoted, and the server goes on there. In order: each test goes on where the one before ended.

const folder = mkdtempSync(join(tmpdir(), "nubrel-fail-over-"));
let primary: Cluster;
let standby: Cluster;
let server: RunningServer;
let owner: HttpClient;
let token: string;
/** What was answered as stored, in the order in which it was sent. */
const acknowledged: number[] = [];

const hostOf = (url: string) => new URL(url).host;
const both = (first: Cluster, second: Cluster) => {
  const url = new URL(first.url);
  return `postgres://${url.username}:${url.password}@${hostOf(first.url)},${hostOf(second.url)}/nubrel`;
};

beforeAll(async () => {
  chmodSync(folder, 0o711);
  mkdirSync(join(folder, "a"), { mode: 0o711 });
  primary = await startCluster(join(folder, "a"), { more: "fsync = off\n" });
  await askCluster(primary.url, "create database nubrel");
  standby = await startStandby(primary, join(folder, "b"));
  server = await serverOn({ url: both(standby, primary) } as never);
  owner = new HttpClient(server.address);
  await owner.ask("POST", "/api/setup", { code: server.setupCode, name: "Ines", password: "kestrel on the quay" });
  const source = { kind: "push", name: "lamp", machine: "lamp", intervalMs: 1000 };
  const { body } = await owner.ask("POST", "/api/sources", source);
  const of = { name: "lamp", scope: "write", sourceId: body.id };
  token = (await owner.ask("POST", "/api/tokens", of)).body.token;
}, 120_000);
afterAll(async () => {
  await server?.close();
  for (const cluster of [primary, standby]) if (cluster?.isRunning()) await cluster.stop("immediate");
  rmSync(folder, { recursive: true, force: true });
});

const epochMs = Math.floor(Date.now() / 1000) * 1000 - 3_600_000;
/** Sends value n at its own time; the answer comes when it is durable. */
async function push(n: number): Promise<void> {
  const answer = await fetch(`${server.address}/api/push/openmetrics`, {
    ...{ method: "POST", body: `lamp_count ${n} ${epochMs + n * 10}\n` },
    headers: { authorization: `Bearer ${token}`, "content-type": "text/plain" },
  });
  if (answer.status === 200) acknowledged.push(n);
}

test("it begins where writes are taken, though the standby is named first", async () => {
  await push(1);
  expect(acknowledged).toEqual([1]);
  const [row] = await askCluster(
    primary.url,
    "select count(*)::int as n from pg_stat_activity where datname = 'nubrel' and application_name = 'nubrel'",
  );
  expect(row?.["n"]).toBeGreaterThan(0);
});

test("a pool that comes upon the standby says so, and goes to the other the next time", async () => {
  const url = `${both(standby, primary)}?application_name=other`;
  const database = openDatabase(url);
  try {
    await expect(database.query("select 1")).rejects.toThrow("is a standby");
    expect((await database.query("select pg_is_in_recovery() as standby")).rows).toEqual([{ standby: false }]);
    await findWritable(`${both(standby, primary)}?application_name=third`);
    expect(await writableAddress(both(standby, primary))).toContain(`@${hostOf(primary.url)}/`);
    await expect(writableAddress(both(standby, standby))).rejects.toThrow(`${hostOf(standby.url)} is a standby`);
  } finally {
    await database.end();
  }
});

test("the primary is killed under load and the standby promoted: it goes on, and nothing acknowledged is missing", async () => {
  let n = 1;
  let isOver = false;
  const sending = (async () => {
    while (!isOver) await push(++n);
  })();
  await vi.waitFor(() => expect(acknowledged.length).toBeGreaterThan(5), { timeout: 20_000 });
  await killCluster(primary);
  const before = acknowledged.length;
  await askCluster(standby.url, "alter system reset synchronous_standby_names");
  await askCluster(standby.url, "select pg_promote()");
  await vi.waitFor(() => expect(acknowledged.length).toBeGreaterThan(before + 5), { timeout: 60_000, interval: 200 });
  isOver = true;
  await sending;
  const [series] = server.store.series.all().filter(({ counter }) => counter === "lamp_count");
  const stored = async () => {
    await server.store.flush();
    const [column] = await server.store.read([(series as { id: number }).id], epochMs, Date.now() + 1000);
    return [...(column?.value ?? [])];
  };
  const values = await stored();
  expect(acknowledged.filter((one) => !values.includes(one))).toEqual([]);
  expect(new Set(values).size).toBe(values.length);
  // As the new primary has it, read by another server: nothing of it stood in memory alone.
  await server.close();
  server = await serverOn({ url: both(primary, standby) } as never);
  expect(await stored()).toEqual(values);
}, 120_000);

test("everything else goes on there: who is signed in, what is made, rules", async () => {
  owner = Object.assign(new HttpClient(server.address), { cookie: owner.cookie });
  const source = { kind: "push", name: "bell", machine: "bell", intervalMs: 1000 };
  expect((await owner.ask("POST", "/api/sources", source)).status).toBe(201);
  expect((await owner.ask("GET", "/api/health")).body).toMatchObject({ database: "ok" });
});
