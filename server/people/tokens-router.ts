import { Router } from "express";
import Joi from "joi";
import type { TokenScope } from "../../core/people/token-scope.ts";
import type { Tokens } from "./tokens.ts";
import type { Sources } from "../sources/sources.ts";
import type { LiveHub } from "../live/live-hub.ts";
import { notForReaders } from "../http/asker.ts";
import { checked } from "../http/checked.ts";
import { idParameter } from "../http/id-parameter.ts";
import { Problem } from "../http/problem.ts";
import { tokenKey } from "./signed-in.ts";

const tokenSchema = Joi.object<{ name: string; scope: TokenScope; sourceId: number | null }>({
  name: Joi.string().trim().min(1).max(100).required(),
  scope: Joi.valid("write", "read", "manage", "calendar").required(),
  sourceId: Joi.when("scope", { is: "write", then: Joi.number().integer().required(), otherwise: Joi.valid(null).default(null) }),
});

/** Tokens for what is no person. The text of one is in the answer that makes it, and nowhere else. */
export function tokensRouter(tokens: Tokens, sources: Sources, live: LiveHub): Router {
  const router = Router();

  router.get("/tokens", notForReaders, async (_request, response) => {
    response.json(await tokens.list());
  });

  router.post("/tokens", async (request, response) => {
    const { name, scope, sourceId } = checked(tokenSchema, request.body);
    if (sourceId !== null && !["push", "collector"].includes(sources.find(sourceId)?.source.kind ?? "")) throw new Problem(422, "The request does not fit", '"sourceId" is not a source that sends');
    const { token, view } = await tokens.create(name, scope, sourceId);
    response.status(201).json({ ...view, token });
  });

  router.delete("/tokens/:id", async (request, response) => {
    const id = idParameter(request, "token");
    if (!(await tokens.revoke(id))) throw new Problem(404, "No such token", "It is not there, or was revoked before.");
    live.endOf(tokenKey(id));
    response.status(204).end();
  });
  return router;
}
