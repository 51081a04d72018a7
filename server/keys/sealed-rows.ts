import type { Connection, Database } from "../db/pool.ts";

/** A secret as it is kept, and how to keep it otherwise. */
export interface SealedValue {
  /** Whose it is, in words for whoever has to enter it again. */
  readonly of: string;
  readonly sealed: Buffer;
  keep(sealed: Buffer): Promise<void>;
}

/**
 * Where secrets are kept: the words for whose each is, how it is read (one row, its key and its text in base64), and how
 * it is kept with that text and key. A test holds the list to everything that is sealed.
 */
const places: readonly { readonly read: string; readonly write: string }[] = [
  {
    read: `select 'the source ' || name as of, id::text as key, encode(secret, 'base64') as sealed from source`,
    write: "update source set secret = decode($1::text, 'base64') where id = $2::int",
  },
  {
    read: `select 'the recipient ' || coalesce(settings->>'name', '') as of, id::text as key, encode(secret, 'base64') as sealed from recipient`,
    write: "update recipient set secret = decode($1::text, 'base64') where id = $2::int",
  },
  {
    read: `select 'what is sent on to ' || coalesce(settings->>'name', '') as of, id::text as key, encode(secret, 'base64') as sealed from forward`,
    write: "update forward set secret = decode($1::text, 'base64') where id = $2::int",
  },
  {
    read: `select 'time codes of ' || name as of, id::text as key, code_secret as sealed from account`,
    write: "update account set code_secret = $1::text where id = $2::int",
  },
  {
    read: `select 'time codes that ' || name || ' began' as of, id::text as key, code_pending as sealed from account`,
    write: "update account set code_pending = $1::text where id = $2::int",
  },
  {
    read: `select 'the issuer' as of, is_one::text as key, secret as sealed from issuer`,
    write: "update issuer set secret = $1::text where is_one = $2::boolean",
  },
  {
    read: `select 'who this server is to push services' as of, name as key, value->>'sealed' as sealed from setting where name = 'push keys'`,
    write: "update setting set value = jsonb_set(value, '{sealed}', to_jsonb($1::text)) where name = $2::text",
  },
  {
    read: `select 'the address that is called every minute' as of, name as key, value->>'sealed' as sealed from setting where name = 'alerting'`,
    write: "update setting set value = jsonb_set(value, '{sealed}', to_jsonb($1::text)) where name = $2::text",
  },
];

/** Every secret that is kept. */
export async function everySealed(of: Database | Connection): Promise<readonly SealedValue[]> {
  const found: SealedValue[] = [];
  for (const { read, write } of places) {
    const { rows } = await of.query<{ of: string; key: string; sealed: string | null }>(read);
    for (const row of rows)
      if (row.sealed !== null)
        found.push({
          of: row.of,
          sealed: Buffer.from(row.sealed, "base64"),
          keep: async (sealed) => {
            await of.query(write, [sealed.toString("base64"), row.key]);
          },
        });
  }
  return found;
}
