import type { PasskeyView } from "../../../core/api/passkeys.ts";
import type { Database } from "../../db/pool.ts";
import { changeWaysIn } from "../way-in-rows.ts";

/** A passkey as it is checked. */
export interface Passkey {
  readonly id: number;
  readonly accountId: number;
  readonly credentialId: string;
  readonly publicKey: Buffer;
  readonly counter: number;
  readonly transports: readonly string[];
}

export interface NewPasskey extends Omit<Passkey, "id"> {
  readonly name: string;
  readonly host: string;
  readonly isBackedUp: boolean;
}

const view = `id, name, host, is_backed_up as "isBackedUp",
  (extract(epoch from created_at) * 1000)::float8 as "createdAtMs",
  (extract(epoch from last_used_at) * 1000)::float8 as "lastUsedAtMs"`;
const whole = `passkey.id, account_id as "accountId", credential_id as "credentialId", public_key as "publicKey",
  counter::float8 as counter, transports`;

export async function listPasskeyRows(database: Database, accountId: number): Promise<readonly PasskeyView[]> {
  const { rows } = await database.query<PasskeyView>(
    `select ${view} from passkey where account_id = $1::int order by id`,
    [accountId],
  );
  return rows;
}

/** Those of a person that open the server by this name. */
export async function passkeysAt(database: Database, accountId: number, host: string): Promise<readonly Passkey[]> {
  const { rows } = await database.query<Passkey>(
    `select ${whole} from passkey where account_id = $1::int and host = $2::text order by id`,
    [accountId, host],
  );
  return rows;
}

/** The one with this credential, of somebody who is here still. */
export async function findPasskey(
  database: Database,
  credentialId: string,
  host: string,
): Promise<Passkey | undefined> {
  const { rows } = await database.query<Passkey>(
    `select ${whole}
     from passkey
     join account on account.id = account_id
     where credential_id = $1::text and host = $2::text and removed_at is null`,
    [credentialId, host],
  );
  return rows[0];
}

/** Undefined where the credential is kept already. */
export async function insertPasskey(database: Database, passkey: NewPasskey): Promise<PasskeyView | undefined> {
  const { accountId, name, host, credentialId, publicKey, counter, transports, isBackedUp } = passkey;
  const { rows } = await database.query<PasskeyView>(
    `insert into passkey (account_id, name, host, credential_id, public_key, counter, transports, is_backed_up)
     values ($1::int, $2::text, $3::text, $4::text, $5::bytea, $6::bigint, $7::text[], $8::boolean)
     on conflict (credential_id) do nothing
     returning ${view}`,
    [accountId, name, host, credentialId, publicKey, counter, transports, isBackedUp],
  );
  return rows[0];
}

/** It was used; its count is its own. */
export async function notePasskeyUsed(database: Database, id: number, counter: number): Promise<void> {
  await database.query("update passkey set counter = $2::bigint, last_used_at = now() where id = $1::int", [
    id,
    counter,
  ]);
}

/** Whether there was one. Throws a Problem where it is the person's last way in. */
export function removePasskeyRow(database: Database, accountId: number, id: number): Promise<boolean> {
  return changeWaysIn(database, accountId, "delete from passkey where id = $2::int and account_id = $1::int", [id]);
}

/** None of a person's opens anything any more. */
export async function dropPasskeys(database: Database, accountId: number): Promise<void> {
  await database.query("delete from passkey where account_id = $1::int", [accountId]);
}
