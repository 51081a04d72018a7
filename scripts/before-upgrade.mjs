import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statfsSync, writeFileSync } from "node:fs";
import { isAbsolute, join } from "node:path";
import { createInterface } from "node:readline/promises";
import { takeBackup } from "./backups.mjs";
import { say, Told } from "./told.mjs";

/** So many are kept: the one of this upgrade, and of the one before. */
const kept = 2;
const ours = /^before-\d{6}-\d{4}-\d\d-\d\dT\d\d-\d\d-\d\d\.backup$/;
const mebibyte = 1 << 20;

/**
 * Before a version changes a database that holds something: says what will change, and takes a backup first, unless
 * somebody said that none is wanted. Throws Told where it is wanted and cannot be taken: nothing has changed then.
 * @param {{ at: number, lacks: readonly string[] }} standing how the database stands to this version
 * @param {object} how
 * @param {string} how.folder the data folder
 * @param {string} how.url the database, as the owner of its tables
 * @param {string | undefined} how.bin PostgreSQL's programs
 * @param {Readonly<Record<string, string | undefined>>} how.env
 * @param {(() => Promise<string>) | undefined} [how.ask] asks the person at the terminal; undefined where there is none
 */
export async function beforeUpgrade({ at, lacks }, { folder, url, bin, env, ask = askAtTerminal() }) {
  if (at === 0 || lacks.length === 0) return;
  say(`This version changes the database, in ${lacks.length === 1 ? "one step" : `${lacks.length} steps`}:`);
  for (const file of lacks) say(`  ${file.slice(0, 6)}  ${wordsOf(file)}`);
  const to = await whereTo(env, folder, ask);
  if (to === undefined) return say("It is changed without a backup, as you said.");
  if (bin === undefined)
    throw new Told(
      "A backup is to be taken before the database is changed, and PostgreSQL's programs are not installed here. Install postgresql-client, or say NUBREL_BACKUP_BEFORE_UPGRADE=no.",
    );
  mkdirSync(to, { recursive: true, mode: 0o700 });
  await assertRoom(to, url);
  const name = `before-${lacks[0].slice(0, 6)}-${new Date().toISOString().slice(0, 19).replaceAll(":", "-")}.backup`;
  const file = join(to, name);
  say(`Taking a backup first: ${file} ...`);
  await takeBackup(file, { folder, url, bin });
  const old = readdirSync(to)
    .filter((one) => ours.test(one))
    .sort()
    .reverse()
    .slice(kept);
  for (const one of old) rmSync(join(to, one));
}

/** Where the backup goes; undefined where none is wanted. Who was asked once is not asked again. */
async function whereTo(env, folder, ask) {
  const usual = join(folder, "before-upgrade");
  const said = env.NUBREL_BACKUP_BEFORE_UPGRADE;
  if (said === "no") return undefined;
  if (said !== undefined && said !== "" && said !== "yes") {
    if (!isAbsolute(said))
      throw new Told(
        `NUBREL_BACKUP_BEFORE_UPGRADE=${said} must be yes, no, or the whole path of a folder, as /srv/backups is.`,
      );
    return said;
  }
  if (said === "yes" || !ask) return usual;
  const answered = join(folder, "backup-before-upgrade");
  if (!existsSync(answered)) {
    const answer = (await ask()).trim().toLowerCase();
    writeFileSync(answered, answer === "n" || answer === "no" ? "no\n" : "yes\n", { mode: 0o600 });
  }
  return readFileSync(answered, "utf8").trim() === "no" ? undefined : usual;
}

/** The person at the terminal, where there is one. */
function askAtTerminal() {
  if (!process.stdin.isTTY || !process.stdout.isTTY) return undefined;
  return async () => {
    const terminal = createInterface({ input: process.stdin, output: process.stdout });
    try {
      return await terminal.question("  Take a backup before this and later changes? [Y/n] ");
    } finally {
      terminal.close();
    }
  };
}

/** A dump is packed, and never larger than the database; a disk that is full helps nobody. */
async function assertRoom(to, url) {
  const { default: pg } = await import("pg");
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  const { rows } = await client
    .query("select pg_database_size(current_database())::float8 as bytes")
    .finally(() => client.end());
  const { bavail, bsize } = statfsSync(to);
  const [free, wanted] = [bavail * bsize, rows[0].bytes];
  if (free < wanted)
    throw new Told(
      `There is no room for a backup before the database is changed: ${to} has ${mebibytes(free)} free, and up to ${mebibytes(wanted)} are wanted. Name a folder on another disk, NUBREL_BACKUP_BEFORE_UPGRADE=/path, or say NUBREL_BACKUP_BEFORE_UPGRADE=no. Nothing was changed.`,
    );
}

const mebibytes = (bytes) => `${Math.ceil(bytes / mebibyte).toLocaleString("en")} MiB`;

/** What a migration is about, by the name of its file. */
const wordsOf = (file) =>
  file
    .slice(7)
    .replace(/\.sql$/, "")
    .replaceAll("_", " ");
