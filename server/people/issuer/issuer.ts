import {
  allowInsecureRequests,
  authorizationCodeGrant,
  buildAuthorizationUrl,
  calculatePKCECodeChallenge,
  ClientSecretPost,
  type Configuration,
  discovery,
  enableNonRepudiationChecks,
  fetchUserInfo,
  None,
  randomNonce,
  randomPKCECodeVerifier,
  randomState,
} from "openid-client";
import type { IssuerSettings, NotInReason } from "../../../core/api/issuer.ts";
import type { ClaimRoles } from "../../../core/people/role-by-claim.ts";
import type { Database } from "../../db/pool.ts";
import type { SecretBox } from "../../sources/secret-box.ts";
import { issuerRow, type KeptIssuer } from "./issuer-rows.ts";

/** Somebody came back and is not let in. */
export class NotIn extends Error {
  override name = "NotIn";
  readonly reason: NotInReason;

  constructor(reason: NotInReason, cause?: unknown) {
    super(`not in: ${reason}`, { cause });
    this.reason = reason;
  }
}

/** The issuer cannot be asked; the message says why. */
export class IssuerError extends Error {
  override name = "IssuerError";
}

/** What is asked for, and kept sealed in the browser until it comes back. */
export interface Asked {
  readonly kind: "enter" | "link" | "prove";
  readonly state: string;
  readonly nonce: string;
  readonly verifier: string;
  /** A path of the interface. */
  readonly to: string;
  /** When the browser has to be back. */
  readonly untilMs: number;
  /** Who is signed in, where somebody is: their account and session. */
  readonly accountId?: number;
  readonly sessionId?: number;
}

/** What the issuer says of somebody, checked. */
export interface Told {
  readonly issuer: string;
  readonly subject: string;
  readonly claims: Readonly<Record<string, unknown>>;
  /** What its claims make of people. */
  readonly roles: ClaimRoles;
}

const askedForMs = 600_000;
const timeoutSeconds = 10;
/** What an issuer can do is asked again after this long. */
const knownForMs = 3_600_000;
/** A subject is ASCII, of 255 characters at most (OpenID Connect Core 1.0, §2). */
const isSubject = /^[\x20-\x7e]{1,255}$/;
const onThisMachine = /^(localhost|127\.\d+\.\d+\.\d+|\[::1\])$/;

/**
 * Asks an issuer of one's own who somebody is: the authorization code flow with PKCE (OpenID Connect Core 1.0, §3.1; RFC
 * 7636), the token's signature checked besides (§3.1.3.7).
 */
export class Issuer {
  readonly #database: Database;
  readonly #box: SecretBox;
  #known: { readonly of: string; readonly configuration: Configuration; readonly untilMs: number } | undefined;

  constructor(database: Database, box: SecretBox) {
    this.#database = database;
    this.#box = box;
  }

  /** Undefined where there is none. */
  async settings(): Promise<IssuerSettings | undefined> {
    return (await issuerRow(this.#database))?.settings;
  }

  /** Asks what an issuer can do. Throws IssuerError. */
  async reach({ settings: { url, clientId }, secret }: KeptIssuer): Promise<Configuration> {
    const opened = secret === null ? None() : ClientSecretPost(this.#box.unseal(Buffer.from(secret, "base64")));
    const address = new URL(url);
    const isPlain = address.protocol === "http:";
    if (isPlain && !onThisMachine.test(address.hostname))
      throw new IssuerError("An issuer is asked over HTTPS, unless it runs on this machine.");
    try {
      return await discovery(address, clientId, undefined, opened, {
        execute: [enableNonRepudiationChecks, ...(isPlain ? [allowInsecureRequests] : [])],
        timeout: timeoutSeconds,
      });
    } catch (error) {
      throw new IssuerError(`${url} did not answer as an issuer: ${reasonOf(error)}`, { cause: error });
    }
  }

  /** Begins to ask: the address that the browser goes to, and what it keeps meanwhile. Throws IssuerError. */
  async begin(
    back: string,
    wish: Pick<Asked, "kind" | "to" | "accountId" | "sessionId">,
  ): Promise<{ readonly url: string; readonly sealed: string }> {
    const { configuration, settings } = await this.#configured();
    const asked: Asked = {
      ...wish,
      ...{ state: randomState(), nonce: randomNonce(), verifier: randomPKCECodeVerifier() },
      untilMs: Date.now() + askedForMs,
    };
    const url = buildAuthorizationUrl(configuration, {
      ...{ redirect_uri: back, scope: settings.scopes, state: asked.state, nonce: asked.nonce },
      ...{ code_challenge: await calculatePKCECodeChallenge(asked.verifier), code_challenge_method: "S256" },
      ...(wish.kind === "prove" && { prompt: "login", max_age: "0" }),
    });
    return { url: url.href, sealed: this.#box.seal(JSON.stringify(asked)).toString("base64url") };
  }

  /** What was asked for, of what a browser kept; undefined where that is not ours, or too late. */
  asked(sealed: string | undefined): Asked | undefined {
    try {
      const asked = JSON.parse(this.#box.unseal(Buffer.from(sealed ?? "", "base64url"))) as Asked;
      return asked.untilMs > Date.now() && typeof asked.verifier === "string" ? asked : undefined;
    } catch {
      return undefined; // of another key, or changed
    }
  }

  /** What the issuer says of whoever came back to this address. Throws NotIn. */
  async told(address: URL, asked: Asked): Promise<Told> {
    const { error } = Object.fromEntries(address.searchParams);
    if (error !== undefined && address.searchParams.get("state") === asked.state) throw new NotIn("refused");
    const { configuration, settings } = await this.#configured().catch((away: unknown) => {
      throw new NotIn("away", away);
    });
    try {
      const tokens = await authorizationCodeGrant(configuration, address, {
        ...{ pkceCodeVerifier: asked.verifier, expectedState: asked.state, expectedNonce: asked.nonce },
        ...(asked.kind === "prove" && { maxAge: 0 }),
        idTokenExpected: true,
      });
      const inToken = tokens.claims();
      if (!inToken || !isSubject.test(inToken.sub)) throw new NotIn("unsure");
      const asides = configuration.serverMetadata().userinfo_endpoint
        ? await fetchUserInfo(configuration, tokens.access_token, inToken.sub)
        : {};
      const { url: issuer, roles } = settings;
      return { issuer, subject: inToken.sub, claims: { ...asides, ...inToken }, roles };
    } catch (failure) {
      throw failure instanceof NotIn ? failure : new NotIn("unsure", failure);
    }
  }

  async #configured(): Promise<{ readonly configuration: Configuration; readonly settings: IssuerSettings }> {
    const kept = await issuerRow(this.#database);
    if (!kept) throw new IssuerError("There is no issuer to sign in by.");
    const of = JSON.stringify(kept);
    if (this.#known?.of !== of || this.#known.untilMs < performance.now()) {
      const configuration = await this.reach(kept);
      this.#known = { of, configuration, untilMs: performance.now() + knownForMs };
    }
    return { configuration: this.#known.configuration, settings: kept.settings };
  }
}

/** The deepest cause that says something. */
function reasonOf(error: unknown): string {
  const { message, cause } = error as { message?: string; cause?: unknown };
  const deeper = cause instanceof Error ? reasonOf(cause) : "";
  return deeper || (message ?? String(error));
}
