import type { TokenScope } from "../people/token-scope.ts";
import { type Nothing, route } from "./route.ts";

export interface TokenView {
  readonly id: number;
  readonly name: string;
  readonly scope: TokenScope;
  readonly sourceId: number | null;
  readonly createdAtMs: number;
  readonly lastUsedAtMs: number | null;
  readonly revokedAtMs: number | null;
  /** ISO 8601; null without an end. */
  readonly until: string | null;
  /** Addresses and networks (CIDR) that it may be used from; empty: from everywhere. */
  readonly addresses: readonly string[];
  /** Who made it; empty where that is not known. */
  readonly by: string;
  /** The person whose it is, and does what they may; null for a program's. */
  readonly of: string | null;
}

/** The text of a token is in the answer that makes it, and nowhere else. */
export type NewToken = TokenView & { readonly token: string };

export const listTokens = route("GET", "/tokens")<Nothing, readonly TokenView[]>();
export const makeToken = route("POST", "/tokens", 201)<
  {
    readonly name: string;
    readonly scope: TokenScope;
    readonly sourceId?: number | null;
    readonly until?: string | null;
    readonly addresses?: readonly string[];
  },
  NewToken
>();
export const revokeToken = route("DELETE", "/tokens/:id", 204)();

/** Tokens of the one who asks: each does what they may, and no more than its scope. */
export const listMyTokens = route("GET", "/me/tokens")<Nothing, readonly TokenView[]>();
export const makeMyToken = route("POST", "/me/tokens", 201)<
  {
    readonly name: string;
    readonly scope: "read" | "manage";
    /** ISO 8601, within a year. */
    readonly until: string;
    readonly addresses?: readonly string[];
  },
  NewToken
>();
export const revokeMyToken = route("DELETE", "/me/tokens/:id", 204)();
