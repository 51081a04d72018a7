import type { Account } from "./account-rows.ts";
import type { TokenView } from "../../core/api/tokens.ts";
import type { TokenScope } from "../../core/people/token-scope.ts";
import type { Database } from "../db/pool.ts";

export interface KnownToken {
  readonly id: number;
  readonly scope: TokenScope;
  readonly sourceId: number | null;
  readonly untilMs: number | null;
  readonly addresses: readonly string[];
  /** Whose it is; null for a program's. */
  readonly person: Account | null;
}

const ms = (column: string) => `(extract(epoch from ${column}) * 1000)::float8`;
const columns = `token.id, token.name, scope, source_id as "sourceId", ${ms("token.created_at")} as "createdAtMs", ${ms("last_used_at")} as "lastUsedAtMs", ${ms("revoked_at")} as "revokedAtMs", to_char(until_at at time zone 'utc', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') as until, addresses, created_by as by, account.name as of`;
const tables = "token left join source on source.id = source_id left join account on account.id = token.account_id";
const isThere = "source.removed_at is null and account.removed_at is null";

/** What a token is made with. */
export interface TokenWish {
  readonly name: string;
  readonly scope: TokenScope;
  readonly sourceId: number | null;
  readonly until?: string | null;
  readonly addresses?: readonly string[];
  readonly by?: string;
  /** Whose it is to be; without it a program's. */
  readonly accountId?: number;
}

export async function insertToken(
  database: Database,
  { name, scope, sourceId, until = null, addresses = [], by = "", accountId }: TokenWish,
  hash: Buffer,
): Promise<TokenView> {
  const { rows } = await database.query<TokenView>(
    `with token as (
       insert into token (name, scope, source_id, hash, until_at, addresses, created_by, account_id)
       values ($1::text, $2::text, $3::int, $4::bytea, $5::timestamptz, $6::jsonb, $7::text, $8::int)
       returning *
     )
     select ${columns} from ${tables}`,
    [name, scope, sourceId, hash, until, JSON.stringify(addresses), by, accountId ?? null],
  );
  return rows[0] as TokenView;
}

/** All but those of sources that were removed, and of people who left. */
export async function listTokenRows(database: Database): Promise<readonly TokenView[]> {
  const { rows } = await database.query<TokenView>(
    `select ${columns} from ${tables} where ${isThere} order by token.id`,
  );
  return rows;
}

/** Those of a person, who may have left. */
export async function tokensOfPerson(database: Database, accountId: number): Promise<readonly TokenView[]> {
  const { rows } = await database.query<TokenView>(
    `select ${columns} from ${tables} where account_id = $1::int order by token.id`,
    [accountId],
  );
  return rows;
}

/** False where there is no such token, or it was revoked before. */
export async function revokeToken(database: Database, id: number): Promise<boolean> {
  const { rowCount } = await database.query(
    "update token set revoked_at = now() where id = $1::int and revoked_at is null",
    [id],
  );
  return rowCount === 1;
}

/** All that a person made for themselves open nothing any more. */
export async function revokeTokensOf(database: Database, accountId: number): Promise<void> {
  await database.query("update token set revoked_at = now() where account_id = $1::int and revoked_at is null", [
    accountId,
  ]);
}

/** The token of a hash; undefined where there is none, it was revoked, its source was removed or its person left; whether it has ended is for whoever asks. */
export async function tokenOfHash(database: Database, hash: Buffer): Promise<KnownToken | undefined> {
  const { rows } = await database.query<KnownToken>(
    `select token.id, scope, source_id as "sourceId", ${ms("until_at")} as "untilMs", addresses,
       case when account.id is not null then
         jsonb_build_object('id', account.id, 'name', account.name, 'role', account.role, 'limits', account.limits)
       end as person
     from ${tables}
     where hash = $1::bytea and revoked_at is null and ${isThere}`,
    [hash],
  );
  return rows[0];
}

export async function noteTokenUsed(database: Database, id: number): Promise<void> {
  await database.query("update token set last_used_at = now() where id = $1::int", [id]);
}
