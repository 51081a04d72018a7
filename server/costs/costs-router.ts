import * as routes from "../../core/api/costs.ts";
import { serve } from "../http/serve.ts";
import { Router } from "express";
import type { CostsView } from "../../core/api/costs.ts";
import { retentionSchema } from "../store/retention.ts";
import type { Store } from "../store/store.ts";

/** What the store costs, and how long it keeps things. */
export function costsRouter(store: Store, costs: () => Promise<CostsView>): Router {
  const router = Router();

  serve(router, routes.getCosts, {}, async () => await costs());

  serve(router, routes.getRetention, {}, () => store.retention);

  /** Takes effect with the next clean-up, within ten minutes. */
  serve(router, routes.putRetention, { body: retentionSchema }, async ({ body }) => {
    await store.setRetention(body);
    return store.retention;
  });
  return router;
}
