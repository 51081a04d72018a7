import { readdir, readFile } from "node:fs/promises";
import { join } from "node:path";
import { projectRoot } from "../project-root.ts";
import { type Database, inTransaction } from "./pool.ts";

/** The database was made by a newer version. */
export class NewerDataError extends Error {
  override name = "NewerDataError";
}

/** One number for all migrating processes; any constant does. */
const lockNumber = 7373001;

const ownMigrations = join(projectRoot, "server/db/migrations");

/** How a database stands to this version. */
export interface Standing {
  /** The number of its newest migration; 0: it is empty. */
  readonly at: number;
  /** Files of the migrations that it lacks, in their order. */
  readonly lacks: readonly string[];
}

/**
 * What the database lacks of this version; nothing is changed. Throws NewerDataError where it has migrations that this
 * version does not know.
 */
export async function standingOf(database: Database, folder = ownMigrations): Promise<Standing> {
  const files = await filesOf(folder);
  if (!(await isThere(database))) return { at: 0, lacks: files };
  const at = await newestOf(database, files.length);
  return { at, lacks: files.slice(at) };
}

/**
 * Applies the migrations that the database lacks, in the order of their numbers, under an advisory lock and in one
 * transaction: where one fails, the version before finds its database as it left it. Throws NewerDataError where the
 * database has migrations that this version does not know.
 */
export async function migrate(database: Database, folder = ownMigrations): Promise<void> {
  const files = await filesOf(folder);
  if (!(await isThere(database)))
    await inTransaction(database, async (connection) => {
      // "if not exists" alone fails where two processes make the table at the same moment.
      await connection.query("select pg_advisory_xact_lock($1::bigint)", [lockNumber]);
      await connection.query(
        "create table if not exists migration (number int primary key, name text not null, applied_at timestamptz not null default now())",
      );
    });
  const at = await newestOf(database, files.length);
  if (at === files.length) return;
  await inTransaction(database, async (connection) => {
    await connection.query("select pg_advisory_xact_lock($1::bigint)", [lockNumber]);
    for (const [i, file] of files.entries()) {
      if (i < at) continue;
      const inserted = await connection.query(
        "insert into migration (number, name) values ($1::int, $2::text) on conflict do nothing",
        [i + 1, file],
      );
      if (inserted.rowCount === 1) await connection.query(await readFile(join(folder, file), "utf8"));
    }
  });
}

async function filesOf(folder: string): Promise<readonly string[]> {
  const files = (await readdir(folder)).filter((file) => file.endsWith(".sql")).sort();
  files.forEach((file, i) => {
    if (!file.startsWith(`${String(i + 1).padStart(6, "0")}_`))
      throw new Error(`migration ${file} is out of order: number ${i + 1} was expected`);
  });
  return files;
}

async function newestOf(database: Database, known: number): Promise<number> {
  const { rows } = await database.query<{ number: number }>("select coalesce(max(number), 0) as number from migration");
  const at = rows[0]?.number ?? 0;
  if (at > known)
    throw new NewerDataError(
      `The database is at version ${at}, this program knows ${known}. Start the newer version of Nubrel, or restore a backup made by this one.`,
    );
  return at;
}

/** A role that may make no tables is not to be refused where there is nothing to make. */
async function isThere(database: Database): Promise<boolean> {
  const { rows } = await database.query<{ there: string | null }>("select to_regclass('migration') as there");
  return rows[0]?.there !== null;
}
