import type { IssuerSettings } from "../../../core/api/issuer.ts";
import type { Role } from "../../../core/people/roles.ts";
import { type Database, inTransaction } from "../../db/pool.ts";
import type { Account } from "../account-rows.ts";
import { insertPerson } from "../person-rows.ts";
import { changeWaysIn } from "../way-in-rows.ts";

/** What is kept of the issuer. */
export interface KeptIssuer {
  readonly settings: IssuerSettings;
  /** Sealed, in base64; null where it has none. */
  readonly secret: string | null;
}

/** Somebody as their issuer knows them. */
export interface Subject {
  readonly issuer: string;
  readonly subject: string;
}

/** The subject is somebody else's here, or the person has another there. */
export class LinkedOtherwiseError extends Error {
  override name = "LinkedOtherwiseError";
}

export async function issuerRow(database: Database): Promise<KeptIssuer | undefined> {
  const { rows } = await database.query<KeptIssuer>("select settings, secret from issuer");
  return rows[0];
}

/** Keeps an issuer, as somebody wants it. Throws a Problem where they would have no way in any more. */
export async function keepIssuer(
  database: Database,
  accountId: number,
  { settings, secret }: KeptIssuer,
): Promise<void> {
  await changeWaysIn(
    database,
    accountId,
    `insert into issuer (settings, secret)
     select $2::jsonb, $3::text where $1::int is not null
     on conflict (is_one) do update set settings = excluded.settings, secret = excluded.secret`,
    [JSON.stringify(settings), secret],
  );
}

/** Takes the issuer away, as somebody wants it. Throws a Problem where they would have no way in any more. */
export async function dropIssuerRow(database: Database, accountId: number): Promise<void> {
  await changeWaysIn(database, accountId, "delete from issuer where $1::int is not null", []);
}

/** Whoever linked themselves is linked no longer; those whom the issuer brought stay. */
export async function dropLinks(database: Database, accountId: number): Promise<void> {
  await database.query("delete from issued where account_id = $1::int and not is_ruled", [accountId]);
}

/** Who a subject is here, or was; undefined where they were nobody yet. */
export async function accountOfSubject(
  database: Database,
  { issuer, subject }: Subject,
): Promise<(Account & { readonly isRuled: boolean; readonly hasLeft: boolean }) | undefined> {
  const { rows } = await database.query<Account & { isRuled: boolean; hasLeft: boolean }>(
    `select id, name, role, limits, is_ruled as "isRuled", removed_at is not null as "hasLeft"
     from issued
     join account on account.id = account_id
     where issuer = $1::text and subject = $2::text`,
    [issuer, subject],
  );
  return rows[0];
}

/** Makes a person whom the issuer brought. Throws NameTakenError. */
export function insertIssued(
  database: Database,
  { issuer, subject }: Subject,
  person: { readonly name: string; readonly role: Role },
): Promise<Account> {
  return inTransaction(database, async (connection) => {
    const made = await insertPerson(connection, { ...person, passwordHash: null });
    await connection.query(
      "insert into issued (account_id, issuer, subject, is_ruled) values ($1::int, $2::text, $3::text, true)",
      [made.id, issuer, subject],
    );
    return made;
  });
}

/** Whether a person signs in by this issuer. */
export async function isIssued(database: Database, accountId: number, issuer: string): Promise<boolean> {
  const { rowCount } = await database.query("select from issued where account_id = $1::int and issuer = $2::text", [
    accountId,
    issuer,
  ]);
  return rowCount === 1;
}

/**
 * Has somebody who is here sign in by the issuer as well; what they may stays as it is. Whoever had the subject and left
 * gives it free. Throws LinkedOtherwiseError.
 */
export function linkSubject(database: Database, accountId: number, { issuer, subject }: Subject): Promise<void> {
  return inTransaction(database, async (connection) => {
    await connection.query(
      `delete from issued
       using account
       where account.id = account_id and removed_at is not null and issuer = $1::text and subject = $2::text`,
      [issuer, subject],
    );
    await connection.query(
      `insert into issued (account_id, issuer, subject, is_ruled)
       values ($1::int, $2::text, $3::text, false)
       on conflict do nothing`,
      [accountId, issuer, subject],
    );
    const { rows } = await connection.query<{ account_id: number; subject: string }>(
      "select account_id, subject from issued where issuer = $1::text and (subject = $2::text or account_id = $3::int)",
      [issuer, subject, accountId],
    );
    if (!rows.every((one) => one.account_id === accountId && one.subject === subject))
      throw new LinkedOtherwiseError("This one is linked otherwise already.");
  });
}
