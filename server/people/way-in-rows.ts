import { type Database, inTransaction } from "../db/pool.ts";
import { Problem } from "../http/problem.ts";

/**
 * Changes a person's ways in by a statement whose first parameter is their number, one change after another, so that two
 * at once do not take both away. Answers whether anything changed. Throws a Problem where no way in would be left.
 */
export function changeWaysIn(
  database: Database,
  accountId: number,
  change: string,
  more: readonly unknown[],
): Promise<boolean> {
  return inTransaction(database, async (connection) => {
    await connection.query("select from account where id = $1::int for update", [accountId]);
    const { rowCount } = await connection.query(change, [accountId, ...more]);
    const { rows } = await connection.query<{ isLeft: boolean }>(
      `select password_hash is not null
         or exists (select from passkey where account_id = account.id)
         or exists (select from issued join issuer on settings->>'url' = issued.issuer where account_id = account.id)
         as "isLeft"
       from account
       where id = $1::int`,
      [accountId],
    );
    if (!rows[0]?.isLeft)
      throw new Problem(
        409,
        "it-is-your-last-way-in",
        "Without it you could not sign in any more. Set a password or add a passkey first.",
      );
    return (rowCount ?? 0) > 0;
  });
}

/** From here on the person has no password. Throws a Problem where they have nothing else. */
export async function dropPasswordHash(database: Database, accountId: number): Promise<void> {
  await changeWaysIn(database, accountId, "update account set password_hash = null where id = $1::int", []);
}

/** The issuer opens nothing for the person any more. Answers whether it did. Throws a Problem where they have nothing else. */
export function dropIssued(database: Database, accountId: number): Promise<boolean> {
  return changeWaysIn(database, accountId, "delete from issued where account_id = $1::int", []);
}
