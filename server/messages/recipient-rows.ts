import type { RecipientView } from "../../core/api/messages.ts";
import type { RecipientSettings } from "../../core/messages/recipient.ts";
import type { SecretBox } from "../sources/secret-box.ts";
import { openKept, sealKept, withoutSecrets } from "./kept-secrets.ts";
import type { Database } from "../db/pool.ts";

export interface StoredRecipient extends RecipientView {
  /** Sealed. */
  readonly secret: Buffer | null;
}

const columns = `id, settings, secret, failing_since_ms as "failingSinceMs", failure`;
type Row = {
  readonly id: number;
  readonly settings: RecipientSettings;
  readonly secret: Buffer | null;
  readonly failingSinceMs: number | null;
  readonly failure: string | null;
};
const recipientOf = ({ settings, ...rest }: Row): StoredRecipient => ({
  ...settings,
  ...rest,
  hasSecret: rest.secret !== null,
});

export async function listRecipients(database: Database): Promise<readonly StoredRecipient[]> {
  const { rows } = await database.query<Row>(`select ${columns} from recipient where removed_at is null order by id`);
  return rows.map(recipientOf);
}

/** Also one that has been removed. */
export async function recipientRow(database: Database, id: number): Promise<StoredRecipient | undefined> {
  const { rows } = await database.query<Row>(`select ${columns} from recipient where id = $1::int`, [id]);
  return rows[0] && recipientOf(rows[0]);
}

export async function insertRecipient(
  database: Database,
  settings: RecipientSettings,
  secret: Buffer | null,
): Promise<StoredRecipient> {
  const { rows } = await database.query<Row>(
    `insert into recipient (settings, secret) values ($1::jsonb, $2::bytea) returning ${columns}`,
    [JSON.stringify(settings), secret],
  );
  return recipientOf(rows[0] as Row);
}

/** `secret` undefined keeps the one that is there. */
export async function updateRecipient(
  database: Database,
  id: number,
  settings: RecipientSettings,
  secret: Buffer | null | undefined,
): Promise<StoredRecipient | undefined> {
  const { rows } = await database.query<Row>(
    `update recipient set settings = $2::jsonb, secret = case when $4::boolean then $3::bytea else secret end, failing_since_ms = null, failure = null
     where id = $1::int and removed_at is null returning ${columns}`,
    [id, JSON.stringify(settings), secret ?? null, secret !== undefined],
  );
  return rows[0] && recipientOf(rows[0]);
}

/** Seals what earlier versions kept in clear. */
export async function sealOldRecipients(database: Database, box: SecretBox): Promise<void> {
  for (const { id, secret, hasSecret: _, failingSinceMs: __, failure: ___, ...settings } of await listRecipients(
    database,
  )) {
    const { webhook } = settings;
    if (!webhook) continue;
    const kept = openKept(box, secret);
    if (kept.url !== null) continue;
    await database.query("update recipient set settings = $2::jsonb, secret = $3::bytea where id = $1::int", [
      id,
      JSON.stringify(withoutSecrets(settings)),
      sealKept(box, {
        ...kept,
        url: webhook.url,
        headers: Object.fromEntries(webhook.headers.map(({ name, value }) => [name, value])),
      }),
    ]);
  }
}

export async function removeRecipient(database: Database, id: number): Promise<boolean> {
  const { rowCount } = await database.query(
    "update recipient set removed_at = now() where id = $1::int and removed_at is null",
    [id],
  );
  return rowCount === 1;
}

/** Whether it is reached: a failure keeps since when it is not. */
export async function noteReached(database: Database, id: number, failure: string | null, atMs: number): Promise<void> {
  await database.query(
    `update recipient set failure = $2::text, failing_since_ms = case when $2::text is null then null else coalesce(failing_since_ms, $3::bigint) end where id = $1::int`,
    [id, failure, Math.round(atMs)],
  );
}
