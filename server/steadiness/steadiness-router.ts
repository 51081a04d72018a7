import { Router } from "express";
import type Joi from "joi";
import { DateTime } from "luxon";
import * as routes from "../../core/api/steadiness.ts";
import { steadiness } from "../../core/steadiness/steadiness.ts";
import type { Database } from "../db/pool.ts";
import { Problem } from "../http/problem.ts";
import { serve } from "../http/serve.ts";
import { windowSchema, zoneSchema } from "../reading/reading-schema.ts";
import type { Store } from "../store/store.ts";
import { disturbancesIn } from "./disturbances.ts";

const mostDays = 400;
const dayMs = 86_400_000;

const querySchema = (windowSchema as Joi.ObjectSchema<{ from: number; to: number; zone?: string }>).keys({
  zone: zoneSchema,
});

/** How steady machines were, day by day. */
export function steadinessRouter(store: Store, database: Database, machines: () => readonly string[]): Router {
  const router = Router();
  serve(router, routes.getSteadiness, { query: querySchema }, async ({ query }) => {
    const { from, to, zone = Intl.DateTimeFormat().resolvedOptions().timeZone } = query;
    if (to - from > mostDays * dayMs)
      throw new Problem(422, "The request does not fit", `"to" may be ${mostDays} days after "from" at most`);
    const nowMs = Date.now();
    const bounds = dayBounds(from, Math.min(to, nowMs), zone);
    const names = [...machines()].sort((a, b) => a.localeCompare(b));
    const window = { from: bounds[0] as number, to: bounds.at(-1) as number };
    const all = await disturbancesIn(store, database, names, window, nowMs);
    return names.map((machine) => ({
      machine,
      days: steadiness(
        all.filter((one) => one.machine === machine),
        bounds,
      ),
    }));
  });
  return router;
}

/** The beginnings of the zone's days that touch a window, and the end of the last one. */
function dayBounds(from: number, to: number, zone: string): readonly number[] {
  const bounds: number[] = [];
  for (let day = DateTime.fromMillis(from, { zone }).startOf("day"); ; day = day.plus({ days: 1 })) {
    bounds.push(day.toMillis());
    if (day.toMillis() >= to && bounds.length > 1) return bounds;
  }
}
