import * as routes from "../../core/api/tokens.ts";
import { serve } from "../http/serve.ts";
import { type Request, Router } from "express";
import { callerOf } from "../http/asker.ts";
import Joi from "joi";
import type { TokenScope } from "../../core/people/token-scope.ts";
import type { Tokens } from "./tokens.ts";
import type { Sources } from "../sources/sources.ts";
import type { LiveHub } from "../live/live-hub.ts";
import { Problem } from "../http/problem.ts";
import { tokenKey } from "./signed-in.ts";

const tokenSchema = Joi.object<{ name: string; scope: TokenScope; sourceId: number | null }>({
  name: Joi.string().trim().min(1).max(100).required(),
  scope: Joi.valid("write", "read", "manage", "calendar").required(),
  sourceId: Joi.when("scope", {
    is: "write",
    then: Joi.number().integer().required(),
    otherwise: Joi.valid(null).default(null),
  }),
});

/** Tokens for what is no person. The text of one is in the answer that makes it, and nowhere else. */
export function tokensRouter(tokens: Tokens, sources: Sources, live: LiveHub): Router {
  const router = Router();

  /** Owners see to all tokens, others to those of sources. */
  const theirs = async (request: Request) =>
    (await tokens.list()).filter(({ scope }) => scope === "write" || callerOf(request) === "owner");

  serve(router, routes.listTokens, {}, async ({ request }) => await theirs(request));

  serve(router, routes.makeToken, { body: tokenSchema }, async ({ body, request }) => {
    const { name, scope, sourceId } = body;
    if (scope !== "write" && callerOf(request) !== "owner")
      throw new Problem(
        403,
        "You may not do this",
        "Others than owners make tokens for sources that send, and no more.",
      );
    if (sourceId !== null && !["push", "collector"].includes(sources.find(sourceId)?.source.kind ?? ""))
      throw new Problem(422, "The request does not fit", '"sourceId" is not a source that sends');
    const { token, view } = await tokens.create(name, scope, sourceId);
    return { ...view, token };
  });

  serve(router, routes.revokeToken, {}, async ({ params: { id }, request }) => {
    const isTheirs = (await theirs(request)).some((one) => one.id === id);
    if (!isTheirs || !(await tokens.revoke(id)))
      throw new Problem(404, "No such token", "It is not there, or was revoked before.");
    live.endOf(tokenKey(id));
  });
  return router;
}
