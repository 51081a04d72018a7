import { pageFields, tellNext } from "../http/next-page.ts";
import * as routes from "../../core/api/events.ts";
import { serve } from "../http/serve.ts";
import express, { type Request, type RequestHandler, type Response, Router } from "express";
import Joi from "joi";
import type { MachineEvent } from "../../core/events/machine-event.ts";
import type { Tags } from "../../core/counters/counter.ts";
import type { Database } from "../db/pool.ts";
import { insertEvent, listEvents, mostListed, removeEvent } from "./event-rows.ts";
import type { LiveHub } from "../live/live-hub.ts";
import type { Tokens } from "../people/tokens.ts";
import type { Sources } from "../sources/sources.ts";
import { bearerOf } from "../people/bearer.ts";
import { sees, sightOf } from "../people/sight.ts";
import { checked } from "../http/checked.ts";
import { Problem } from "../http/problem.ts";
import { sameToken } from "../people/same-token.ts";
import { isToken, personOf } from "../http/asker.ts";
import { storableBody } from "../http/storable-body.ts";

const mostAheadMs = 600_000;
const windowSchema = Joi.object<{ from: number; to: number; machine?: string; most: number; before?: number }>({
  from: Joi.number().required(),
  to: Joi.number().greater(Joi.ref("from")).required(),
  machine: Joi.string().max(200),
  ...pageFields(mostListed, mostListed),
});

interface SentEvent {
  readonly fromMs?: number;
  readonly toMs?: number;
  readonly kind: string;
  readonly machine: string;
  readonly text: string;
  readonly tags: Tags;
}

/** The newest moment that is taken lies a little ahead: clocks differ. */
const moment = Joi.number()
  .min(0)
  .custom((ms: number, helpers) => (ms > Date.now() + mostAheadMs ? helpers.error("number.max") : ms))
  .messages({ "number.max": "{{#label}} lies more than 10 min ahead; is the clock right?" });
const eventSchema = Joi.object<SentEvent>({
  fromMs: moment,
  toMs: moment.min(Joi.ref("fromMs")),
  kind: Joi.string().trim().min(1).max(60).default("note"),
  machine: Joi.string().max(200).allow("").default(""),
  text: Joi.string().trim().min(1).max(2000).required(),
  tags: Joi.object()
    .pattern(/^[a-zA-Z_][a-zA-Z0-9_.-]{0,99}$/, Joi.string().trim().min(1).max(200))
    .max(20)
    .default({}),
});

interface EventParts {
  readonly database: Database;
  readonly live: LiveHub;
  readonly tokens: Tokens;
  readonly sources: Sources;
  readonly commandToken: string | undefined;
}

/** What happened in a window, and what people note. */
export function eventsRouter(parts: EventParts): Router {
  const router = Router();
  serve(router, routes.listEvents, { query: windowSchema }, async ({ query, request, response }) => {
    const { from, to, machine, ...page } = query;
    const sight = sightOf(request);
    const found = await listEvents(parts.database, from, to, machine, page);
    tellNext(request, response, found.slice().reverse(), page.most);
    return found.filter((one) => sees(sight, one.machine));
  });
  serve(router, routes.noteEvent, { body: eventSchema }, async ({ body, request }) => {
    const by = isToken(request) ? undefined : personOf(request).name;
    return await record(parts, body, by === undefined ? {} : { by });
  });
  serve(router, routes.removeEvent, {}, async ({ params }) => {
    const removed = await removeEvent(parts.database, params.id);
    if (!removed)
      throw new Problem(
        404,
        "no-such-event",
        "There is no event with this number that a person or a script has made. What sources report stays.",
      );
    parts.live.publish({ kind: "event" });
    return removed;
  });
  return router;
}

/**
 * Takes events of scripts: with a source's own token, for its machine only; of `bin/nubrel`, with the token of the
 * start command. Others go on to the sign-in.
 */
export function sentEvents(parts: EventParts): RequestHandler {
  const body = async (request: Request, response: Response) => {
    for (const read of [express.json({ limit: "1mb" }), storableBody])
      await new Promise<void>((done, failed) =>
        read(request, response, (error?: unknown) => (error ? failed(error) : done())),
      );
  };
  return async (request, response, next) => {
    const sent = bearerOf(request);
    if (sent === undefined) return next();
    if (parts.commandToken !== undefined && sameToken(sent, parts.commandToken)) {
      await body(request, response);
      response.status(201).json(await record(parts, checked(eventSchema, request.body), {}));
      return;
    }
    const token = await parts.tokens.check(sent, request.ip);
    if (token?.scope !== "write") return next();
    const source = parts.sources.find(token.sourceId ?? -1);
    if (!source) throw new Problem(403, "this-token-has-no-source", "The source of this token was removed.");
    const { machine } = source.source;
    await body(request, response);
    if (![undefined, "", machine].includes((request.body as SentEvent | undefined)?.machine))
      throw new Problem(
        403,
        "another-machine",
        `This token writes for "${machine}" only. Leave "machine" out, or use a token that may manage.`,
      );
    response.status(201).json(await record(parts, checked(eventSchema, request.body), {}, machine));
  };
}

/** An event without times happens now; with a start alone it is a moment. */
async function record(
  { database, live }: EventParts,
  sent: SentEvent,
  tags: Tags,
  ofMachine?: string,
): Promise<MachineEvent> {
  const now = Date.now();
  const { machine, fromMs: from, toMs: to, ...event } = sent;
  // Who did it is known of people who are signed in, and of nobody else.
  if (tags["by"] === undefined && Object.hasOwn(event.tags, "by"))
    throw new Problem(422, "the-request-does-not-fit", '"tags.by" is set by Nubrel: it says who was signed in', {
      errors: [{ path: "tags.by", message: "is set by Nubrel" }],
    });
  const fromMs = from ?? to ?? now;
  const made = await insertEvent(database, {
    ...event,
    machine: ofMachine ?? machine,
    fromMs,
    toMs: to ?? fromMs,
    tags: { ...event.tags, ...tags },
  });
  live.publish({ kind: "event" });
  return made;
}
