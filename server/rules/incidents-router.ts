import { pageFields, tellNext } from "../http/next-page.ts";
import * as routes from "../../core/api/incidents.ts";
import { serve } from "../http/serve.ts";
import { Router } from "express";
import Joi from "joi";
import type { MachineEvent } from "../../core/events/machine-event.ts";
import type { MessageView } from "../../core/api/messages.ts";
import { incidentWindow } from "../../core/rules/incident-text.ts";
import type { Database } from "../db/pool.ts";
import { acknowledge, snooze } from "./incident-actions.ts";
import { addEntry, entriesOf } from "./incident-entry-rows.ts";
import { incidentOf, listIncidents } from "./incident-rows.ts";
import type { RuleChecker } from "./rule-checker.ts";
import { sees, sightOf } from "../people/sight.ts";
import { Problem } from "../http/problem.ts";
import { windowSchema } from "../reading/reading-schema.ts";
import { byWhom } from "../http/asker.ts";

const mostIncidents = 1000;
const mostMessages = 200;
const besideMs = 60_000;
const longestSnoozeMs = 31 * 86_400_000;
const querySchema = windowSchema.append<{ from: number; to: number; most: number; before?: number }>(
  pageFields(mostIncidents, mostIncidents),
);
const acknowledgeSchema = Joi.object<{ acknowledged: boolean }>({ acknowledged: Joi.boolean().strict().default(true) });
const snoozeSchema = Joi.object<{ untilMs: number | null }>({
  untilMs: Joi.number().integer().min(0).allow(null).required(),
});
const noteSchema = Joi.object<{ text: string }>({ text: Joi.string().trim().min(1).max(5000).required() });

/** What stands beside an incident, from the subjects that keep it. */
interface BesideIncidents {
  /** What was sent to people about it, the newest first. */
  messagesOf(incidentId: number, most: number): Promise<readonly MessageView[]>;
  /** What happened in `[fromMs, toMs]`. */
  eventsIn(fromMs: number, toMs: number): Promise<readonly MachineEvent[]>;
}

/** Incidents: looked at, acknowledged, snoozed, noted on, closed. `news` tells every open page that one has changed. */
// biome-ignore lint/complexity/noExcessiveLinesPerFunction: the routes of one subject
export function incidentsRouter(
  database: Database,
  checker: RuleChecker,
  news: () => void,
  { messagesOf, eventsIn }: BesideIncidents,
): Router {
  const router = Router();

  serve(router, routes.listIncidents, { query: querySchema }, async ({ query, request, response }) => {
    const { from, to, most, before } = query;
    const sight = sightOf(request);
    const found = await listIncidents(database, from, to, most, before);
    tellNext(request, response, found, most);
    return found.filter(({ tags }) => sees(sight, tags["machine"]));
  });

  serve(router, routes.getIncident, {}, async ({ params: { id }, request }) => {
    const sight = sightOf(request);
    const found = await incidentOf(database, id);
    if (!found || !sees(sight, found.incident.tags["machine"])) throw noIncident(id);
    const { incident, document } = found;
    const window = incidentWindow(incident, document?.marginSeconds ?? null, Date.now());
    const machine = incident.tags["machine"] ?? "";
    const [entries, messages, near, events] = await Promise.all([
      entriesOf(database, id),
      messagesOf(id, mostMessages),
      listIncidents(database, window.from, window.to, mostIncidents),
      eventsIn(window.from, window.to),
    ]);
    const beside = near.filter(
      (one) =>
        one.id !== id &&
        sees(sight, one.tags["machine"]) &&
        (Math.abs(one.raisedAtMs - incident.raisedAtMs) < besideMs ||
          (machine !== "" &&
            one.tags["machine"] === machine &&
            one.raisedAtMs < window.to &&
            (one.clearedAtMs ?? Number.POSITIVE_INFINITY) >= window.from)),
    );
    return {
      incident,
      document,
      entries,
      messages: sight ? [] : messages,
      beside,
      events: events.filter(
        (event) => sees(sight, event.machine) && (machine === "" || event.machine === "" || event.machine === machine),
      ),
      window,
    };
  });

  serve(router, routes.acknowledgeIncident, { body: acknowledgeSchema }, async ({ params: { id }, body, request }) => {
    const incident = await acknowledge(
      database,
      id,
      body.acknowledged ? byWhom(request) : null,
      byWhom(request),
      Date.now(),
    );
    if (!incident) throw notOpen(id);
    news();
    return incident;
  });

  serve(
    router,
    routes.snoozeIncident,
    { body: snoozeSchema },
    async ({ params: { id }, body: { untilMs }, request }) => {
      if (untilMs !== null && untilMs > Date.now() + longestSnoozeMs)
        throw new Problem(
          422,
          "too-long",
          "An incident is snoozed for 31 days at the most; for longer, change its rule or switch it off.",
        );
      const incident = await snooze(database, id, untilMs, byWhom(request), Date.now());
      if (!incident) throw notOpen(id);
      news();
      return incident;
    },
  );

  serve(router, routes.noteOnIncident, { body: noteSchema }, async ({ params: { id }, body, request }) => {
    if (!(await incidentOf(database, id))) throw noIncident(id);
    await addEntry(database, id, "note", Date.now(), byWhom(request), body.text);
    return await entriesOf(database, id);
  });

  serve(router, routes.closeIncident, {}, async ({ params: { id }, request }) => {
    const incident = await checker.closeOne(id, byWhom(request), Date.now());
    if (!incident) throw notOpen(id);
    news();
    return incident;
  });
  return router;
}

const noIncident = (id: number) =>
  new Problem(404, "no-such-incident", `There is no incident ${id}; incidents are kept as long as hourly values are.`);
const notOpen = (id: number) => new Problem(409, "not-open", `Incident ${id} is not open any more, or was never.`);
