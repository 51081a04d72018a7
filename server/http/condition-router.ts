import { Router } from "express";
import type { ConditionView } from "../../core/api/views.ts";

/** How the server itself is: what its log has said, what was set aside, whether its clock can be believed. */
export function conditionRouter(condition: () => Promise<ConditionView>): Router {
  const router = Router();

  router.get("/condition", async (_request, response) => {
    response.json(await condition());
  });
  return router;
}
