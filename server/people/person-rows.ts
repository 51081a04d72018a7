import type { InvitationView, PersonBody, PersonView } from "../../core/api/people.ts";
import { createHash, randomBytes } from "node:crypto";
import { type Connection, type Database, inTransaction } from "../db/pool.ts";

/** Somebody has the name already. */
export class NameTakenError extends Error {
  override name = "NameTakenError";
}

/** There would be no owner left. */
export class LastOwnerError extends Error {
  override name = "LastOwnerError";
}

const ms = (column: string) => `(extract(epoch from ${column}) * 1000)::float8`;
const columns = `id, name, role, limits, ${ms("created_at")} as "createdAtMs", ${ms("(select max(last_seen_at) from session where account_id = account.id)")} as "lastSeenAtMs"`;

/** All people, in the order of their names. */
export async function listPersonRows(database: Database): Promise<readonly PersonView[]> {
  const { rows } = await database.query<PersonView>(
    `select ${columns} from account where removed_at is null order by lower(name)`,
  );
  return rows;
}

interface NewPerson extends PersonBody {
  readonly name: string;
  /** Null where they sign in otherwise. */
  readonly passwordHash: string | null;
}

/** Throws NameTakenError. */
export async function insertPerson(
  database: Pick<Database, "query">,
  { name, passwordHash, role, limits = null }: NewPerson,
): Promise<PersonView> {
  const { rows } = await database.query<PersonView>(
    `insert into account (name, password_hash, role, limits)
     values ($1::text, $2::text, $3::text, $4::jsonb)
     on conflict (lower(name)) where removed_at is null do nothing
     returning ${columns}`,
    [name, passwordHash, role, limits && JSON.stringify(limits)],
  );
  if (!rows[0]) throw new NameTakenError(`${name} is the name of somebody else here.`);
  return rows[0];
}

/**
 * Changes what a person is; undefined where there is none. Limits are a viewer's: they end with that role. Throws
 * LastOwnerError.
 */
export function changePersonRow(
  database: Database,
  id: number,
  { role, limits }: Partial<PersonBody>,
): Promise<PersonView | undefined> {
  return keepingAnOwner(database, async (connection) => {
    const { rows } = await connection.query<PersonView>(
      `update account
       set role = coalesce($2::text, role),
         limits = case when coalesce($2::text, role) <> 'viewer' then null when $3::boolean then $4::jsonb else limits end
       where id = $1::int and removed_at is null
       returning ${columns}`,
      [id, role ?? null, limits !== undefined, limits ? JSON.stringify(limits) : null],
    );
    return rows[0];
  });
}

/** A person leaves; their name stays in what they did. Answers whether there was one. Throws LastOwnerError. */
export function removePersonRow(database: Database, id: number): Promise<boolean> {
  return keepingAnOwner(database, async (connection) => {
    await connection.query("delete from passkey where account_id = $1::int", [id]);
    const { rowCount } = await connection.query(
      "update account set removed_at = now(), password_hash = null where id = $1::int and removed_at is null",
      [id],
    );
    return rowCount === 1;
  });
}

/** One change after another, so that two at once do not take each other's owner away. */
function keepingAnOwner<T>(database: Database, change: (connection: Connection) => Promise<T>): Promise<T> {
  return inTransaction(database, async (connection) => {
    await connection.query("lock table account in share row exclusive mode");
    const done = await change(connection);
    const { rowCount } = await connection.query(
      "select from account where role = 'owner' and removed_at is null limit 1",
    );
    if (rowCount === 0) throw new LastOwnerError("There would be no owner left.");
    return done;
  });
}

const hashOf = (code: string) => createHash("sha256").update(code).digest();
const invitationColumns = `id, role, limits, created_by as by, to_char(until_at at time zone 'utc', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') as until`;
const isOpen = "accepted_by is null and withdrawn_at is null and until_at > now()";

/** Makes an invitation with a code of 256 bits, of which only the hash is kept. */
export async function insertInvitation(
  database: Database,
  { role, limits = null, hours, by }: PersonBody & { readonly hours: number; readonly by: string },
): Promise<InvitationView & { readonly code: string }> {
  const code = randomBytes(32).toString("base64url");
  const { rows } = await database.query<InvitationView>(
    `insert into invitation (code_hash, role, limits, created_by, until_at)
     values ($1::bytea, $2::text, $3::jsonb, $4::text, now() + make_interval(hours => $5::int))
     returning ${invitationColumns}`,
    [hashOf(code), role, limits && JSON.stringify(limits), by, hours],
  );
  return { ...(rows[0] as InvitationView), code };
}

/** Those that can be accepted still. */
export async function listInvitationRows(database: Database): Promise<readonly InvitationView[]> {
  const { rows } = await database.query<InvitationView>(
    `select ${invitationColumns} from invitation where ${isOpen} order by until_at`,
  );
  return rows;
}

/** The one with this code, where it can be accepted still. */
export async function findInvitation(database: Database, code: string): Promise<InvitationView | undefined> {
  const { rows } = await database.query<InvitationView>(
    `select ${invitationColumns} from invitation where code_hash = $1::bytea and ${isOpen}`,
    [hashOf(code)],
  );
  return rows[0];
}

/** Whether there was one that could be accepted still. */
export async function withdrawInvitationRow(database: Database, id: number): Promise<boolean> {
  const { rowCount } = await database.query(
    `update invitation set withdrawn_at = now() where id = $1::int and ${isOpen}`,
    [id],
  );
  return rowCount === 1;
}

/** Makes the person that an invitation is for; undefined where it was used or ended meanwhile. Throws NameTakenError. */
export function acceptInvitationRow(
  database: Database,
  code: string,
  { name, passwordHash }: Pick<NewPerson, "name" | "passwordHash">,
): Promise<PersonView | undefined> {
  return inTransaction(database, async (connection) => {
    const { rows } = await connection.query<PersonBody>(
      `update invitation set accepted_by = $2::text where code_hash = $1::bytea and ${isOpen} returning role, limits`,
      [hashOf(code), name],
    );
    const [invited] = rows;
    return invited && (await insertPerson(connection, { ...invited, name, passwordHash }));
  });
}
