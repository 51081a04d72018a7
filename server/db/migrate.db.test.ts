import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { migrate, NewerDataError } from "./migrate.ts";
import { inTransaction } from "./pool.ts";

let db: TestDatabase;
let folder: string;
beforeEach(async () => {
  db = await testDatabase({ migrated: false });
  folder = mkdtempSync(join(tmpdir(), "nubrel-migrations-"));
});
afterEach(async () => {
  rmSync(folder, { recursive: true });
  await db.drop();
});

const put = (name: string, sql: string) => writeFileSync(join(folder, name), sql);
const applied = async () =>
  (await db.database.query<{ name: string }>("select name from migration order by number")).rows.map(
    ({ name }) => name,
  );

test("each is applied once, in order, also when two processes start at once", async () => {
  put("000001_one.sql", "create table one (x int); insert into one values (1)");
  await Promise.all([migrate(db.database, folder), migrate(db.database, folder)]);
  put("000002_two.sql", "insert into one values (2)");
  await migrate(db.database, folder);
  await migrate(db.database, folder);
  expect(await applied()).toEqual(["000001_one.sql", "000002_two.sql"]);
  expect((await db.database.query("select x from one order by x")).rows).toEqual([{ x: 1 }, { x: 2 }]);
});

test("one that fails leaves nothing half-done", async () => {
  put("000001_one.sql", "create table one (x int); insert into nowhere values (1)");
  await expect(migrate(db.database, folder)).rejects.toThrow('relation "nowhere" does not exist');
  expect(await applied()).toEqual([]);
  expect((await db.database.query("select to_regclass('one') as there")).rows).toEqual([{ there: null }]);
});

test("a gap in the numbers is refused before anything is applied", async () => {
  put("000001_one.sql", "create table one (x int)");
  put("000003_three.sql", "create table three (x int)");
  await expect(migrate(db.database, folder)).rejects.toThrow(
    "migration 000003_three.sql is out of order: number 2 was expected",
  );
});

test("a database that a newer version made is refused and not touched", async () => {
  await migrate(db.database);
  const older = join(folder, "older");
  mkdirSync(older);
  writeFileSync(join(older, "000001_one.sql"), "drop table account");
  await expect(migrate(db.database, older)).rejects.toThrow(NewerDataError);
  await expect(migrate(db.database, older)).rejects.toThrow(/The database is at version \d+, this program knows 1/);
});

test("a transaction that throws is rolled back, and its connection is of use again", async () => {
  await db.database.query("create table one (x int)");
  const failing = inTransaction(db.database, async (connection) => {
    await connection.query("insert into one values (1)");
    throw new Error("no");
  });
  await expect(failing).rejects.toThrow("no");
  expect(
    await inTransaction(db.database, async (connection) => (await connection.query("select * from one")).rowCount),
  ).toBe(0);
});
