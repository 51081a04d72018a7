import type { TokenView } from "../../core/api/tokens.ts";
import type { TokenScope } from "../../core/people/token-scope.ts";
import type { Database } from "../db/pool.ts";

export interface KnownToken {
  readonly id: number;
  readonly scope: TokenScope;
  readonly sourceId: number | null;
}

const ms = (column: string) => `(extract(epoch from ${column}) * 1000)::float8`;
const columns = `token.id, token.name, scope, source_id as "sourceId", ${ms("token.created_at")} as "createdAtMs", ${ms("last_used_at")} as "lastUsedAtMs", ${ms("revoked_at")} as "revokedAtMs"`;

export async function insertToken(
  database: Database,
  {
    name,
    scope,
    sourceId,
    hash,
  }: { readonly name: string; readonly scope: TokenScope; readonly sourceId: number | null; readonly hash: Buffer },
): Promise<TokenView> {
  const { rows } = await database.query<TokenView>(
    `insert into token (name, scope, source_id, hash)
     values ($1::text, $2::text, $3::int, $4::bytea)
     returning ${columns}`,
    [name, scope, sourceId, hash],
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

/** The token of a hash; undefined where there is none, it was revoked, or its source was removed. */
export async function tokenOfHash(database: Database, hash: Buffer): Promise<KnownToken | undefined> {
  const { rows } = await database.query<KnownToken>(
    `select token.id, scope, source_id as "sourceId"
     from token left join source on source.id = source_id
     where hash = $1::bytea and revoked_at is null and source.removed_at is null`,
    [hash],
  );
  return rows[0];
}

export async function noteTokenUsed(database: Database, id: number): Promise<void> {
  await database.query("update token set last_used_at = now() where id = $1::int", [id]);
}
