import {
  chmodSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from "node:fs";
import { tmpdir } from "node:os";
import { isAbsolute, join } from "node:path";
import { setTimeout as delay } from "node:timers/promises";
import { readDump, writeBackup } from "./backup-file.mjs";
import { plainEnvironment } from "./cluster.mjs";
import { Told } from "./told.mjs";

const hourMs = 3_600_000;
const lookEveryMs = 10_000;
const firstLookMs = 5000;
/** Files that are taken by the clock; others in the folder are nobody's business here. */
const ours = /^nubrel-\d{4}-\d\d-\d\dT\d\d-\d\d\.backup$/;

/**
 * What is said of backups by the clock, out of the environment; undefined where none are wanted. Throws Told where it
 * cannot be understood.
 */
export function backupSettings(env) {
  const folder = env.NUBREL_BACKUP_TO;
  if (!folder) return undefined;
  if (!isAbsolute(folder))
    throw new Told(`NUBREL_BACKUP_TO=${folder} must be a whole path, as /srv/backups/nubrel is.`);
  const at = env.NUBREL_BACKUP_AT || "03:30";
  const clock = /^([01]\d|2[0-3]):([0-5]\d)$/.exec(at);
  if (!clock) throw new Told(`NUBREL_BACKUP_AT=${at} is no clock time. Write it as 03:30.`);
  const keep = Number(env.NUBREL_BACKUP_KEEP || 7);
  if (!Number.isInteger(keep) || keep < 1 || keep > 1000)
    throw new Told(`NUBREL_BACKUP_KEEP=${env.NUBREL_BACKUP_KEEP} must be a whole number from 1 to 1000.`);
  return { folder, hour: Number(clock[1]), minute: Number(clock[2]), keep };
}

/** When a backup is due next: at the clock time after the last one, at once where there is none, an hour after a failure. */
export function nextBackupMs({ hour, minute }, lastMs, failedMs) {
  const due = lastMs === undefined ? 0 : afterAt(lastMs, hour, minute);
  return failedMs === undefined ? due : Math.max(due, failedMs + hourMs);
}

/** The first moment after `ms` at which this machine's clock shows that time; a day whose clock skips it has it later. */
function afterAt(ms, hour, minute) {
  const at = new Date(ms);
  at.setHours(hour, minute, 0, 0);
  if (at.getTime() <= ms) {
    at.setDate(at.getDate() + 1);
    at.setHours(hour, minute, 0, 0);
  }
  return at.getTime();
}

/** The backups in a folder, the newest first. */
export function backupsIn(folder) {
  if (!existsSync(folder)) return [];
  return readdirSync(folder)
    .filter((name) => ours.test(name))
    .map((name) => ({ name, atMs: statSync(join(folder, name)).mtimeMs, bytes: statSync(join(folder, name)).size }))
    .sort((a, b) => b.atMs - a.atMs);
}

/**
 * Takes a backup whenever one is due, checks it, and keeps so many of them. `tell` hears how they stand, at first and
 * after each. Answers a function that ends it.
 * @param {ReturnType<typeof backupSettings>} settings
 * @param {(file: string) => Promise<void>} take writes one, checked; throws what went wrong
 * @param {(told: { folder: string, lastAtMs: number | null, bytes: number | null, kept: number, nextAtMs: number,
 * problem: string | null }) => void} tell
 */
export function keepBackups(settings, take, tell, { nowMs = Date.now, everyMs = lookEveryMs } = {}) {
  const ending = new AbortController();
  let failedMs;
  let problem = null;
  const state = () => {
    const [last, ...others] = backupsIn(settings.folder);
    return {
      folder: settings.folder,
      lastAtMs: last?.atMs ?? null,
      bytes: last?.bytes ?? null,
      kept: others.length + (last ? 1 : 0),
      nextAtMs: Math.max(nowMs(), nextBackupMs(settings, last?.atMs, failedMs)),
      problem,
    };
  };
  const watch = async () => {
    tell(state());
    for (let pauseMs = Math.min(firstLookMs, everyMs); ; pauseMs = everyMs) {
      await delay(pauseMs, undefined, { signal: ending.signal });
      if (nowMs() < nextBackupMs(settings, backupsIn(settings.folder)[0]?.atMs, failedMs)) continue;
      try {
        mkdirSync(settings.folder, { recursive: true, mode: 0o700 });
        forgetBegun(settings.folder);
        await take(join(settings.folder, nameAt(nowMs())));
        for (const { name } of backupsIn(settings.folder).slice(settings.keep)) rmSync(join(settings.folder, name));
        failedMs = undefined;
        problem = null;
      } catch (error) {
        failedMs = nowMs();
        problem = wordsOf(error, settings.folder);
      }
      tell(state());
    }
  };
  const ended = watch().catch((error) => {
    if (error.name !== "AbortError") throw error;
  });
  return async () => {
    ending.abort();
    await ended;
  };
}

/** What was begun when the machine or the start command was killed is no backup. */
function forgetBegun(folder) {
  for (const name of readdirSync(folder))
    if (name.endsWith(".part") && ours.test(name.slice(0, -".part".length))) rmSync(join(folder, name));
}

const nameAt = (ms) => {
  const local = new Date(ms - new Date(ms).getTimezoneOffset() * 60_000).toISOString();
  return `nubrel-${local.slice(0, 16).replace(":", "-")}.backup`;
};

function wordsOf(error, folder) {
  if (error.code === "ENOSPC" || error.code === "EDQUOT") return `the disk that holds ${folder} is full`;
  if (error.code === "EACCES" || error.code === "EPERM" || error.code === "EROFS")
    return `this account may not write to ${folder} (${error.code})`;
  return error.message;
}

/**
 * One consistent moment of everything, by PostgreSQL's own means; the file stands under its name only when it is whole,
 * and, with `check`, when it was restored into a database for the purpose and had as many rows in each table. Throws
 * Told.
 * @param {string} file
 * @param {{ folder: string, url: string, bin: string, check?: string | undefined }} what the data folder; the database,
 * as the owner of its tables; PostgreSQL's programs; the database as somebody who may make others
 */
export async function takeBackup(file, { folder, url, bin, check }) {
  if (existsSync(file)) throw new Told(`${file} is there already. Name another file, or remove that one.`);
  const part = `${file}.part`;
  rmSync(part, { force: true });
  try {
    const counts = await withSnapshot(url, (snapshot) =>
      withPasswordFile(url, async (bare, env) => {
        const code = await writeBackup(
          part,
          folder,
          join(bin, "pg_dump"),
          ["--format=custom", "--no-owner", "--no-privileges", `--snapshot=${snapshot}`, bare],
          env,
        );
        if (code !== 0) throw new Told("The backup could not be written; what it began was removed.");
      }),
    );
    if (check) await checkBackup(part, { url: check, bin, counts });
    chmodSync(part, 0o600);
    renameSync(part, file);
  } catch (error) {
    rmSync(part, { force: true });
    throw error;
  }
}

/** Whether who opens this database may make another one beside it, in which a backup is tried. */
export async function mayMakeDatabases(url) {
  const { default: pg } = await import("pg");
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    const { rows } = await client.query(
      "select rolcreatedb or rolsuper as may from pg_roles where rolname = current_user",
    );
    return rows[0].may;
  } finally {
    await client.end();
  }
}

