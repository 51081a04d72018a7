import { randomBytes } from "node:crypto";
import { existsSync, readFileSync, renameSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";

/** PostgreSQL's word for a password that is not right (appendix A of its manual, 28P01). */
const wrongPassword = "28P01";
const newPassword = () => randomBytes(24).toString("base64url");
const nextOf = (file) => `${file}.next`;

/**
 * The administrator's password in a file. A change of it that was cut short is ended: the one stays that the database
 * takes.
 * @param {string} file
 * @param {number} port
 */
export async function settledPassword(file, port) {
  if (!existsSync(nextOf(file))) return readFileSync(file, "utf8").trim();
  const next = readFileSync(nextOf(file), "utf8").trim();
  if (await isTaken(next, port)) renameSync(nextOf(file), file);
  else rmSync(nextOf(file));
  return readFileSync(file, "utf8").trim();
}

async function isTaken(password, port) {
  const { default: pg } = await import("pg");
  const client = new pg.Client({ host: "127.0.0.1", port, user: "nubrel", password, database: "postgres" });
  try {
    await client.connect();
    return true;
  } catch (error) {
    if (error.code === wrongPassword) return false;
    throw error;
  } finally {
    await client.end();
  }
}

/**
 * Gives the three roles of the folder's own database new passwords. Cut short, the next start goes on: the two roles'
 * are set from their file at every start, the administrator's is settled.
 * @param {string} folder
 * @param {string} administratorUrl
 */
export async function changePasswords(folder, administratorUrl) {
  const roles = join(folder, "database-roles.json");
  writeFileSync(nextOf(roles), JSON.stringify({ owner: newPassword(), app: newPassword() }), { mode: 0o600 });
  renameSync(nextOf(roles), roles);
  const file = join(folder, "postgres-password");
  const password = newPassword();
  writeFileSync(nextOf(file), `${password}\n`, { mode: 0o600 });
  const { default: pg } = await import("pg");
  const client = new pg.Client({ connectionString: administratorUrl });
  await client.connect();
  try {
    const { owner, app } = JSON.parse(readFileSync(roles, "utf8"));
    for (const [role, next] of [
      ["nubrel_owner", owner],
      ["nubrel_app", app],
      ["nubrel", password],
    ])
      await client.query(`alter role ${role} password ${client.escapeLiteral(next)}`);
  } finally {
    await client.end();
  }
  renameSync(nextOf(file), file);
}
