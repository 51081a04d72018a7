import { createHash, randomBytes } from "node:crypto";
import type { SessionView } from "../../core/api/people.ts";
import type { Database } from "../db/pool.ts";
import type { Account } from "./account-rows.ts";

/**
 * `nowMs` is the time that may be acted on (clock/server-clock.ts): a clock that is wrong signs nobody out. Signed out
 * after this long without use, and in any case after the second span (OWASP ASVS 4.0 §3.3.2, level 1: 30 days).
 */
const idleSpan = "7 days";
const longestSpan = "30 days";

const hashOf = (token: string) => createHash("sha256").update(token).digest();

/** Where a session is used: the browser in words, and the address it came from. */
export interface Whereabouts {
  readonly device: string;
  readonly place: string;
}

/** Who a session is of. */
export interface SignedIn extends Account {
  readonly sessionId: number;
  /** When the person last showed who they are. */
  readonly provenAtMs: number;
}

/**
 * Opens a session and returns its token, 256 random bits; what the browser sent before is closed, so that a planted one
 * gains nothing.
 */
export async function openSession(
  database: Database,
  accountId: number,
  tokenBefore: string | undefined,
  nowMs: number,
  { device, place }: Whereabouts = { device: "", place: "" },
): Promise<string> {
  if (tokenBefore) await closeSession(database, tokenBefore);
  const token = randomBytes(32).toString("base64url");
  await database.query(
    `insert into session (token_hash, account_id, created_at, last_seen_at, proven_at, device, place)
     select $1::bytea, $2::int, moment, moment, moment, $4::text, $5::text
     from to_timestamp($3::float8 / 1000) as moment`,
    [hashOf(token), accountId, nowMs, device, place],
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
export async function sessionAccount(database: Database, token: string, nowMs: number): Promise<SignedIn | undefined> {
  const { rows } = await database.query<SignedIn & { stale: boolean }>({
    name: "session-account", // every request asks: prepared once
    text: `select account.id, account.name, account.role, account.limits, session.id as "sessionId",
       (extract(epoch from session.proven_at) * 1000)::float8 as "provenAtMs",
       session.last_seen_at < to_timestamp($4::float8 / 1000) - interval '1 minute' as stale
     from session
     join account on account.id = session.account_id
     where token_hash = $1::bytea
       and account.removed_at is null
       and session.last_seen_at >= to_timestamp($4::float8 / 1000) - $2::interval
       and session.created_at >= to_timestamp($4::float8 / 1000) - $3::interval`,
    values: [hashOf(token), idleSpan, longestSpan, nowMs],
  });
  const found = rows[0];
  if (!found) return undefined;
  if (found.stale)
    await database.query(
      "update session set last_seen_at = to_timestamp($2::float8 / 1000) where token_hash = $1::bytea",
      [hashOf(token), nowMs],
    );
  const { stale: _, ...account } = found;
  return account;
}

/** What a person has open, newest first; nothing that has ended by itself. */
export async function listSessions(
  database: Database,
  accountId: number,
  nowMs: number,
): Promise<readonly SessionView[]> {
  const { rows } = await database.query<SessionView>(
    `select id, device, place, (extract(epoch from created_at) * 1000)::float8 as "createdAtMs",
       (extract(epoch from last_seen_at) * 1000)::float8 as "lastSeenAtMs", false as "isThis"
     from session
     where account_id = $1::int
       and last_seen_at >= to_timestamp($4::float8 / 1000) - $2::interval
       and created_at >= to_timestamp($4::float8 / 1000) - $3::interval
     order by last_seen_at desc, id desc`,
    [accountId, idleSpan, longestSpan, nowMs],
  );
  return rows;
}

/**
 * Ends sessions of a person: one by its number, or all, but for one that may be spared. Answers the hashes of their
 * tokens.
 */
export async function closeSessions(
  database: Database,
  accountId: number,
  which: { readonly only?: number; readonly but?: number },
): Promise<readonly Buffer[]> {
  const { rows } = await database.query<{ token_hash: Buffer }>(
    `delete from session
     where account_id = $1::int and ($2::int is null or id = $2::int) and ($3::int is null or id <> $3::int)
     returning token_hash`,
    [accountId, which.only ?? null, which.but ?? null],
  );
  return rows.map(({ token_hash }) => token_hash);
}

/** A person has shown again who they are. */
export async function noteProof(database: Database, sessionId: number, nowMs: number): Promise<void> {
  await database.query("update session set proven_at = to_timestamp($2::float8 / 1000) where id = $1::int", [
    sessionId,
    nowMs,
  ]);
}

/** The hashes of the tokens of what a person has open. */
export async function sessionHashes(database: Database, accountId: number): Promise<readonly Buffer[]> {
  const { rows } = await database.query<{ hash: Buffer }>(
    "select token_hash as hash from session where account_id = $1::int",
    [accountId],
  );
  return rows.map(({ hash }) => hash);
}
