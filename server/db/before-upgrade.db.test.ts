import { cpSync, existsSync, mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { readDump } from "../../scripts/backup-file.mjs";
import { withPasswordFile } from "../../scripts/backups.mjs";
import { beforeUpgrade } from "../../scripts/before-upgrade.mjs";
import { findPostgres } from "../../scripts/debian-packages.mjs";
import { projectRoot } from "../project-root.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { migrate, standingOf } from "./migrate.ts";

let db: TestDatabase;
let folder: string;
/** This version's migrations, and one that the database lacks. */
let newer: string;
const bin = findPostgres() as string;
const before = () => join(folder, "before-upgrade");
const taken = () => (existsSync(before()) ? readdirSync(before()).sort() : []);
const upgrade = async (env: Readonly<Record<string, string>> = {}, ask?: () => Promise<string>) =>
  beforeUpgrade(await standingOf(db.database, newer), { folder, url: db.url, bin, env, ask });

beforeEach(async () => {
  db = await testDatabase();
  folder = mkdtempSync(join(tmpdir(), "nubrel-upgrade-"));
  newer = join(folder, "migrations");
  cpSync(join(projectRoot, "server/db/migrations"), newer, { recursive: true });
  writeFileSync(join(newer, `${String(readdirSync(newer).length + 1).padStart(6, "0")}_more_words.sql`), "select 1");
  mkdirSync(join(folder, "own"));
  vi.spyOn(process.stdout, "write").mockReturnValue(true);
});
afterEach(async () => {
  vi.restoreAllMocks();
  rmSync(folder, { recursive: true, force: true });
  await db.drop();
});

test("what will change is said, and a backup taken first that can be restored", async () => {
  await db.database.query("insert into account (name, password_hash, role) values ('Ines', 'x', 'owner')");
  await upgrade();
  const said = vi.mocked(process.stdout.write).mock.calls.join("");
  expect(said).toMatch(/changes the database, in one step/);
  expect(said).toMatch(/\d{6} {2}more words/);
  const [name, ...others] = taken();
  expect(others).toEqual([]);
  const other = await testDatabase({ migrated: false });
  await withPasswordFile(other.url, (bare: string, env: NodeJS.ProcessEnv) =>
    readDump(join(before(), name as string), join(bin, "pg_restore"), ["--no-owner", `--dbname=${bare}`], env),
  );
  expect((await other.database.query("select name from account")).rows).toEqual([{ name: "Ines" }]);
  await other.drop();
});

test("nothing is said or taken where nothing changes, or nothing is there yet", async () => {
  await beforeUpgrade(await standingOf(db.database), { folder, url: db.url, bin, env: {}, ask: undefined });
  const empty = await testDatabase({ migrated: false });
  const standing = await standingOf(empty.database, newer);
  expect(standing.at).toBe(0);
  await beforeUpgrade(standing, { folder, url: empty.url, bin, env: {}, ask: undefined });
  expect((await empty.database.query("select to_regclass('migration') as there")).rows).toEqual([{ there: null }]);
  await empty.drop();
  expect(taken()).toEqual([]);
  expect(process.stdout.write).not.toHaveBeenCalled();
});

test("a person at a terminal is asked once", async () => {
  const ask = vi.fn(async () => "n");
  await upgrade({}, ask);
  await upgrade({}, ask);
  expect(ask).toHaveBeenCalledTimes(1);
  expect(taken()).toEqual([]);
  await upgrade({ NUBREL_BACKUP_BEFORE_UPGRADE: "yes" }, ask);
  expect(taken()).toHaveLength(1);
});

test("the setting says no, or another folder; what is no path is told, and the newest two stay", async () => {
  await upgrade({ NUBREL_BACKUP_BEFORE_UPGRADE: "no" });
  expect(taken()).toEqual([]);
  await expect(upgrade({ NUBREL_BACKUP_BEFORE_UPGRADE: "b" })).rejects.toThrow("must be yes, no, or the whole path");
  const to = join(folder, "other disk");
  mkdirSync(to);
  for (const at of ["2026-01-01T00-00-00", "2026-02-01T00-00-00"])
    writeFileSync(join(to, `before-000002-${at}.backup`), "");
  writeFileSync(join(to, "mine.backup"), "");
  await upgrade({ NUBREL_BACKUP_BEFORE_UPGRADE: to });
  const names = readdirSync(to).sort();
  expect(names).toHaveLength(3);
  expect(names).toContain("before-000002-2026-02-01T00-00-00.backup");
  expect(names).toContain("mine.backup");
});

test("where it cannot be taken, that is told and nothing changes", async () => {
  writeFileSync(join(folder, "file"), "");
  await expect(upgrade({ NUBREL_BACKUP_BEFORE_UPGRADE: join(folder, "file/in it") })).rejects.toThrow();
  await expect(
    beforeUpgrade(await standingOf(db.database, newer), {
      folder,
      url: db.url,
      bin: undefined,
      env: {},
      ask: undefined,
    }),
  ).rejects.toThrow("postgresql-client");
});

// PostgreSQL 15 documentation, 13.3.5: a lock of one transaction is held to its end; its tables' changes as well.
test("of several steps one that fails takes back those before it: the version before finds what it left", async () => {
  const standing = await standingOf(db.database);
  const next = String(readdirSync(newer).length + 1).padStart(6, "0");
  writeFileSync(join(newer, `${next}_wrong.sql`), "insert into nowhere values (1)");
  await expect(migrate(db.database, newer)).rejects.toThrow('relation "nowhere" does not exist');
  expect(await standingOf(db.database)).toEqual(standing);
});
