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
}

/** The text of a token is in the answer that makes it, and nowhere else. */
export type NewToken = TokenView & { readonly token: string };

export const listTokens = route("GET", "/tokens")<Nothing, readonly TokenView[]>();
export const makeToken = route("POST", "/tokens", 201)<
  { readonly name: string; readonly scope: TokenScope; readonly sourceId?: number | null },
  NewToken
>();
export const revokeToken = route("DELETE", "/tokens/:id", 204)();
