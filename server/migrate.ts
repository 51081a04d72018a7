import { runMigrations } from "graphile-worker";
import { claimDatabase } from "./db/claim.ts";
import { grantRows } from "./db/grant-rows.ts";
import { migrate, standingOf } from "./db/migrate.ts";
import { findWritable, openDatabase } from "./db/pool.ts";
import { exitCodeOf, sentenceFor } from "./foreseen.ts";

// What the start command runs before the server, as the role that owns the tables: brings them to this version and lets
// the server's role, which may not, use them. With --look it only says how the database stands, as JSON.

const url = process.env["NUBREL_DATABASE_URL"] as string;
const role = process.env["NUBREL_APP_ROLE"];
const database = openDatabase(url);
try {
  await findWritable(url);
  if (process.argv.includes("--look")) process.stdout.write(JSON.stringify(await standingOf(database)));
  else await bringUp();
} catch (error) {
  process.stderr.write(`${sentenceFor(error, undefined)}\n`);
  process.exitCode = exitCodeOf(error);
} finally {
  await database.end();
}

async function bringUp(): Promise<void> {
  const claim = await claimDatabase(url, () => {});
  await migrate(database);
  await runMigrations({ pgPool: database });
  if (role) await grantRows(database, role);
  await claim.release();
}
