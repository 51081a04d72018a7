import * as routes from "../../core/api/condition.ts";
import { serve } from "../http/serve.ts";
import { Router } from "express";
import type { ServerClock } from "../clock/server-clock.ts";
import type { ConditionView } from "../../core/api/condition.ts";

/** How the server itself is: what its log has said, what was set aside, whether its clock can be believed. */
export function conditionRouter(condition: () => Promise<ConditionView>, clock: Pick<ServerClock, "confirm">): Router {
  const router = Router();

  serve(router, routes.getCondition, {}, async () => await condition());

  /** A person says that the server's clock is right. */
  serve(router, routes.confirmClock, {}, async () => {
    clock.confirm();
    return await condition();
  });
  return router;
}
