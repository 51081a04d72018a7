import { parse } from "cookie";
import type { Request, RequestHandler } from "express";
import type { Database } from "../db/pool.ts";
import type { Account } from "../people/accounts.ts";
import { sessionAccount } from "../people/sessions.ts";
import { Problem } from "./problem.ts";

export const sessionCookie = "nubrel_session";

const accounts = new WeakMap<Request, Account>();

export const sessionToken = (request: Request): string | undefined => parse(request.headers.cookie ?? "")[sessionCookie];

/** Lets only people who are signed in pass. */
export function signedIn(database: Database): RequestHandler {
  return async (request, _response, next) => {
    const token = sessionToken(request);
    const account = token === undefined ? undefined : await sessionAccount(database, token);
    if (!account) throw new Problem(401, "Not signed in", "Sign in first; a session ends after seven days without use.");
    accounts.set(request, account);
    next();
  };
}

/** Who asks; only behind `signedIn`. */
export function accountOf(request: Request): Account {
  const account = accounts.get(request);
  if (!account) throw new Error(`${request.path} is not behind signedIn`);
  return account;
}

/**
 * Refuses writes that another site's page sends with this browser's cookie. Browsers name the origin of every such request
 * (Fetch standard, "origin" header; Fetch Metadata's Sec-Fetch-Site); one that names none is refused as well.
 */
export const sameOrigin: RequestHandler = (request, _response, next) => {
  if (request.method === "GET" || request.method === "HEAD") return next();
  const origin = request.headers.origin;
  const sameHost = origin !== undefined && URL.canParse(origin) && new URL(origin).host === request.headers.host;
  if (sameHost || (origin === undefined && request.headers["sec-fetch-site"] === "same-origin")) return next();
  throw new Problem(403, "Refused", "This write does not come from Nubrel's own pages (its origin is another, or is not named).");
};
