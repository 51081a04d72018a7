import type { Request } from "express";
import type { Limits, Role } from "../../core/people/roles.ts";
import type { TokenScope } from "../../core/people/token-scope.ts";
import type { Caller } from "../../core/api/who-may.ts";
import { Problem } from "./problem.ts";

/**
 * Who asks: a person who is signed in, or a token. Found out before any route of a subject by what lets requests in.
 */
export type Asker =
  | {
      readonly kind: "person";
      readonly id: number;
      readonly name: string;
      readonly role: Role;
      /** What a viewer is held to; null where nothing is held back. */
      readonly limits: Limits | null;
      readonly sessionId: number;
      /** Whether they showed who they are within the last minutes. */
      readonly isProven: boolean;
    }
  | { readonly kind: "token"; readonly id: number; readonly scope: TokenScope }
  | { readonly kind: "link"; readonly id: number; readonly name: string };

const askers = new WeakMap<Request, Asker>();

/** Notes who asks, once that is known. */
export function noteAsker(request: Request, asker: Asker): void {
  askers.set(request, asker);
}

/** What the one who asks counts as in the table of who may ask what. */
export function callerOf(request: Request): Caller {
  const asker = askers.get(request);
  if (!asker) return "nobody";
  if (asker.kind === "token") return asker.scope;
  if (asker.kind === "link") return "link";
  return asker.role === "viewer" && asker.limits ? "held viewer" : asker.role;
}

export const isToken = (request: Request): boolean => askers.get(request)?.kind === "token";

/** The number and name of the link that was opened; undefined where a person or a token asks. */
export function linkAskerOf(request: Request): Extract<Asker, { kind: "link" }> | undefined {
  const asker = askers.get(request);
  return asker?.kind === "link" ? asker : undefined;
}

/** Whether the one who asks shows it in the request itself, and not by a cookie that a browser adds. */
export const isWithoutCookie = (request: Request): boolean => isToken(request) || linkAskerOf(request) !== undefined;

/** The number of the token that asks; undefined where a person does. */
export function tokenIdOf(request: Request): number | undefined {
  const asker = askers.get(request);
  return asker?.kind === "token" ? asker.id : undefined;
}

/** Whether the one who asks only looks: such a one is shown neither secrets nor what nobody chose to gather. */
export const onlyLooks = (request: Request): boolean =>
  (["viewer", "held viewer", "read"] as readonly Caller[]).includes(callerOf(request));

/** The person who asks. Throws a Problem where it is a token. */
export function personOf(request: Request): Extract<Asker, { kind: "person" }> {
  const asker = askers.get(request);
  if (!asker) throw new Error(`${request.path} is not behind a check of who asks`);
  if (asker.kind !== "person")
    throw new Problem(401, "Not signed in", `A ${asker.kind} is no person; this is for people who are signed in.`);
  return asker;
}

/** What the person who asks is held to; null where nothing is held back, and for tokens. */
export function limitsOf(request: Request): Limits | null {
  const asker = askers.get(request);
  return asker?.kind === "person" && asker.role === "viewer" ? asker.limits : null;
}

/** The account of the person who asks, null where it is a token. */
export function accountIdOf(request: Request): number | null {
  return isWithoutCookie(request) ? null : personOf(request).id;
}

/** The name of the person who asks; empty where it is a token. */
export const nameOf = (request: Request): string => (isWithoutCookie(request) ? "" : personOf(request).name);

/** By whom something is done, in words that are kept beside it. */
export const byWhom = (request: Request): string => nameOf(request) || "a token";
