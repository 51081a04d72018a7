import type { TokenView } from "../../core/api/tokens.ts";
import type { TokenScope } from "../../core/people/token-scope.ts";
import type { Database } from "../db/pool.ts";

export interface KnownToken {
  readonly id: number;
  readonly scope: TokenScope;
  readonly sourceId: number | null;
  readonly untilMs: number | null;
  readonly addresses: readonly string[];
}

const ms = (column: string) => `(extract(epoch from ${column}) * 1000)::float8`;
const columns = `token.id, token.name, scope, source_id as "sourceId", ${ms("token.created_at")} as "createdAtMs", ${ms("last_used_at")} as "lastUsedAtMs", ${ms("revoked_at")} as "revokedAtMs", to_char(until_at at time zone 'utc', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') as until, addresses, created_by as by`;

/** What a token is made with. */
export interface TokenWish {
  readonly name: string;
  readonly scope: TokenScope;
  readonly sourceId: number | null;
  readonly until?: string | null;
  readonly addresses?: readonly string[];
  readonly by?: string;
}

export async function insertToken(
  database: Database,
  { name, scope, sourceId, until = null, addresses = [], by = "" }: TokenWish,
  hash: Buffer,
): Promise<TokenView> {
  const { rows } = await database.query<TokenView>(
    `insert into token (name, scope, source_id, hash, until_at, addresses, created_by)
     values ($1::text, $2::text, $3::int, $4::bytea, $5::timestamptz, $6::jsonb, $7::text)
     returning ${columns}`,
    [name, scope, sourceId, hash, until, JSON.stringify(addresses), by],
  );
  return rows[0] as TokenView;
}

/** All but those of sources that were removed. */
export async function listTokenRows(database: Database): Promise<readonly TokenView[]> {
  const { rows } = await database.query<TokenView>(
    `select ${columns} from token left join source on source.id = source_id where source.removed_at is null order by token.id`,
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

/** The token of a hash; undefined where there is none, it was revoked, or its source was removed; whether it has ended is for whoever asks. */
export async function tokenOfHash(database: Database, hash: Buffer): Promise<KnownToken | undefined> {
  const { rows } = await database.query<KnownToken>(
    `select token.id, scope, source_id as "sourceId", ${ms("until_at")} as "untilMs", addresses
     from token left join source on source.id = source_id
     where hash = $1::bytea and revoked_at is null and source.removed_at is null`,
    [hash],
  );
  return rows[0];
}

export async function noteTokenUsed(database: Database, id: number): Promise<void> {
  await database.query("update token set last_used_at = now() where id = $1::int", [id]);
}
