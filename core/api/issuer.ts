import type { ClaimRoles } from "../people/role-by-claim.ts";
import { type Nothing, route } from "./route.ts";

// Signing in by an issuer of one's own (OpenID Connect Core 1.0).

export interface IssuerSettings {
  /** Its address; what it can do is found below it (OpenID Connect Discovery 1.0). */
  readonly url: string;
  readonly clientId: string;
  /** What people call it. */
  readonly name: string;
  /** Scopes that are asked for, with spaces; openid is among them. */
  readonly scopes: string;
  readonly roles: ClaimRoles;
}

export interface IssuerView {
  readonly issuer: (IssuerSettings & { readonly hasSecret: boolean }) | null;
  /** What the issuer has to be told of this server: where it sends people back to. */
  readonly back: string;
}

/** Where the browser goes to be asked who it is. */
export interface Elsewhere {
  readonly url: string;
}

/** `to` is a path of the interface, where the browser comes back to. */
interface ComingBack {
  readonly to?: string;
}

export const getIssuer = route("GET", "/issuer")<Nothing, IssuerView>();
/** Without a secret the one before stays; an empty one takes it away. */
export const putIssuer = route("PUT", "/issuer")<IssuerSettings & { readonly secret?: string }, IssuerView>();
/** Nobody signs in by it any more. */
export const dropIssuer = route("DELETE", "/issuer", 204)();

export const beginIssuerSignIn = route("POST", "/session/issuer/begin")<ComingBack, Elsewhere>();
/** Has somebody who is signed in sign in by the issuer from here on. */
export const beginIssuerLink = route("POST", "/me/issuer/begin")<ComingBack, Elsewhere>();
export const dropIssuerLink = route("DELETE", "/me/issuer", 204)();
export const beginIssuerProof = route("POST", "/me/proof/issuer/begin")<ComingBack, Elsewhere>();

/** Why somebody came back and was not let in; the browser's address says it by this word. */
export const notInReasons = ["late", "refused", "unsure", "role", "name", "taken", "other", "away"] as const;
export type NotInReason = (typeof notInReasons)[number];

/** By which of the interface's addresses the reason is told. */
export const notInParameter = "not-in";
