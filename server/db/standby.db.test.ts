import { chmodSync, mkdirSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, expect, test, vi } from "vitest";
import { startCluster } from "../../scripts/cluster.mjs";
import { slotMs } from "../store/slots.ts";
import { Store } from "../store/store.ts";
import { expectedOf, knownBatch, makeKnownSeries, nowAt, startMs, storedIn } from "../testing/known-samples.ts";
import { askCluster, type Cluster, killCluster, startStandby } from "../testing/standby.ts";
import { WorkerPool } from "../work/worker-pool.ts";
import { migrate } from "./migrate.ts";
import { type Database, openDatabase } from "./pool.ts";
import { Standby } from "./standby.ts";

// PostgreSQL's own streaming replication. In order: each test goes on where the one before ended.

const folder = mkdtempSync(join(tmpdir(), "nubrel-standby-"));
const waiting = { timeout: 15_000, interval: 100 };
let primary: Cluster;
let cluster: Cluster;
let database: Database;
let standby: Standby;
let store: Store;
let k = 0;

const urlOf = ({ url }: Cluster) => Object.assign(new URL(url), { pathname: "/nubrel" }).href;
/** How many transactions the standby's database has had. */
const askedThere = async () =>
  Number(
    (await askCluster(cluster.url, "select xact_commit from pg_stat_database where datname = 'nubrel'"))[0]?.[
      "xact_commit"
    ],
  );
const isRight = async () => expect(await storedIn(store, startMs, nowAt(k))).toEqual(expectedOf(k));
const isReadThere = (yes: boolean) =>
  vi.waitFor(async () => {
    const before = await askedThere();
    for (let i = 0; i < 20; i++) await isRight();
    // It looks how far it is itself, once a second.
    await vi.waitFor(async () => expect((await askedThere()) - before >= 15).toBe(yes), { timeout: yes ? 3000 : 100 });
  }, waiting);

async function write(until: number): Promise<void> {
  for (; k < until; k++) {
    const written = store.write(knownBatch(k));
    await store.flush();
    await written;
  }
}

beforeAll(async () => {
  chmodSync(folder, 0o711);
  mkdirSync(join(folder, "a"), { mode: 0o711 });
  primary = await startCluster(join(folder, "a"), { more: "fsync = off\n" });
  await askCluster(primary.url, "create database nubrel");
  cluster = await startStandby(primary, join(folder, "b"));
  // What is read from it may be behind: commits do not wait.
  await askCluster(primary.url, "alter system set synchronous_standby_names = ''");
  await askCluster(primary.url, "select pg_reload_conf()");
  database = openDatabase(urlOf(primary));
  await migrate(database);
  standby = new Standby(database, urlOf(cluster));
  standby.start();
  const executor = new WorkerPool(urlOf(primary), 1, { standby });
  store = await Store.open(database, { now: () => nowAt(k), executor, moved: () => standby.moved() });
  await makeKnownSeries(store);
}, 120_000);
afterAll(async () => {
  await store?.close();
  await standby?.close();
  await database?.end();
  for (const one of [cluster, primary]) if (one?.isRunning()) await one.stop("immediate");
  rmSync(folder, { recursive: true, force: true });
});

test("large readings are taken from it once it has what they need", async () => {
  await write(60);
  await store.compact(nowAt(k) + 2 * slotMs);
  await vi.waitFor(() => expect(standby.view).toMatchObject({ isUsed: true, failure: null }), waiting);
  await isReadThere(true);
  expect(standby.view.behindMs).toBeLessThan(5000);
}, 60_000);

test("while it lacks what was moved, the database itself is read, and how far it is behind is told", async () => {
  await askCluster(cluster.url, "select pg_wal_replay_pause()");
  await write(90);
  await store.compact(nowAt(k) + 2 * slotMs);
  expect(standby.isUsable).toBe(false);
  await isRight();
  await vi.waitFor(() => expect(standby.view.behindMs).toBeGreaterThan(2000), waiting);
  expect(standby.view).toMatchObject({ isUsed: false, failure: null });
  expect(standby.view.behindBytes).toBeGreaterThan(10_000);
  await isReadThere(false);
  await askCluster(cluster.url, "select pg_wal_replay_resume()");
  await vi.waitFor(() => expect(standby.isUsable).toBe(true), waiting);
  await isReadThere(true);
}, 60_000);

test("killed in the middle it is told as away, and no reading fails", async () => {
  await killCluster(cluster);
  await isRight(); // not known yet: what cannot be read there is read here
  await vi.waitFor(
    () => expect(standby.view).toMatchObject({ isUsed: false, failure: expect.stringMatching(/\w/) }),
    waiting,
  );
  await isRight();
}, 60_000);

test("what takes writes of its own is no standby, and is not read", async () => {
  const other = new Standby(database, urlOf(primary));
  other.start();
  try {
    await vi.waitFor(() => expect(other.view.failure).toContain("takes writes of its own"), waiting);
    expect(other.isUsable).toBe(false);
  } finally {
    await other.close();
  }
});
