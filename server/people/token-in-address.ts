import type { Request } from "express";
import type { TokenScope } from "../../core/people/token-scope.ts";
import { Problem } from "../http/problem.ts";
import type { Tokens } from "./tokens.ts";

/**
 * Calendars and readers of feeds send no headers: a token that opens nothing else stands in the address. Throws a
 * Problem where it is none of this scope; `what` is what the token is for, in words.
 */
export async function assertTokenInAddress(
  tokens: Tokens,
  request: Request,
  scope: TokenScope,
  what: string,
): Promise<void> {
  const { token } = request.query;
  if ((await tokens.check(typeof token === "string" ? token : "", request.ip))?.scope === scope) return;
  throw new Problem(
    401,
    "no-token",
    `This address needs ?token= with a token for ${what}; make one under Sources, Tokens and limits. An address gets about: one with more rights does not belong in it.`,
  );
}
