import { Router } from "express";
import type { CostsView } from "../../core/api/costs.ts";
import { retentionSchema } from "../store/retention.ts";
import type { Store } from "../store/store.ts";
import { checked } from "../http/checked.ts";

/** What the store costs, and how long it keeps things. */
export function costsRouter(store: Store, costs: () => Promise<CostsView>): Router {
  const router = Router();

  router.get("/costs", async (_request, response) => {
    response.json(await costs());
  });

  router.get("/retention", (_request, response) => {
    response.json(store.retention);
  });

  /** Takes effect with the next clean-up, within ten minutes. */
  router.put("/retention", async (request, response) => {
    await store.setRetention(checked(retentionSchema, request.body));
    response.json(store.retention);
  });
  return router;
}
