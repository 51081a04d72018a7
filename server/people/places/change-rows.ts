import type { Database } from "../../db/pool.ts";

/** Notes that what somebody signs in by was changed in one of their sessions. */
export async function noteFactorChange(
  database: Database,
  { accountId, sessionId, did }: { readonly accountId: number; readonly sessionId: number; readonly did: string },
): Promise<void> {
  await database.query("insert into factor_change (account_id, session_id, did) values ($1::int, $2::int, $3::text)", [
    accountId,
    sessionId,
    did,
  ]);
}

interface ChangeRow {
  readonly id: number;
  readonly did: string;
  readonly atMs: number;
}

/** Changes that were made in other sessions of a person, and of which they have not said yet that they know. */
export async function newChanges(
  database: Database,
  accountId: number,
  sessionId: number,
): Promise<readonly ChangeRow[]> {
  const { rows } = await database.query<ChangeRow>(
    `select id, did, (extract(epoch from at) * 1000)::float8 as "atMs"
     from factor_change
     where account_id = $1::int and session_id <> $2::int and known_at is null
     order by id`,
    [accountId, sessionId],
  );
  return rows;
}

/** Whether there was such a change, made in another session. */
export async function knowChange(
  database: Database,
  accountId: number,
  sessionId: number,
  id: number,
): Promise<boolean> {
  const { rowCount } = await database.query(
    `update factor_change set known_at = now()
     where account_id = $1::int and session_id <> $2::int and id = $3::int and known_at is null`,
    [accountId, sessionId, id],
  );
  return rowCount === 1;
}
