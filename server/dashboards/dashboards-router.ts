import { type Request, Router } from "express";
import Joi from "joi";
import type { Dashboard } from "../../core/dashboards/dashboard.ts";
import { dashboardOf, insertDashboard, listDashboards, revisionsOf, saveDashboard, setRemoved, setStar } from "./dashboard-rows.ts";
import type { Database } from "../db/pool.ts";
import { checked } from "../http/checked.ts";
import { dashboardSchema, whole } from "./dashboard-schema.ts";
import { idParameter } from "../http/id-parameter.ts";
import { Problem } from "../http/problem.ts";
import { accountIdOf, personOf, nameOf } from "../http/asker.ts";


const madeSchema = Joi.object<{ document: Dashboard }>({ document: dashboardSchema.required() });
const savedSchema = Joi.object<{ document: Dashboard; revision: number }>({ document: dashboardSchema.required(), revision: whole(1, 2_000_000_000).required() });

/** Dashboards: composed, kept with every earlier version, removed and put back. */
export function dashboardsRouter(database: Database): Router {
  const router = Router();

  router.get("/dashboards", async (request, response) => {
    response.json(await listDashboards(database, accountIdOf(request)));
  });

  router.post("/dashboards", async (request, response) => {
    response.status(201).json(await insertDashboard(database, checked(madeSchema, request.body).document, nameOf(request)));
  });

  router.get("/dashboards/:id", async (request, response) => {
    const found = await dashboardOf(database, idOf(request));
    if (!found) throw notThere();
    response.json(found);
  });

  router.put("/dashboards/:id", async (request, response) => {
    const id = idOf(request);
    const { document, revision } = checked(savedSchema, request.body);
    const saved = await saveDashboard(database, id, document, revision, nameOf(request));
    if (saved) {
      response.json(saved);
      return;
    }
    const now = await dashboardOf(database, id);
    if (!now) throw notThere();
    throw new Problem(409, "Changed meanwhile", `${now.changedBy || "Somebody"} has saved version ${now.revision} since you began with version ${revision}. Nothing of yours was saved or lost: save yours over it, or as a dashboard of its own.`);
  });

  router.delete("/dashboards/:id", async (request, response) => {
    if (!(await setRemoved(database, idOf(request), true))) throw notThere();
    response.status(204).end();
  });

  router.post("/dashboards/:id/back", async (request, response) => {
    if (!(await setRemoved(database, idOf(request), false))) throw new Problem(404, "Nothing to put back", "There is no removed dashboard with this number.");
    response.status(204).end();
  });

  router.get("/dashboards/:id/versions", async (request, response) => {
    response.json(await revisionsOf(database, idOf(request)));
  });

  router.put("/dashboards/:id/star", async (request, response) => {
    const { starred } = checked(Joi.object<{ starred: boolean }>({ starred: Joi.boolean().required() }), request.body);
    await setStar(database, personOf(request).id, idOf(request), starred);
    response.status(204).end();
  });
  return router;
}

const idOf = (request: Request): number => idParameter(request, "dashboard");
const notThere = () => new Problem(404, "No such dashboard", "There is no dashboard with this number; it may have been removed.");
