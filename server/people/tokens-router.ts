import * as routes from "../../core/api/tokens.ts";
import { serve } from "../http/serve.ts";
import { type Request, Router } from "express";
import { callerOf, nameOf, personOf } from "../http/asker.ts";
import { isNetwork } from "./address-range.ts";
import type { TokenWish } from "./token-rows.ts";
import Joi from "joi";
import type { Tokens } from "./tokens.ts";
import type { Sources } from "../sources/sources.ts";
import type { LiveHub } from "../live/live-hub.ts";
import { Problem } from "../http/problem.ts";
import { tokenKey } from "./signed-in.ts";

const network = Joi.string()
  .custom((text: string, helpers) => (isNetwork(text) ? text : helpers.error("any.invalid")))
  .messages({ "any.invalid": '{{#label}} is no address and no network, such as "192.0.2.0/24"' });
const name = Joi.string().trim().min(1).max(100).required();
const addresses = Joi.array().items(network).max(20).unique().default([]);
const tokenSchema = Joi.object<TokenWish>({
  name,
  scope: Joi.valid("write", "read", "manage", "calendar", "feed").required(),
  sourceId: Joi.when("scope", {
    is: "write",
    then: Joi.number().integer().required(),
    otherwise: Joi.valid(null).default(null),
  }),
  until: Joi.string().isoDate().allow(null).default(null),
  addresses,
});
const longestDays = 366;
const ownSchema = Joi.object<{ name: string; scope: "read" | "manage"; until: string; addresses: string[] }>({
  name,
  scope: Joi.valid("read", "manage").required(),
  until: Joi.string().isoDate().required(),
  addresses,
});

/** Tokens for what is no person. The text of one is in the answer that makes it, and nowhere else. */
export function tokensRouter(tokens: Tokens, sources: Sources, live: LiveHub): Router {
  const router = Router();

  /** Owners see to all tokens, others to those of sources. */
  const theirs = async (request: Request) =>
    (await tokens.list()).filter(({ scope }) => scope === "write" || callerOf(request) === "owner");

  serve(router, routes.listTokens, {}, async ({ request }) => await theirs(request));

  serve(router, routes.makeToken, { body: tokenSchema }, async ({ body, request }) => {
    const { scope, sourceId } = body;
    if (scope !== "write" && callerOf(request) !== "owner")
      throw new Problem(
        403,
        "you-may-not-do-this",
        "Others than owners make tokens for sources that send, and no more.",
      );
    if (sourceId !== null && !["push", "collector", "relay"].includes(sources.find(sourceId)?.source.kind ?? ""))
      throw new Problem(422, "the-request-does-not-fit", '"sourceId" is not a source that sends');
    if (body.until) assertToCome(body.until);
    const { token, view } = await tokens.create({ ...body, by: nameOf(request) });
    return { ...view, token };
  });

  serve(router, routes.revokeToken, {}, async ({ params: { id }, request }) => {
    const isTheirs = (await theirs(request)).some((one) => one.id === id);
    if (!isTheirs || !(await tokens.revoke(id)))
      throw new Problem(404, "no-such-token", "It is not there, or was revoked before.");
    live.endOf(tokenKey(id));
  });
  return router;
}

/** Tokens of each person, for scripts that do what the person may. */
export function ownTokensRouter(tokens: Tokens, live: LiveHub): Router {
  const router = Router();

  serve(router, routes.listMyTokens, {}, ({ request }) => tokens.ofPerson(personOf(request).id));

  serve(router, routes.makeMyToken, { body: ownSchema }, async ({ body, request }) => {
    const { id: accountId, name: by, role } = personOf(request);
    assertToCome(body.until, longestDays);
    if (body.scope === "manage" && role === "viewer")
      throw new Problem(
        403,
        "you-may-not-do-this",
        "You are a viewer here: a token of yours looks, and changes nothing.",
      );
    const { token, view } = await tokens.create({ ...body, sourceId: null, by, accountId });
    return { ...view, token };
  });

  serve(router, routes.revokeMyToken, {}, async ({ params: { id }, request }) => {
    const isTheirs = (await tokens.ofPerson(personOf(request).id)).some((one) => one.id === id);
    if (!isTheirs || !(await tokens.revoke(id)))
      throw new Problem(404, "no-such-token", "It is not yours, or was revoked before.");
    live.endOf(tokenKey(id));
  });
  return router;
}

/** Throws a Problem where a moment is over, or further away than so many days. */
function assertToCome(until: string, mostDays?: number): void {
  const days = (Date.parse(until) - Date.now()) / 86_400_000;
  const message =
    days <= 0
      ? "The end is over already: the token would open nothing"
      : mostDays !== undefined && days > mostDays
        ? `"until" is more than ${mostDays} days away`
        : undefined;
  if (message) throw new Problem(422, "the-request-does-not-fit", message, { errors: [{ path: "until", message }] });
}
