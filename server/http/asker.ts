import type { Request, RequestHandler } from "express";
import type { TokenScope } from "../../core/people/token-scope.ts";
import { Problem } from "./problem.ts";

export type Role = "owner";

/**
 * Who asks: a person who is signed in, or a token. Found out before any route of a subject by what lets requests in.
 */
export type Asker =
  | { readonly kind: "person"; readonly id: number; readonly name: string; readonly role: Role }
  | { readonly kind: "token"; readonly id: number; readonly scope: TokenScope };

const askers = new WeakMap<Request, Asker>();

/** Notes who asks, once that is known. */
export function noteAsker(request: Request, asker: Asker): void {
  askers.set(request, asker);
}

export const isToken = (request: Request): boolean => askers.get(request)?.kind === "token";

/** The number of the token that asks; undefined where a person does. */
export function tokenIdOf(request: Request): number | undefined {
  const asker = askers.get(request);
  return asker?.kind === "token" ? asker.id : undefined;
}

/**
 * Whether the one who asks is a token that may only read: it is shown neither secrets nor what nobody chose to gather.
 */
export function isReader(request: Request): boolean {
  const asker = askers.get(request);
  return asker?.kind === "token" && asker.scope === "read";
}

/** Refuses tokens that may only read. */
export const notForReaders: RequestHandler = (request, _response, next) => {
  if (isReader(request))
    throw new Problem(
      403,
      "This token may not see that",
      "It may read what is gathered. This can hold secrets, or what nobody chose to gather; it needs a token that may manage.",
    );
  next();
};

/** The person who asks. Throws a Problem where it is a token. */
export function personOf(request: Request): Extract<Asker, { kind: "person" }> {
  const asker = askers.get(request);
  if (!asker) throw new Error(`${request.path} is not behind a check of who asks`);
  if (asker.kind === "token")
    throw new Problem(401, "Not signed in", "A token is no person; this is for people who are signed in.");
  return asker;
}

/** The account of the person who asks, null where it is a token. */
export function accountIdOf(request: Request): number | null {
  return isToken(request) ? null : personOf(request).id;
}

/** The name of the person who asks; empty where it is a token. */
export const nameOf = (request: Request): string => (isToken(request) ? "" : personOf(request).name);

/** By whom something is done, in words that are kept beside it. */
export const byWhom = (request: Request): string => nameOf(request) || "a token";
