import type { Request } from "express";
import type { Limits, Role } from "../../core/people/roles.ts";
import type { TokenScope } from "../../core/people/token-scope.ts";
import type { Caller } from "../../core/api/who-may.ts";
import { Problem } from "./problem.ts";

interface Person {
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

/**
 * Who asks: a person who is signed in, or a token. Found out before any route of a subject by what lets requests in.
 */
export type Asker =
  | Person
  | {
      readonly kind: "token";
      readonly id: number;
      readonly scope: TokenScope;
      /** Whose it is: it does what they may, and no more than its scope. Null for a program's. */
      readonly person: Pick<Person, "id" | "name" | "role" | "limits"> | null;
    }
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
  if (asker.kind === "link") return "link";
  if (asker.kind === "person") return asPerson(asker);
  const { scope, person } = asker;
  if (!person) return scope;
  const as = asPerson(person);
  // What counts for less of the two: a keeper's token changes what keepers change, a held viewer's sees what they see.
  return as === "held viewer" || (scope === "manage" && as !== "owner") ? as : scope;
}

const asPerson = ({ role, limits }: Pick<Person, "role" | "limits">): Caller =>
  role === "viewer" && limits ? "held viewer" : role;

/** The scope of a token that is a person's: nothing beyond it is done with that, whatever they may. */
export function scopeOfPersons(request: Request): TokenScope | undefined {
  const asker = askers.get(request);
  return asker?.kind === "token" && asker.person ? asker.scope : undefined;
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
export function personOf(request: Request): Person {
  const asker = askers.get(request);
  if (!asker) throw new Error(`${request.path} is not behind a check of who asks`);
  if (asker.kind !== "person")
    throw new Problem(401, "not-signed-in", `A ${asker.kind} is no person; this is for people who are signed in.`);
  return asker;
}

/** In which session a person asks; undefined where nobody is signed in. */
export function sessionOf(request: Request): { readonly accountId: number; readonly sessionId: number } | undefined {
  const asker = askers.get(request);
  return asker?.kind === "person" ? { accountId: asker.id, sessionId: asker.sessionId } : undefined;
}

/** What the person who asks is held to; null where nothing is held back, and for programs' tokens. */
export function limitsOf(request: Request): Limits | null {
  const person = whoseOf(request);
  return person?.role === "viewer" ? person.limits : null;
}

/** The person who asks, by a token of theirs or otherwise; undefined for a program's token and a link. */
function whoseOf(request: Request): Pick<Person, "id" | "name" | "role" | "limits"> | undefined {
  const asker = askers.get(request);
  if (asker?.kind === "token") return asker.person ?? undefined;
  return asker?.kind === "person" ? asker : undefined;
}

/** The account of the person who asks, null where it is a program's token. */
export function accountIdOf(request: Request): number | null {
  return isWithoutCookie(request) ? (whoseOf(request)?.id ?? null) : personOf(request).id;
}

/** The name of the person who asks; empty where it is a program's token. */
export const nameOf = (request: Request): string =>
  isWithoutCookie(request) ? (whoseOf(request)?.name ?? "") : personOf(request).name;

/** By whom something is done, in words that are kept beside it. */
export const byWhom = (request: Request): string => nameOf(request) || "a token";
