import { createHash, randomBytes } from "node:crypto";
import type { Database } from "../db/pool.ts";
import type { Account } from "./accounts.ts";

/** Signed out after this long without use, and in any case after the second span (OWASP ASVS 4.0 §3.3.2, level 1: 30 days). */
const idleSpan = "7 days";
const longestSpan = "30 days";

const hashOf = (token: string) => createHash("sha256").update(token).digest();

/** Opens a session and returns its token, 256 random bits; what the browser sent before is closed, so that a planted one gains nothing. */
export async function openSession(database: Database, accountId: number, tokenBefore: string | undefined): Promise<string> {
  if (tokenBefore) await closeSession(database, tokenBefore);
  const token = randomBytes(32).toString("base64url");
  await database.query("insert into session (token_hash, account_id) values ($1::bytea, $2::int)", [hashOf(token), accountId]);
  await database.query("delete from session where last_seen_at < now() - $1::interval or created_at < now() - $2::interval", [idleSpan, longestSpan]);
  return token;
}

export async function closeSession(database: Database, token: string): Promise<void> {
  await database.query("delete from session where token_hash = $1::bytea", [hashOf(token)]);
}

/** Whose session it is; its last use is noted at most once a minute. */
export async function sessionAccount(database: Database, token: string): Promise<Account | undefined> {
  const { rows } = await database.query<Account & { stale: boolean }>(
    `select account.id, account.name, account.role, session.last_seen_at < now() - interval '1 minute' as stale
     from session
     join account on account.id = session.account_id
     where token_hash = $1::bytea
       and session.last_seen_at >= now() - $2::interval
       and session.created_at >= now() - $3::interval`,
    [hashOf(token), idleSpan, longestSpan],
  );
  const found = rows[0];
  if (!found) return undefined;
  if (found.stale) await database.query("update session set last_seen_at = now() where token_hash = $1::bytea", [hashOf(token)]);
  return { id: found.id, name: found.name, role: found.role };
}
