import type { ForwardSettings } from "../../core/forwarding/forward.ts";
import type { Database } from "../db/pool.ts";

export interface StoredForward {
  readonly id: number;
  readonly settings: ForwardSettings;
  /** Sealed. */
  readonly secret: Buffer | null;
  readonly sentUntilMs: number;
}

const columns = `id, settings, secret, sent_until_ms as "sentUntilMs"`;

export async function listForwardRows(database: Database): Promise<readonly StoredForward[]> {
  return (await database.query<StoredForward>(`select ${columns} from forward order by id`)).rows;
}

export async function insertForward(
  database: Database,
  { settings, secret, sentUntilMs }: Omit<StoredForward, "id">,
): Promise<StoredForward> {
  const { rows } = await database.query<StoredForward>(
    `insert into forward (settings, secret, sent_until_ms) values ($1::jsonb, $2::bytea, $3::bigint) returning ${columns}`,
    [JSON.stringify(settings), secret, sentUntilMs],
  );
  return rows[0] as StoredForward;
}

/** Undefined where there is none of this number. */
export async function updateForward(
  database: Database,
  id: number,
  settings: ForwardSettings,
  secret: Buffer | null,
): Promise<StoredForward | undefined> {
  const { rows } = await database.query<StoredForward>(
    `update forward set settings = $2::jsonb, secret = $3::bytea where id = $1::int returning ${columns}`,
    [id, JSON.stringify(settings), secret],
  );
  return rows[0];
}

export async function noteSentUntil(database: Database, id: number, untilMs: number): Promise<void> {
  await database.query("update forward set sent_until_ms = $2::bigint where id = $1::int", [id, Math.floor(untilMs)]);
}

export async function deleteForward(database: Database, id: number): Promise<boolean> {
  return (await database.query("delete from forward where id = $1::int", [id])).rowCount === 1;
}
