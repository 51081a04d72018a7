import type { Database } from "../db/pool.ts";

/** A person's time codes as they are kept. */
export interface CodeRow {
  /** Sealed; null where there is no second factor. */
  readonly secret: string | null;
  readonly pending: string | null;
  readonly recoveryHashes: readonly string[];
}

export async function codeRowOf(database: Database, accountId: number): Promise<CodeRow> {
  const { rows } = await database.query<CodeRow>(
    `select code_secret as secret, code_pending as pending, recovery_hashes as "recoveryHashes" from account where id = $1::int`,
    [accountId],
  );
  return rows[0] ?? { secret: null, pending: null, recoveryHashes: [] };
}

export async function beginCodes(database: Database, accountId: number, sealed: string): Promise<void> {
  await database.query("update account set code_pending = $2::text where id = $1::int", [accountId, sealed]);
}

/** What was begun holds from here on. */
export async function keepCodes(
  database: Database,
  accountId: number,
  { step, recoveryHashes }: { readonly step: number; readonly recoveryHashes: readonly string[] },
): Promise<void> {
  await database.query(
    `update account set code_secret = code_pending, code_pending = null, code_step = $2::bigint, recovery_hashes = $3::jsonb
     where id = $1::int and code_pending is not null`,
    [accountId, step, JSON.stringify(recoveryHashes)],
  );
}

export async function dropCodes(database: Database, accountId: number): Promise<void> {
  await database.query(
    "update account set code_secret = null, code_pending = null, code_step = 0, recovery_hashes = '[]' where id = $1::int",
    [accountId],
  );
}

/** Takes the code of a step; false where it, or a later one, was taken before: also of two at once, one is. */
export async function takeStep(database: Database, accountId: number, step: number): Promise<boolean> {
  const { rowCount } = await database.query(
    "update account set code_step = $2::bigint where id = $1::int and code_step < $2::bigint",
    [accountId, step],
  );
  return rowCount === 1;
}

/** Takes a code for recovery, which is none any more; false where it was none. */
export async function takeRecovery(database: Database, accountId: number, hash: string): Promise<boolean> {
  const { rowCount } = await database.query(
    "update account set recovery_hashes = recovery_hashes - $2::text where id = $1::int and recovery_hashes ? $2::text",
    [accountId, hash],
  );
  return rowCount === 1;
}
