import * as routes from "../../core/api/briefing.ts";
import { serve } from "../http/serve.ts";
import { Router } from "express";
import type { BriefingDesk } from "./briefing-desk.ts";

/** What is worth a look just now. */
export function briefingRouter(desk: BriefingDesk): Router {
  const router = Router();
  serve(router, routes.getBriefing, {}, async () => await desk.lines(Date.now()));
  return router;
}
