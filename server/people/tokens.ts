import { createHash, randomBytes } from "node:crypto";
import type { TokenScope } from "../../core/people/token-scope.ts";
import type { TokenView } from "../../core/api/tokens.ts";
import type { Database } from "../db/pool.ts";

/** So that a token is recognised where it was left lying about. */
const prefix = "nub_";
/** A use is written down at most this often. */
const noteUseEveryMs = 30_000;
const rememberedMs = 10_000;
const mostRemembered = 10_000;

export interface KnownToken {
  readonly id: number;
  readonly scope: TokenScope;
  readonly sourceId: number | null;
}

const hashOf = (token: string) => createHash("sha256").update(token).digest();

/**
 * Makes, checks and revokes tokens. A token's text is told once and kept as a hash: it is 32 random bytes, so that no
 * slow hash is needed (OWASP ASVS 4.0, 2.9 and 3.5).
 */
export class Tokens {
  readonly #database: Database;
  readonly #seen = new Map<
    string,
    { readonly token: KnownToken | undefined; readonly atMs: number; notedMs: number }
  >();

  constructor(database: Database) {
    this.#database = database;
  }

  async create(
    name: string,
    scope: TokenScope,
    sourceId: number | null,
  ): Promise<{ readonly token: string; readonly view: TokenView }> {
    const token = prefix + randomBytes(32).toString("base64url");
    const { rows } = await this.#database.query<TokenView>(
      `insert into token (name, scope, source_id, hash)
       values ($1::text, $2::text, $3::int, $4::bytea)
       returning ${columns}`,
      [name, scope, sourceId, hashOf(token)],
    );
    return { token, view: rows[0] as TokenView };
  }

  async list(): Promise<readonly TokenView[]> {
    const { rows } = await this.#database.query<TokenView>(
      `select ${columns} from token left join source on source.id = source_id where source.removed_at is null order by token.id`,
    );
    return rows;
  }

  /** Takes effect at once. False where there is no such token, or it was revoked before. */
  async revoke(id: number): Promise<boolean> {
    const { rowCount } = await this.#database.query(
      "update token set revoked_at = now() where id = $1::int and revoked_at is null",
      [id],
    );
    this.#seen.clear();
    return rowCount === 1;
  }

  /** Whose token this is; undefined for one that is unknown or revoked. Remembered for ten seconds. */
  async check(text: string, nowMs = Date.now()): Promise<KnownToken | undefined> {
    const hash = hashOf(text);
    const key = hash.toString("base64");
    let seen = this.#seen.get(key);
    if (!seen || nowMs - seen.atMs > rememberedMs) {
      const { rows } = await this.#database.query<KnownToken>(
        `select token.id, scope, source_id as "sourceId"
         from token left join source on source.id = source_id
         where hash = $1::bytea and revoked_at is null and source.removed_at is null`,
        [hash],
      );
      if (this.#seen.size >= mostRemembered) this.#seen.clear();
      seen = { token: rows[0], atMs: nowMs, notedMs: seen?.notedMs ?? 0 };
      this.#seen.set(key, seen);
    }
    if (seen.token && nowMs - seen.notedMs > noteUseEveryMs) {
      seen.notedMs = nowMs;
      void this.#database
        .query("update token set last_used_at = now() where id = $1::int", [seen.token.id])
        .catch(() => {});
    }
    return seen.token;
  }
}

const ms = (column: string) => `(extract(epoch from ${column}) * 1000)::float8`;
const columns = `token.id, token.name, scope, source_id as "sourceId", ${ms("token.created_at")} as "createdAtMs", ${ms("last_used_at")} as "lastUsedAtMs", ${ms("revoked_at")} as "revokedAtMs"`;
