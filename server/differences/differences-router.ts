import { Router } from "express";
import Joi from "joi";
import { DateTime } from "luxon";
import * as routes from "../../core/api/differences.ts";
import { entryWords } from "../../core/differences/words.ts";
import type { Database } from "../db/pool.ts";
import { listEvents } from "../events/event-rows.ts";
import { problemBody } from "../http/problem.ts";
import { signalOf } from "../http/signal-of.ts";
import { sent, serve } from "../http/serve.ts";
import { windowSchema, zoneSchema } from "../reading/reading-schema.ts";
import { listIncidents } from "../rules/incident-rows.ts";
import type { Store } from "../store/store.ts";
import type { Executor } from "../work/executor.ts";
import { CancelledError } from "../work/work-kind.ts";
import { findOverlaps } from "./find-overlaps.ts";
import { runsIn } from "./recorded-rows.ts";
import type { HourlyPast } from "./hourly-past.ts";
import { findDifferences } from "./find-differences.ts";

const dayMs = 86_400_000;
const mostDays = 7;
const usualMost = 20;
const mostIncidents = 100;

const bodySchema = Joi.object<routes.DifferencesBody>({
  window: windowSchema
    .required()
    .custom((window: routes.DifferencesBody["window"], helpers) =>
      window.to - window.from > mostDays * dayMs ? helpers.error("long") : window,
    )
    .messages({ long: `{{#label}} may be ${mostDays} days long at most: over more, mark the part that you mean` }),
  most: Joi.number().integer().min(1).max(200),
  zone: zoneSchema,
});

export interface DifferencesParts {
  readonly store: Store;
  readonly pool: Executor;
  readonly database: Database;
  readonly past: HourlyPast;
}

/** What was different in a span, on all machines: as one answer, or with its progress, a line of JSON each. */
export function differencesRouter(parts: DifferencesParts): Router {
  const router = Router();
  serve(router, routes.findDifferences, { body: bodySchema }, ({ body, response }) =>
    answerOf(parts, body, signalOf(response)),
  );
  serve(router, routes.watchDifferences, { body: bodySchema }, async ({ body, request, response }) => {
    const signal = signalOf(response);
    response.type("application/x-ndjson").setHeader("X-Accel-Buffering", "no");
    const write = (line: object) => {
      if (!signal.aborted) response.write(`${JSON.stringify(line)}\n`);
    };
    try {
      write({ result: await answerOf(parts, body, signal, (progress) => write({ progress })) });
    } catch (error) {
      if (!(error instanceof CancelledError)) write({ problem: problemBody(request, error) });
    }
    response.end();
    return sent;
  });
  return router;
}

async function answerOf(
  parts: DifferencesParts,
  body: routes.DifferencesBody,
  signal: AbortSignal,
  progress: (share: number) => void = () => {},
): Promise<routes.DifferencesView> {
  const { store, pool, database, past } = parts;
  const { window, most = usualMost } = body;
  const zone = body.zone ?? Intl.DateTimeFormat().resolvedOptions().timeZone;
  const isLong = window.to - window.from > dayMs / 2;
  const clock = (ms: number) => DateTime.fromMillis(ms, { zone }).toFormat(isLong ? "ccc HH:mm" : "HH:mm");
  const events = await listEvents(database, window.from, window.to);
  const [found, incidents, recordings, overlaps] = await Promise.all([
    findDifferences({ store, executor: pool, past }, window, zone, { signal, progress }),
    listIncidents(database, window.from, window.to, mostIncidents),
    runsIn(database, window.from, window.to),
    findOverlaps(store, window, events, { zone, clock, signal }),
  ]);
  return {
    ...found,
    entries: found.entries.slice(0, most).map((entry) => ({ ...entry, words: entryWords(entry, clock) })),
    events,
    recordings,
    overlaps,
    // Those that are open now are listed whenever they were raised.
    incidents: incidents.filter(({ raisedAtMs }) => raisedAtMs < window.to),
  };
}
