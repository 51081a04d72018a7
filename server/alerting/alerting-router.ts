import * as routes from "../../core/api/alerting.ts";
import { serve } from "../http/serve.ts";
import { Router } from "express";
import Joi from "joi";
import type { AlertingSettings, AlertingView } from "../../core/api/alerting.ts";
import { onlyLooks } from "../http/asker.ts";

const address = Joi.string()
  .max(500)
  .uri({ scheme: ["http", "https"] })
  .allow("");
const settingsSchema = Joi.object<AlertingSettings>({
  address: address.default(""),
  heartbeatUrl: address.default(""),
});

/** How alerting itself does, and what holds for all of it. */
export function alertingRouter(
  view: () => Promise<AlertingView>,
  change: (settings: AlertingSettings) => Promise<void>,
): Router {
  const router = Router();
  serve(router, routes.getAlerting, {}, async ({ request }) => {
    const all = await view();
    // The address that is called may hold a token.
    return onlyLooks(request) && all.heartbeat
      ? { ...all, heartbeat: { ...all.heartbeat, url: new URL(all.heartbeat.url).origin } }
      : all;
  });
  serve(router, routes.changeAlerting, { body: settingsSchema }, async ({ body }) => {
    const settings = body;
    await change({ ...settings, address: settings.address.replace(/\/+$/, "") });
    return await view();
  });
  return router;
}
