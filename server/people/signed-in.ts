import { basePathOf } from "../http/asked-below.ts";
import { nameByProxy } from "./by-proxy.ts";
import { createHash } from "node:crypto";
import { parse } from "cookie";
import type { Request, RequestHandler } from "express";
import { LRUCache } from "lru-cache";
import { provenMs } from "../../core/api/who-may.ts";
import { isDatabaseAway } from "../db/database-away.ts";
import type { Database } from "../db/pool.ts";
import { type SignedIn, sessionAccount } from "./session-rows.ts";
import { isWithoutCookie, linkAskerOf, noteAsker, tokenIdOf } from "../http/asker.ts";
import { Problem } from "../http/problem.ts";

export const sessionCookie = "nubrel_session";

/** What a browser that has signed in before is known by. */
export const browserCookie = "nubrel_browser";

/**
 * Over TLS a cookie is bound to this host and to TLS by its name (RFC 6265bis §4.1.3.2); such a one is sent to the whole
 * host, so that one of another Nubrel there is told from it by the path below which it is asked.
 */
export function cookieName(request: Request, name: string): string {
  const here = name + basePathOf(request).replaceAll("/", ".");
  return request.secure ? `__Host-${here}` : here;
}

export const cookieOf = (request: Request, name: string): string | undefined =>
  parse(request.headers.cookie ?? "")[cookieName(request, name)];

export const sessionToken = (request: Request): string | undefined => cookieOf(request, sessionCookie);

/** What a session is called where its token must not stand. */
export const sessionKey = (token: string): string => keyOfHash(createHash("sha256").update(token).digest());

/** The same, by the hash of its token. */
export const keyOfHash = (hash: Buffer): string => `session ${hash.toString("base64url")}`;

/** What the one who asks has signed in by: what that opens ends with it. Only behind `signedIn`. */
export function signInKey(request: Request): string {
  const link = linkAskerOf(request);
  if (link) return linkKey(link.id);
  const token = tokenIdOf(request);
  return token === undefined ? sessionKey(sessionToken(request) ?? "") : tokenKey(token);
}

export const linkKey = (id: number): string => `link ${id}`;

export const tokenKey = (id: number): string => `token ${id}`;

/** Who was signed in lately: while the database is away, what is in memory can still be looked at. */
const seen = new LRUCache<string, SignedIn>({ max: 1000, ttl: 1_800_000 });

/** Lookups that are on their way: a page asks for several things at once, by one sign-in. */
const onTheWay = new Map<string, ReturnType<typeof sessionAccount>>();

/** To be called when a session ends, by what it is called. */
export function forgetSession(key: string): void {
  seen.delete(key);
  onTheWay.delete(key);
}

/** Lets only people who are signed in pass; where a proxy says who comes, those alone whom it says. */
export function signedIn(database: Database, acting: () => number, signInHeader?: string): RequestHandler {
  return async (request, _response, next) => {
    if (isWithoutCookie(request)) return next();
    const token = sessionToken(request);
    const account = token === undefined ? undefined : await accountOfToken(database, token, acting());
    const proxied = nameByProxy(request, signInHeader);
    const isAnother = proxied !== undefined && proxied.toLowerCase() !== account?.name.toLowerCase();
    if (!account || isAnother)
      throw new Problem(401, "not-signed-in", "Sign in first; a session ends after seven days without use.");
    const { provenAtMs, ...person } = account;
    noteAsker(request, { kind: "person", ...person, isProven: acting() - provenAtMs < provenMs });
    next();
  };
}

function lookUp(database: Database, token: string, nowMs: number): ReturnType<typeof sessionAccount> {
  const key = sessionKey(token);
  const known = onTheWay.get(key);
  if (known) return known;
  const asked = sessionAccount(database, token, nowMs).finally(() => {
    if (onTheWay.get(key) === asked) onTheWay.delete(key);
  });
  onTheWay.set(key, asked);
  return asked;
}

async function accountOfToken(database: Database, token: string, nowMs: number): Promise<SignedIn | undefined> {
  try {
    const account = await lookUp(database, token, nowMs);
    if (account) seen.set(sessionKey(token), account);
    else seen.delete(sessionKey(token));
    return account;
  } catch (error) {
    const known = seen.get(sessionKey(token));
    if (isDatabaseAway(error) && known) return known;
    throw error;
  }
}

/**
 * Refuses writes that another site's page sends with this browser's cookie. Browsers name the origin of every such
 * request
 * (Fetch standard, "origin" header; Fetch Metadata's Sec-Fetch-Site); one that names none is refused as well.
 */
export const sameOrigin: RequestHandler = (request, _response, next) => {
  if (request.method === "GET" || request.method === "HEAD" || isWithoutCookie(request)) return next();
  const origin = request.headers.origin;
  const sameHost = origin !== undefined && URL.canParse(origin) && new URL(origin).host === request.host;
  if (sameHost || (origin === undefined && request.headers["sec-fetch-site"] === "same-origin")) return next();
  throw new Problem(
    403,
    "refused",
    "This write does not come from Nubrel's own pages (its origin is another, or is not named).",
  );
};
