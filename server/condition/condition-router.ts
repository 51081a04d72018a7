import { Router } from "express";
import { notForReaders } from "../http/asker.ts";
import type { ServerClock } from "../clock/server-clock.ts";
import type { ConditionView } from "../../core/api/condition.ts";

/** How the server itself is: what its log has said, what was set aside, whether its clock can be believed. */
export function conditionRouter(condition: () => Promise<ConditionView>, clock: Pick<ServerClock, "confirm">): Router {
  const router = Router();
  router.use("/condition", notForReaders);

  router.get("/condition", async (_request, response) => {
    response.json(await condition());
  });

  /** A person says that the server's clock is right. */
  router.put("/condition/clock", async (_request, response) => {
    clock.confirm();
    response.json(await condition());
  });
  return router;
}
