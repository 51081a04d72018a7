import * as routes from "../../core/api/dashboards.ts";
import { serve } from "../http/serve.ts";
import { type Request, Router } from "express";
import Joi from "joi";
import type { Dashboard } from "../../core/dashboards/dashboard.ts";
import {
  dashboardOf,
  insertDashboard,
  listDashboards,
  revisionsOf,
  saveDashboard,
  setRemoved,
  setStar,
} from "./dashboard-rows.ts";
import type { Database } from "../db/pool.ts";
import { dashboardSchema } from "./dashboard-schema.ts";
import { sightOf } from "../people/sight.ts";
import { Problem } from "../http/problem.ts";
import { accountIdOf, personOf, nameOf } from "../http/asker.ts";

const madeSchema = Joi.object<{ document: Dashboard }>({ document: dashboardSchema.required() });
const starSchema = Joi.object<{ starred: boolean }>({ starred: Joi.boolean().required() });
const savedSchema = Joi.object<{ document: Dashboard; revision: number }>({
  document: dashboardSchema.required(),
  revision: Joi.number().integer().min(1).max(2_000_000_000).required(),
});

/** Dashboards: composed, kept with every earlier version, removed and put back. */
export function dashboardsRouter(database: Database): Router {
  const router = Router();

  /** Throws a Problem where the one who asks is held to other dashboards. */
  const assertSeen = (request: Request, id: number) => {
    if (sightOf(request)?.dashboards?.has(id) === false) throw notThere();
  };

  serve(router, routes.listDashboards, {}, async ({ request }) => {
    const all = await listDashboards(database, accountIdOf(request));
    return all.filter(({ id }) => sightOf(request)?.dashboards?.has(id) !== false);
  });

  serve(
    router,
    routes.makeDashboard,
    { body: madeSchema },
    async ({ body, request }) => await insertDashboard(database, body.document, nameOf(request)),
  );

  serve(router, routes.getDashboard, {}, async ({ params, request }) => {
    assertSeen(request, params.id);
    const found = await dashboardOf(database, params.id);
    if (!found) throw notThere();
    return found;
  });

  serve(
    router,
    routes.saveDashboard,
    { body: savedSchema },
    async ({ params: { id }, body: { document, revision }, request }) => {
      const saved = await saveDashboard(database, id, document, revision, nameOf(request));
      if (saved) {
        return saved;
      }
      const now = await dashboardOf(database, id);
      if (!now) throw notThere();
      throw new Problem(
        409,
        "changed-meanwhile",
        `${now.changedBy || "Somebody"} has saved version ${now.revision} since you began with version ${revision}. Nothing of yours was saved or lost: save yours over it, or as a dashboard of its own.`,
      );
    },
  );

  serve(router, routes.removeDashboard, {}, async ({ params }) => {
    if (!(await setRemoved(database, params.id, true))) throw notThere();
  });

  serve(router, routes.putDashboardBack, {}, async ({ params }) => {
    if (!(await setRemoved(database, params.id, false)))
      throw new Problem(404, "nothing-to-put-back", "There is no removed dashboard with this number.");
  });

  serve(router, routes.listVersions, {}, async ({ params, request }) => {
    assertSeen(request, params.id);
    return await revisionsOf(database, params.id);
  });

  serve(router, routes.starDashboard, { body: starSchema }, async ({ params, body: { starred }, request }) => {
    assertSeen(request, params.id);
    await setStar(database, personOf(request).id, params.id, starred);
  });
  return router;
}

const notThere = () =>
  new Problem(404, "no-such-dashboard", "There is no dashboard with this number; it may have been removed.");
