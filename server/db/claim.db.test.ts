import { execFile } from "node:child_process";
import { hostname } from "node:os";
import { join } from "node:path";
import { promisify } from "node:util";
import pino from "pino";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { batchOf } from "../../core/series/batch.ts";
import { readConfig } from "../config.ts";
import { projectRoot } from "../project-root.ts";
import { startServer } from "../compose.ts";
import { Store } from "../store/store.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { claimDatabase, lockNumber, TakenError } from "./claim.ts";
import { openConnection } from "./pool.ts";

let db: TestDatabase;
beforeEach(async () => {
  db = await testDatabase();
});
afterEach(() => db.drop());

const config = () => readConfig({ NUBREL_DATABASE_URL: db.url, NUBREL_PORT: "0", NUBREL_GATHER_MS: "1000" });
const silent = { log: pino({ level: "silent" }) };

test("a second server on one database is refused with a sentence that names the first, and takes nothing of it", async () => {
  const first = await startServer(config(), silent);
  try {
    await expect(startServer(config(), silent)).rejects.toThrow(
      new RegExp(`^Another Nubrel works on this database: process ${process.pid} on ${hostname()}, since 20\\d\\d-`),
    );
    await first.store.write(batchOf([[1, Date.now(), 7]]));
    expect(first.store.health.failure).toBeUndefined();
  } finally {
    await first.close();
  }
  await (await startServer(config(), silent)).close(); // what ended holds nothing
});

test("nothing is written while the database may be another's; what waited is stored when it is known to be ours", async () => {
  let mine = false;
  const store = await Store.open(db.database, { mayWrite: () => mine });
  const written = store.write(batchOf([[1, Date.now(), 7]]));
  await vi.waitFor(() => expect(store.health.failure?.message).toContain("the connection that holds the database"));
  expect((await db.database.query("select from journal")).rowCount).toBe(0);
  mine = true;
  await written;
  expect((await db.database.query("select from journal")).rowCount).toBe(1);
  await store.close();
});

test("a lock whose connection breaks is taken again", async () => {
  const claim = await claimDatabase(db.url, () => {});
  await claim.note();
  const holders =
    "select pid from pg_locks where locktype = 'advisory' and database = (select oid from pg_database where datname = current_database())";
  const before = (await db.database.query<{ pid: number }>(holders)).rows;
  await db.database.query(`select pg_terminate_backend(pid) from (${holders}) as holder`);
  await vi.waitFor(
    async () => {
      const now = (await db.database.query<{ pid: number }>(holders)).rows;
      expect(now).toHaveLength(1);
      expect(now).not.toEqual(before);
    },
    { timeout: 5000 },
  );
  expect(claim.held).toBe(true);
  await claim.release();
});

test("a server that lost its lock to another says so and does not write any more", async () => {
  const lost = vi.fn();
  const first = await claimDatabase(db.url, lost);
  await first.note();
  // Another waits for the lock, and so has it the moment the first's connection breaks.
  const rival = await openConnection(db.url, () => {});
  const got = rival.query("select pg_advisory_lock($1::bigint)", [lockNumber]);
  await vi.waitFor(async () =>
    expect((await db.database.query("select from pg_locks where locktype = 'advisory' and not granted")).rowCount).toBe(
      1,
    ),
  );
  await db.database.query(
    "select pg_terminate_backend(pid) from pg_locks where locktype = 'advisory' and granted and database = (select oid from pg_database where datname = current_database())",
  );
  await got;
  await rival.query("update serving set instance = gen_random_uuid(), host = 'quay', pid = 1");
  await vi.waitFor(() => expect(lost).toHaveBeenCalledWith(expect.any(TakenError)), { timeout: 5000 });
  expect(lost.mock.calls[0]?.[0]).toMatchObject({ message: expect.stringContaining("process 1 on quay") });
  expect(first.held).toBe(false);
  await first.release();
  await rival.end();
});

test("`nubrel remove` leaves nothing of Nubrel's in a database that is another's, and what is another's there", async () => {
  await db.database.query("create table theirs (a int)");
  await promisify(execFile)(
    process.execPath,
    [join(projectRoot, "dist/server/command.js"), JSON.stringify({ command: "remove" })],
    { env: { NUBREL_DATABASE_URL: db.url } },
  );
  const { rows } = await db.database.query(
    "select relname from pg_class where relnamespace = 'public'::regnamespace and relkind in ('r', 'p', 'S')",
  );
  expect(rows).toEqual([{ relname: "theirs" }]);
});
