import { Router } from "express";
import Joi from "joi";
import * as routes from "../../core/api/watching.ts";
import { Problem } from "../http/problem.ts";
import { serve } from "../http/serve.ts";
import { type WatchingParts, watchingView } from "./watching/watching-view.ts";

const leaveSchema = Joi.object<{ readonly counters: readonly string[] }>({
  counters: Joi.array().items(Joi.string().min(1).max(200)).min(1).max(500).required(),
});

/** What watching costs. */
export function watchingRouter(parts: WatchingParts): Router {
  const { sources } = parts;
  const router = Router();
  serve(router, routes.getWatching, {}, () => watchingView(parts));
  serve(router, routes.leaveCounters, { body: leaveSchema }, async ({ params, body }) => {
    const run = sources.find(params.id);
    if (!run) throw new Problem(404, "no-such-source", `There is no source ${params.id}. It may have been removed.`);
    const left = body.counters.map((counter) => ({ do: "leave" as const, counter }));
    await sources.change(params.id, { ...run.source, take: [...run.source.take, ...left] }, undefined);
    return await watchingView(parts);
  });
  return router;
}