/** Rows of each table in one moment that others can look at as well, while `work` runs. */
async function withSnapshot(url, work) {
  const { default: pg } = await import("pg");
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    await client.query("begin isolation level repeatable read read only");
    const { rows } = await client.query("select pg_export_snapshot() as name");
    const counts = await countRows(client);
    await work(rows[0].name);
    return counts;
  } finally {
    await client.end();
  }
}

async function countRows(client) {
  const { rows: tables } = await client.query(
    "select schemaname as schema, tablename as name from pg_tables where schemaname not in ('pg_catalog', 'information_schema') order by 1, 2",
  );
  const counts = new Map();
  for (const { schema, name } of tables) {
    const { rows } = await client.query(
      `select count(*)::text as rows from ${client.escapeIdentifier(schema)}.${client.escapeIdentifier(name)}`,
    );
    counts.set(`${schema}.${name}`, rows[0].rows);
  }
  return counts;
}

/** Restores a backup into a database of its own, which goes again, and compares. Throws Told. */
async function checkBackup(file, { url, bin, counts }) {
  const { default: pg } = await import("pg");
  const name = `nubrel_check_${process.pid}`;
  const within = new URL(url);
  within.pathname = `/${name}`;
  const administrator = new pg.Client({ connectionString: url });
  await administrator.connect();
  try {
    await forgetChecked(administrator);
    await administrator.query(`create database ${name} template template0`);
    const code = await withPasswordFile(within.href, (bare, env) =>
      readDump(
        file,
        join(bin, "pg_restore"),
        ["--exit-on-error", "--no-owner", "--no-privileges", `--dbname=${bare}`],
        env,
      ),
    );
    if (code !== 0) throw new Told("The backup was written, but could not be restored when that was tried.");
    const restored = new pg.Client({ connectionString: within.href });
    await restored.connect();
    const found = await countRows(restored).finally(() => restored.end());
    for (const [table, rows] of counts)
      if (found.get(table) !== rows)
        throw new Told(
          `The backup was written, but ${table} came back with ${found.get(table) ?? "no"} rows of ${rows}.`,
        );
  } finally {
    await administrator.query(`drop database if exists ${name}`).catch(() => {});
    await administrator.end();
  }
}

/** Databases of checks that were killed; one in which somebody still works stays. */
async function forgetChecked(administrator) {
  const { rows } = await administrator.query(
    "select datname as name from pg_database where datname ~ '^nubrel_check_\\d+$'",
  );
  for (const { name } of rows)
    await administrator.query(`drop database ${administrator.escapeIdentifier(name)}`).catch(() => {});
}

/**
 * Runs `work` with the address of a database without its password, and an environment in which PostgreSQL's programs
 * find that in a file: what stands on a command line is seen by everybody.
 */
export async function withPasswordFile(url, work) {
  const bare = new URL(url);
  const password = decodeURIComponent(bare.password);
  bare.password = "";
  const folder = mkdtempSync(join(tmpdir(), "nubrel-pass-"));
  try {
    const file = join(folder, "pgpass");
    writeFileSync(file, `*:*:*:*:${password.replace(/[\\:]/g, "\\$&")}\n`, { mode: 0o600 });
    return await work(bare.href, { ...plainEnvironment(), PGPASSFILE: file });
  } finally {
    rmSync(folder, { recursive: true });
  }
}
