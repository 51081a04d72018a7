import { Router } from "express";
import { getHealth, type Health } from "../../core/api/condition.ts";
import { sent, serve } from "../http/serve.ts";

/**
 * Whether the server works, for anybody: what watches it has no sign-in. The answer is one also where its status says
 * that it does not.
 */
export function healthRouter(health: () => Promise<Health>): Router {
  const router = Router();
  serve(router, getHealth, {}, async ({ response }) => {
    const answer = await health();
    if (answer.status === "ok") return answer;
    response.status(503).json(answer);
    return sent;
  });
  return router;
}
