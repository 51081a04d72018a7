import { Router } from "express";
import { getSlowness } from "../../core/api/slowness.ts";
import { type SlowKind, slowKinds } from "../../core/slowness/slow-kinds.ts";
import { slowEventKind, slowSpellOf } from "../../core/slowness/slow-spells.ts";
import type { Database } from "../db/pool.ts";
import { newestOfKind } from "../events/event-rows.ts";
import { serve } from "../http/serve.ts";

const toldMs = 30 * 86_400_000;
const mostTold = 200;

/** What of this server took longer than it may. */
export function slownessRouter(database: Database): Router {
  const router = Router();
  serve(router, getSlowness, {}, async () => {
    const fromMs = Date.now() - toldMs;
    const events = await newestOfKind(database, slowEventKind, fromMs, mostTold + 1);
    return {
      limits: Object.entries(slowKinds).map(([kind, { several, limitMs }]) => ({
        kind: kind as SlowKind,
        words: several.toLowerCase(),
        limitMs,
      })),
      fromMs,
      spells: events.slice(0, mostTold).flatMap((event) => slowSpellOf(event) ?? []),
      isCut: events.length > mostTold,
    };
  });
  return router;
}
