import { mkdtempSync, rmSync, symlinkSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { runMigrations } from "graphile-worker";
import pino from "pino";
import { afterAll, beforeAll, expect, test } from "vitest";
import { ensureRoles } from "../../scripts/database-roles.mjs";
import { batchOf } from "../../core/series/batch.ts";
import { startJobs } from "../jobs/jobs.ts";
import { slotMs } from "../store/slots.ts";
import { Store } from "../store/store.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { grantRows } from "./grant-rows.ts";
import { type Database, openDatabase } from "./pool.ts";

const dayMs = 86_400_000;
let db: TestDatabase;
let folder: string;
let owner: Database;
let app: Database;

// As the start command does it, over a database that an earlier version made as the administrator.
beforeAll(async () => {
  db = await testDatabase();
  await runMigrations({ pgPool: db.database });
  folder = mkdtempSync(join(tmpdir(), "nubrel-roles-"));
  const { rows } = await db.database.query<{ data_directory: string }>("show data_directory");
  symlinkSync(rows[0]?.data_directory as string, join(folder, "postgres"));
  const { ownerUrl, appUrl } = await ensureRoles(db.url, folder);
  owner = openDatabase(ownerUrl);
  app = openDatabase(appUrl);
  await runMigrations({ pgPool: owner });
  await grantRows(owner, "nubrel_app");
});
afterAll(async () => {
  await owner.end();
  await app.end();
  await db.drop();
  rmSync(folder, { recursive: true });
});

test("all that was the administrator's is the owner's", async () => {
  const { rows } = await owner.query(
    "select relname from pg_class c join pg_namespace n on n.oid = relnamespace where nspname in ('public', 'graphile_worker') and relkind in ('r', 'p', 'S', 'v', 'i') and relowner <> 'nubrel_owner'::regrole",
  );
  expect(rows).toEqual([]);
  const { rows: routines } = await owner.query(
    "select proname from pg_proc p join pg_namespace n on n.oid = pronamespace where nspname in ('public', 'graphile_worker') and proowner <> 'nubrel_owner'::regrole",
  );
  expect(routines).toEqual([]);
});

test("the server's role gathers, compacts, rolls up, drops and runs jobs", async () => {
  let nowMs = 20_000 * dayMs + 3 * slotMs;
  const store = await Store.open(app, { now: () => nowMs });
  await store.series.resolve([{ counter: "system.uptime", tags: { machine: "m" }, unit: "s", kind: "total" }]);
  await store.write(
    batchOf([
      [1, nowMs - slotMs, 1],
      [1, nowMs, 2],
    ]),
  );
  nowMs += 3 * dayMs;
  await store.maintain();
  expect((await app.query("select from rollup_5m")).rowCount).toBe(1);
  nowMs += 60 * dayMs;
  await store.maintain();
  expect((await app.query("select from chunk")).rowCount).toBe(0);
  let done = false;
  const jobs = await startJobs(app, { maintain: async () => void (done = true) }, pino({ level: "silent" }));
  await jobs.maintainSoon();
  await expect.poll(() => done, { timeout: 10_000 }).toBe(true);
  await jobs.close();
  await store.close();
});

test.each([
  ["copy (select 1) to program 'id'", "must be superuser or have privileges of the pg_execute_server_program role"],
  ["create table x (a int)", "permission denied for schema public"],
  ["drop table chunk", "must be owner of table chunk"],
  ["alter table account add column x int", "must be owner of table account"],
  ["update migration set name = 'x'", "permission denied for table migration"],
  ["create role x superuser", "must be superuser to create superusers"],
  ["select pg_read_file('/etc/passwd')", "permission denied for function pg_read_file"],
  ["select make_partition('account', 1, 1)", "account is no partitioned table"],
  ["select drop_partition('chunk; drop table account', 1)", "is no partitioned table"],
])("it may not: %s", async (statement, refusal) => {
  await expect(app.query(statement)).rejects.toThrow(refusal);
});

test("it adds to who did what and reads it, changes and removes nothing, and has nothing young forgotten", async () => {
  await app.query(
    "insert into audit (who, known_by, place, did, subject, outcome) values ('a', 'nothing', '', 'b', '', 'done')",
  );
  for (const statement of ["update audit set who = 'x'", "delete from audit", "truncate audit", "drop table audit"])
    await expect(app.query(statement), statement).rejects.toThrow(/permission denied|must be owner/);
  const forgotten = async () => {
    await app.query("select forget_audit(now() + interval '1 day')");
    return (await app.query("select from audit")).rowCount === 0;
  };
  expect(await forgotten()).toBe(false);
  await owner.query("update audit set at = now() - interval '31 days'");
  expect(await forgotten()).toBe(true);
});

test("a folder whose database another answers for is not touched", async () => {
  const other = mkdtempSync(join(tmpdir(), "nubrel-roles-"));
  symlinkSync("/", join(other, "postgres"));
  await expect(ensureRoles(db.url, other)).rejects.toThrow(
    /^At 127\.0\.0\.1:\d+ answers the database of .*, not that of \/\. Nothing was touched\.$/,
  );
  rmSync(other, { recursive: true });
});
