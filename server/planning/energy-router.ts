import { type Request, Router } from "express";
import * as routes from "../../core/api/energy.ts";
import type { Database } from "../db/pool.ts";
import { signalOf } from "../http/signal-of.ts";
import { serve } from "../http/serve.ts";
import type { MachineNames } from "../machines/machine-names.ts";
import type { Store } from "../store/store.ts";
import { energyView } from "./energy/energy-view.ts";
import { readPlanningSettings, readTariffs, writePlanningSettings, writeTariffs } from "./planning-rows.ts";
import { energySchema, planningSettingsSchema, tariffsSchema } from "./planning-schema.ts";

interface EnergyRouterParts {
  readonly database: Database;
  readonly store: Store;
  readonly names: MachineNames;
  /** Sees to it that a rule warns where a month's budget will be passed. */
  readonly warnOfBudget: (request: Request) => Promise<void>;
}

/** Energy and what it costs. */
export function energyRouter({ database, store, names, warnOfBudget }: EnergyRouterParts): Router {
  const router = Router();

  serve(router, routes.listTariffs, {}, () => readTariffs(database));

  serve(router, routes.putTariffs, { body: tariffsSchema }, async ({ body, request }) => {
    await writeTariffs(database, body);
    if (body.some(({ budgetPerMonth }) => budgetPerMonth !== undefined)) await warnOfBudget(request);
    return await readTariffs(database);
  });

  serve(router, routes.getPlanningSettings, {}, () => readPlanningSettings(database));

  serve(router, routes.putPlanningSettings, { body: planningSettingsSchema }, async ({ body }) => {
    await writePlanningSettings(database, body);
    return await readPlanningSettings(database);
  });

  serve(router, routes.askEnergy, { body: energySchema }, async ({ body, response }) => {
    const [tariffs, settings] = [await readTariffs(database), await readPlanningSettings(database)];
    return await energyView({ store, names, tariffs, settings }, body, signalOf(response));
  });
  return router;
}
