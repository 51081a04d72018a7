import { Router } from "express";
import * as routes from "../../core/api/space.ts";
import type { CostsView } from "../../core/api/costs.ts";
import type { Database } from "../db/pool.ts";
import { serve } from "../http/serve.ts";
import type { Store } from "../store/store.ts";
import { readPlanningSettings } from "./planning-rows.ts";
import { spaceList } from "./space/space-list.ts";

interface SpaceRouterParts {
  readonly database: Database;
  readonly store: Store;
  readonly costs: () => Promise<CostsView>;
  /** The machine that the server runs on. */
  readonly machine: string;
}

/** What fills. */
export function spaceRouter({ database, store, costs, machine }: SpaceRouterParts): Router {
  const router = Router();
  serve(router, routes.getSpace, {}, async () =>
    spaceList(store, await readPlanningSettings(database), await costs(), machine),
  );
  return router;
}
