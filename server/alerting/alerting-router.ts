import { Router } from "express";
import Joi from "joi";
import type { AlertingView } from "../../core/api/alerting.ts";
import type { AlertingSettings } from "./alerting-settings.ts";
import { isReader } from "../http/asker.ts";
import { checked } from "../http/checked.ts";

const address = Joi.string().max(500).uri({ scheme: ["http", "https"] }).allow("");
const settingsSchema = Joi.object<AlertingSettings>({ address: address.default(""), heartbeatUrl: address.default("") });

/** How alerting itself does, and what holds for all of it. */
export function alertingRouter(view: () => Promise<AlertingView>, change: (settings: AlertingSettings) => Promise<void>): Router {
  const router = Router();
  router.get("/alerting", async (request, response) => {
    const all = await view();
    // The address that is called may hold a token.
    response.json(isReader(request) && all.heartbeat ? { ...all, heartbeat: { ...all.heartbeat, url: new URL(all.heartbeat.url).origin } } : all);
  });
  router.put("/alerting", async (request, response) => {
    const settings = checked(settingsSchema, request.body);
    await change({ ...settings, address: settings.address.replace(/\/+$/, "") });
    response.json(await view());
  });
  return router;
}
