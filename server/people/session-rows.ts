import { createHash, randomBytes } from "node:crypto";
import type { Database } from "../db/pool.ts";
import type { Account } from "./account-rows.ts";

/**
 * `nowMs` is the time that may be acted on (clock/server-clock.ts): a clock that is wrong signs nobody out. Signed out
 * after this long without use, and in any case after the second span (OWASP ASVS 4.0 §3.3.2, level 1: 30 days).
 */
const idleSpan = "7 days";
const longestSpan = "30 days";

const hashOf = (token: string) => createHash("sha256").update(token).digest();

/**
 * Opens a session and returns its token, 256 random bits; what the browser sent before is closed, so that a planted one
 * gains nothing.
 */
export async function openSession(
  database: Database,
  accountId: number,
  tokenBefore: string | undefined,
  nowMs: number,
): Promise<string> {
  if (tokenBefore) await closeSession(database, tokenBefore);
  const token = randomBytes(32).toString("base64url");
  await database.query(
    "insert into session (token_hash, account_id, created_at, last_seen_at) values ($1::bytea, $2::int, to_timestamp($3::float8 / 1000), to_timestamp($3::float8 / 1000))",
    [hashOf(token), accountId, nowMs],
  );
  await database.query(
    "delete from session where last_seen_at < to_timestamp($3::float8 / 1000) - $1::interval or created_at < to_timestamp($3::float8 / 1000) - $2::interval",
    [idleSpan, longestSpan, nowMs],
  );
  return token;
}

export async function closeSession(database: Database, token: string): Promise<void> {
  await database.query("delete from session where token_hash = $1::bytea", [hashOf(token)]);
}

/** Whose session it is; its last use is noted at most once a minute. */
export async function sessionAccount(database: Database, token: string, nowMs: number): Promise<Account | undefined> {
  const { rows } = await database.query<Account & { stale: boolean }>(
    `select account.id, account.name, account.role, session.last_seen_at < to_timestamp($4::float8 / 1000) - interval '1 minute' as stale
     from session
     join account on account.id = session.account_id
     where token_hash = $1::bytea
       and session.last_seen_at >= to_timestamp($4::float8 / 1000) - $2::interval
       and session.created_at >= to_timestamp($4::float8 / 1000) - $3::interval`,
    [hashOf(token), idleSpan, longestSpan, nowMs],
  );
  const found = rows[0];
  if (!found) return undefined;
  if (found.stale)
    await database.query(
      "update session set last_seen_at = to_timestamp($2::float8 / 1000) where token_hash = $1::bytea",
      [hashOf(token), nowMs],
    );
  return { id: found.id, name: found.name, role: found.role };
}
