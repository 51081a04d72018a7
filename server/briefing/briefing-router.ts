import { Router } from "express";
import type { BriefingDesk } from "./briefing-desk.ts";

/** What is worth a look just now. */
export function briefingRouter(desk: BriefingDesk): Router {
  const router = Router();
  router.get("/briefing", async (_request, response) => {
    response.json(await desk.lines(Date.now()));
  });
  return router;
}
