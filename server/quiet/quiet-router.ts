import * as routes from "../../core/api/quiet.ts";
import { serve } from "../http/serve.ts";
import { Router } from "express";
import Joi from "joi";
import { longestQuietMs, type QuietTime } from "../../core/quiet/quiet-time.ts";
import { assertTokenInAddress } from "../people/token-in-address.ts";
import type { Tokens } from "../people/tokens.ts";
import type { QuietDesk } from "./quiet-desk.ts";
import { Problem } from "../http/problem.ts";
import { isZone } from "../../core/time/is-zone.ts";
import { byWhom } from "../http/asker.ts";

const values = Joi.array().items(Joi.string().allow("").max(500)).max(200);
const quietSchema = Joi.object<Omit<QuietTime, "id" | "by" | "endedAtMs">>({
  title: Joi.string().trim().min(1).max(200).required(),
  why: Joi.string().allow("").max(2000).default(""),
  scope: Joi.object({
    machines: values.default([]),
    tags: Joi.array()
      .items(Joi.object({ tag: Joi.string().min(1).max(100).required(), is: values.min(1).required() }))
      .max(20)
      .default([]),
  }).default({ machines: [], tags: [] }),
  fromMs: Joi.number().integer().min(0).required(),
  toMs: Joi.number()
    .integer()
    .greater(Joi.ref("fromMs"))
    .required()
    .custom((to: number, helpers) =>
      to - (helpers.state.ancestors[0] as { fromMs: number }).fromMs > longestQuietMs ? helpers.error("long") : to,
    )
    .messages({ long: "{{#label}} is more than 31 days after fromMs: a quiet time ends by itself" }),
  repeat: Joi.object({
    weekdays: Joi.array().items(Joi.number().integer().min(1).max(7)).min(1).unique().required(),
    zone: Joi.string()
      .max(100)
      .required()
      .custom((zone: string, helpers) => (isZone(zone) ? zone : helpers.error("zone")))
      .messages({ zone: "{{#label}} is no time zone's name, such as Europe/Berlin" }),
  })
    .allow(null)
    .default(null),
});

/** Quiet times: planned, looked at, ended. `news` has it be seen at once. */
export function quietRouter(quiet: QuietDesk, news: () => void): Router {
  const router = Router();
  serve(router, routes.listQuietTimes, {}, async () => await quiet.views(Date.now()));
  serve(router, routes.planQuietTime, { body: quietSchema }, async ({ body, request }) => {
    const made = await quiet.add({ ...body, by: byWhom(request) });
    news();
    return made;
  });
  serve(router, routes.endQuietTime, {}, async ({ params: { id } }) => {
    if (!(await quiet.end(id, Date.now())))
      throw new Problem(404, "no-such-quiet-time", `There is no quiet time ${id}, or it has ended already.`);
    news();
  });
  return router;
}

/** The calendar feed. */
export function calendarRouter(quiet: QuietDesk, tokens: Tokens): Router {
  const router = Router();
  router.get("/quiet-times.ics", async (request, response) => {
    await assertTokenInAddress(tokens, request, "calendar", "calendars");
    response.setHeader("Content-Type", "text/calendar; charset=utf-8");
    response.send(await quiet.calendar(Date.now()));
  });
  return router;
}
