import { witnessOf } from "../http/witness.ts";
import { tokenUse } from "../../core/audit/deed-words.ts";
import { LRUCache } from "lru-cache";
import type { Request, RequestHandler } from "express";
import type { KnownToken } from "./token-rows.ts";
import type { Tokens } from "./tokens.ts";
import { noteAsker } from "../http/asker.ts";
import { Problem } from "../http/problem.ts";

/** The token that a request carries (RFC 6750 §2.1); as a password too, for senders that know only those. */
export function bearerOf(request: Request): string | undefined {
  const header = request.headers.authorization ?? "";
  const bearer = /^Bearer +(\S+)$/i.exec(header)?.[1];
  if (bearer !== undefined) return bearer;
  const basic = /^Basic +(\S+)$/i.exec(header)?.[1];
  return basic === undefined
    ? undefined
    : Buffer.from(basic, "base64").toString("utf8").split(":").slice(1).join(":") || undefined;
}

/** The token of a request that may write. Throws a Problem that says what is wrong with it. */
export async function writeToken(
  tokens: Tokens,
  request: Request,
): Promise<KnownToken & { readonly sourceId: number }> {
  const text = bearerOf(request);
  if (text === undefined)
    throw new Problem(
      401,
      "no-token",
      "Send the source's token: `Authorization: Bearer …`. It was shown when the source was made; a new one can be made under Sources.",
    );
  const token = await tokens.check(text, request.ip);
  if (!token)
    throw new Problem(
      401,
      "unknown-token",
      "This token is not known here, was revoked, has ended, or is not for the address it comes from. Make a new one under Sources.",
    );
  if (token.scope !== "write" || token.sourceId === null)
    throw new Problem(
      403,
      "this-token-may-not-write",
      `It may only ${token.scope}. Writing needs the token of a source.`,
    );
  return { ...token, sourceId: token.sourceId };
}

/** The use of a person's token is written down once a day for each place. */
const usedLately = new LRUCache<string, true>({ max: 10_000, ttl: 86_400_000 });

/** Knows requests with a token of their own: what it may ask is held against the table of who may, as for everybody. */
export function letTokensIn(tokens: Tokens): RequestHandler {
  return async (request, _response, next) => {
    if (!/^Bearer /i.test(request.headers.authorization ?? "")) return next();
    const token = await tokens.check(bearerOf(request) ?? "", request.ip);
    if (!token)
      throw new Problem(
        401,
        "unknown-token",
        "This token is not known here, was revoked, has ended, or is not for the address it comes from.",
      );
    const { id, scope, person } = token;
    noteAsker(request, { kind: "token", id, scope, person });
    if (person && !usedLately.has(`${id} ${request.ip}`)) {
      usedLately.set(`${id} ${request.ip}`, true);
      await witnessOf(request)?.note(request, { did: tokenUse, subject: String(id), outcome: "done" });
    }
    next();
  };
}
