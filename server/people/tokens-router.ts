import * as routes from "../../core/api/tokens.ts";
import { serve } from "../http/serve.ts";
import { Router } from "express";
import Joi from "joi";
import type { TokenScope } from "../../core/people/token-scope.ts";
import type { Tokens } from "./tokens.ts";
import type { Sources } from "../sources/sources.ts";
import type { LiveHub } from "../live/live-hub.ts";
import { notForReaders } from "../http/asker.ts";
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

  serve(router, routes.listTokens, { guard: notForReaders }, async () => await tokens.list());

  serve(router, routes.makeToken, { body: tokenSchema }, async ({ body }) => {
    const { name, scope, sourceId } = body;
    if (sourceId !== null && !["push", "collector"].includes(sources.find(sourceId)?.source.kind ?? ""))
      throw new Problem(422, "The request does not fit", '"sourceId" is not a source that sends');
    const { token, view } = await tokens.create(name, scope, sourceId);
    return { ...view, token };
  });

  serve(router, routes.revokeToken, {}, async ({ params: { id } }) => {
    if (!(await tokens.revoke(id))) throw new Problem(404, "No such token", "It is not there, or was revoked before.");
    live.endOf(tokenKey(id));
  });
  return router;
}
