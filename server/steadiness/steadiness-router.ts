import { Router } from "express";
import type Joi from "joi";
import * as routes from "../../core/api/steadiness.ts";
import type { Database } from "../db/pool.ts";
import { sees, sightOf } from "../people/sight.ts";
import { Problem } from "../http/problem.ts";
import { serve } from "../http/serve.ts";
import { windowSchema, zoneSchema } from "../reading/reading-schema.ts";
import type { Store } from "../store/store.ts";
import { steadyDays } from "./steady-days.ts";

const mostDays = 400;
const dayMs = 86_400_000;

const querySchema = (windowSchema as Joi.ObjectSchema<{ from: number; to: number; zone?: string }>).keys({
  zone: zoneSchema,
});

/** How steady machines were, day by day. */
export function steadinessRouter(store: Store, database: Database, machines: () => readonly string[]): Router {
  const router = Router();
  serve(router, routes.getSteadiness, { query: querySchema }, async ({ query, request }) => {
    const sight = sightOf(request);
    const { from, to, zone = Intl.DateTimeFormat().resolvedOptions().timeZone } = query;
    if (to - from > mostDays * dayMs)
      throw new Problem(422, "the-request-does-not-fit", `"to" may be ${mostDays} days after "from" at most`);
    const names = machines()
      .filter((name) => sees(sight, name))
      .sort((a, b) => a.localeCompare(b));
    return await steadyDays(store, database, names, { from, to }, zone);
  });
  return router;
}
