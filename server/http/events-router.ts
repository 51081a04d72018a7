import { Router } from "express";
import Joi from "joi";
import type { Database } from "../db/pool.ts";
import { listEvents } from "../events/events.ts";
import { checked } from "./checked.ts";

const windowSchema = Joi.object<{ from: number; to: number; machine?: string }>({ from: Joi.number().required(), to: Joi.number().greater(Joi.ref("from")).required(), machine: Joi.string().max(200) });

/** What happened in a window. */
export function eventsRouter(database: Database): Router {
  const router = Router();
  router.get("/events", async (request, response) => {
    const { from, to, machine } = checked(windowSchema, request.query);
    response.json(await listEvents(database, from, to, machine));
  });
  return router;
}
