import { createHash, randomBytes } from "node:crypto";
import type { TokenView } from "../../core/api/tokens.ts";
import type { Database } from "../db/pool.ts";
import { isFrom } from "./address-range.ts";
import {
  insertToken,
  type KnownToken,
  listTokenRows,
  noteTokenUsed,
  revokeToken,
  tokenOfHash,
  tokensOfPerson,
  type TokenWish,
} from "./token-rows.ts";

/** So that a token is recognised where it was left lying about. */
const prefix = "nub_";
/** A use is written down at most this often. */
const noteUseEveryMs = 30_000;
const rememberedMs = 10_000;
const mostRemembered = 10_000;

const hashOf = (token: string) => createHash("sha256").update(token).digest();

/**
 * Makes, checks and revokes tokens. A token's text is told once and kept as a hash: it is 32 random bytes, so that no
 * slow hash is needed (OWASP ASVS 4.0, 2.9 and 3.5).
 */
export class Tokens {
  readonly #database: Database;
  readonly #rememberedMs: number;
  readonly #seen = new Map<
    string,
    { readonly token: KnownToken | undefined; readonly atMs: number; notedMs: number }
  >();

  /** `rememberedFor` is how long the answer of the database holds, ms: 0 where another server revokes tokens. */
  constructor(database: Database, rememberedFor = rememberedMs) {
    this.#database = database;
    this.#rememberedMs = rememberedFor;
  }

  async create(wish: TokenWish): Promise<{ readonly token: string; readonly view: TokenView }> {
    const token = prefix + randomBytes(32).toString("base64url");
    const view = await insertToken(this.#database, wish, hashOf(token));
    return { token, view };
  }

  async list(): Promise<readonly TokenView[]> {
    return await listTokenRows(this.#database);
  }

  async ofPerson(accountId: number): Promise<readonly TokenView[]> {
    return await tokensOfPerson(this.#database, accountId);
  }

  /** What somebody may is another now: their tokens are looked up anew. */
  forget(): void {
    this.#seen.clear();
  }

  /** Takes effect at once. False where there is no such token, or it was revoked before. */
  async revoke(id: number): Promise<boolean> {
    const revoked = await revokeToken(this.#database, id);
    this.#seen.clear();
    return revoked;
  }

  /**
   * Whose token this is; undefined for one that is unknown or revoked, has ended, or is used from an address that it is
   * not for. Remembered for ten seconds.
   */
  async check(text: string, address: string | undefined, nowMs = Date.now()): Promise<KnownToken | undefined> {
    const hash = hashOf(text);
    const key = hash.toString("base64");
    let seen = this.#seen.get(key);
    if (!seen || nowMs - seen.atMs > this.#rememberedMs) {
      const token = await tokenOfHash(this.#database, hash);
      if (this.#seen.size >= mostRemembered) this.#seen.clear();
      seen = { token, atMs: nowMs, notedMs: seen?.notedMs ?? 0 };
      this.#seen.set(key, seen);
    }
    const { token } = seen;
    if (!token || (token.untilMs !== null && nowMs >= token.untilMs) || !isFrom(token.addresses, address))
      return undefined;
    if (nowMs - seen.notedMs > noteUseEveryMs) {
      seen.notedMs = nowMs;
      void noteTokenUsed(this.#database, token.id).catch(() => {});
    }
    return token;
  }
}
