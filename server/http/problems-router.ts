import { Router } from "express";
import * as routes from "../../core/api/problem-types.ts";
import { Problem } from "./problem.ts";
import { serve } from "./serve.ts";

const types = Object.entries(routes.problemTitles).map(([type, title]) => ({
  type: type as routes.ProblemType,
  title,
}));

/** What stands behind the `type` of a problem, for anybody who looks there. */
export function problemsRouter(): Router {
  const router = Router();
  serve(router, routes.listProblemTypes, {}, () => types);
  serve(router, routes.getProblemType, {}, ({ params }) => {
    const found = types.find(({ type }) => type === params.type);
    if (!found) throw new Problem(404, "no-such-kind-of-problem", "GET /api/problems lists all that there are.");
    return found;
  });
  return router;
}
