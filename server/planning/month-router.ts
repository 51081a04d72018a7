import { Router } from "express";
import Joi from "joi";
import { DateTime } from "luxon";
import * as routes from "../../core/api/month.ts";
import { serve } from "../http/serve.ts";
import { signalOf } from "../http/signal-of.ts";
import { zoneSchema } from "../reading/reading-schema.ts";
import { sendMonthNow, type SendingParts } from "./month/month-sending.ts";
import { monthView } from "./month/month-view.ts";
import { type KeptSending, readMonthSending, writeMonthSending } from "./planning-rows.ts";

const monthName = Joi.string()
  .pattern(/^\d{4}-(0[1-9]|1[0-2])$/)
  .messages({ "string.pattern.base": '{{#label}} must be a month such as "2026-11"' });
const querySchema = Joi.object<{ month?: string; zone?: string }>({ month: monthName, zone: zoneSchema });
const sendSchema = Joi.object<{ month?: string }>({ month: monthName }).default({});
const sendingSchema = Joi.object<routes.MonthSending>({
  recipients: Joi.array().items(Joi.number().integer().min(1)).unique().max(100).required(),
  day: Joi.number().integer().min(1).max(28).required(),
  at: Joi.string()
    .pattern(/^([01]\d|2[0-3]):[0-5]\d$/)
    .messages({ "string.pattern.base": '{{#label}} must be a clock time such as "07:00"' })
    .required(),
  zone: zoneSchema.required(),
});

/** The month on one page, and its sending. */
export function monthRouter(parts: SendingParts): Router {
  const { database, store } = parts;
  const router = Router();
  const thisMonth = (zone: string) => DateTime.fromMillis(store.nowMs(), { zone }).toFormat("yyyy-MM");
  const shown = ({ recipients, day, at, zone, lastSent }: KeptSending): routes.MonthSendingView => ({
    recipients,
    day,
    at,
    zone,
    lastSent,
  });

  serve(router, routes.getMonth, { query: querySchema }, async ({ query, response }) => {
    const zone = query.zone ?? Intl.DateTimeFormat().resolvedOptions().timeZone;
    return await monthView(parts, { month: query.month ?? thisMonth(zone), zone }, signalOf(response));
  });

  serve(router, routes.getMonthSending, {}, async () => shown(await readMonthSending(database)));

  serve(router, routes.putMonthSending, { body: sendingSchema }, async ({ body }) => {
    const kept = await readMonthSending(database);
    const begins = kept.recipients.length === 0 && body.recipients.length > 0;
    await writeMonthSending(database, { ...kept, ...body, ...(begins && { sinceMs: Date.now() }) });
    return shown(await readMonthSending(database));
  });

  serve(router, routes.sendMonth, { body: sendSchema }, async ({ body }) => {
    const sending = await readMonthSending(database);
    return await sendMonthNow(parts, body.month ?? thisMonth(sending.zone), sending, Date.now());
  });
  return router;
}
