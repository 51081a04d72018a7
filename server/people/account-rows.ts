import type { Limits, Role } from "../../core/people/roles.ts";
import { type Database, inTransaction } from "../db/pool.ts";

export interface Account {
  readonly id: number;
  readonly name: string;
  readonly role: Role;
  readonly limits: Limits | null;
}

export async function hasOwner(database: Database): Promise<boolean> {
  const { rowCount } = await database.query("select 1 from account where removed_at is null limit 1");
  return (rowCount ?? 0) > 0;
}

/** Makes the first owner; undefined where there is one already, also when two ask at once. */
export function createOwner(database: Database, name: string, passwordHash: string): Promise<Account | undefined> {
  return inTransaction(database, async (connection) => {
    await connection.query("lock table account in share row exclusive mode");
    const { rows } = await connection.query<Account>(
      `insert into account (name, password_hash, role)
       select $1::text, $2::text, 'owner'
       where not exists (select 1 from account where removed_at is null)
       returning id, name, role, limits`,
      [name, passwordHash],
    );
    return rows[0];
  });
}

/** Names of accounts and machines: nobody takes one for a password. */
export async function namesInUse(database: Database): Promise<readonly string[]> {
  const { rows } = await database.query<{ name: string }>(
    "select name from account where removed_at is null union select machine from source",
  );
  return rows.map(({ name }) => name);
}

export async function findAccount(
  database: Database,
  name: string,
): Promise<(Account & { readonly passwordHash: string | null; readonly passwordIsHanded: boolean }) | undefined> {
  const { rows } = await database.query<Account & { passwordHash: string | null; passwordIsHanded: boolean }>(
    `select id, name, role, limits, password_hash as "passwordHash", password_is_handed as "passwordIsHanded"
     from account
     where lower(name) = lower($1::text) and removed_at is null`,
    [name],
  );
  return rows[0];
}

/** Somebody who is here still. */
export async function accountOf(database: Database, id: number): Promise<Account | undefined> {
  const { rows } = await database.query<Account>(
    "select id, name, role, limits from account where id = $1::int and removed_at is null",
    [id],
  );
  return rows[0];
}

/** What devices call a person by. */
export async function handleOf(database: Database, id: number): Promise<string> {
  const { rows } = await database.query<{ handle: string }>("select handle from account where id = $1::int", [id]);
  return rows[0]?.handle ?? "";
}

/** The hash of a person's password; null where they have none. */
export async function passwordHashOf(database: Database, id: number): Promise<string | null> {
  const { rows } = await database.query<{ hash: string | null }>(
    "select password_hash as hash from account where id = $1::int",
    [id],
  );
  return rows[0]?.hash ?? null;
}

/** One that was handed to the person is theirs for one sign-in. */
export async function changePasswordHash(
  database: Database,
  id: number,
  hash: string,
  { isHanded = false } = {},
): Promise<void> {
  await database.query(
    "update account set password_hash = $2::text, password_is_handed = $3::boolean where id = $1::int",
    [id, hash, isHanded],
  );
}
