import { sendOn } from "../http/packed.ts";
import * as routes from "../../core/api/readings.ts";
import { sent, serve } from "../http/serve.ts";
import { signalOf } from "../http/signal-of.ts";
import { Router } from "express";
import Joi from "joi";
import type { ReadingDocument } from "../../core/reading/document.ts";
import { answerSeveral } from "./answer-several.ts";
import { answerReading } from "./answer-reading.ts";
import type { MachineNames } from "../machines/machine-names.ts";
import type { Store } from "../store/store.ts";
import { CancelledError } from "../work/work-kind.ts";
import { slotMs, slotStart } from "../store/slots.ts";
import { checked } from "../http/checked.ts";
import { drained } from "../http/drained.ts";
import { readingSchema, windowSchema } from "./reading-schema.ts";
import { problemBody } from "../http/problem.ts";
import type { KeptPast } from "./kept-past.ts";
import { assertShown } from "../links/by-link.ts";
import { seenReadings, type StandOn } from "./seen-readings.ts";
import { sendReading } from "./send-reading.ts";

const densitySchema = (windowSchema as Joi.ObjectSchema).keys({
  parts: Joi.number().integer().min(1).max(2000).default(400),
}) as Joi.ObjectSchema<{ from: number; to: number; parts: number }>;

/**
 * As many readings as a page asks for at once; each is checked by itself, so that one that is wrong does not take the
 * others with it.
 */
const severalSchema = Joi.object<{ readings: readonly unknown[] }>({
  readings: Joi.array().items(Joi.object()).min(1).max(100).required(),
});

/** What other subjects do for readings. */
interface BesideReadings {
  /** Notes which counters were looked at. */
  lookedAt(counters: readonly string[]): void;
  readonly standOn: StandOn;
}

/** Readings, and how densely a window was gathered. */
export function readingsRouter(
  store: Store,
  names: MachineNames,
  past: KeptPast,
  { lookedAt, standOn }: BesideReadings,
): Router {
  const router = Router();
  const note = ({ sentences }: ReadingDocument) => lookedAt(Object.values(sentences).map(({ counter }) => counter));

  serve(router, routes.askReading, { body: readingSchema }, async ({ body, request, response }) => {
    assertShown(request, body);
    const [seen] = await seenReadings(request, [body], standOn);
    const signal = signalOf(response);
    note(body);
    try {
      await sendReading(response, await answerReading(store, seen as ReadingDocument, signal, names, { past }));
    } catch (error) {
      if (!(error instanceof CancelledError)) throw error;
    }
    return sent;
  });

  serve(router, routes.askReadings, { body: severalSchema }, async ({ body: { readings }, request, response }) => {
    const signal = signalOf(response);
    response.type("application/x-ndjson");
    const say = (line: object) => response.write(`${JSON.stringify(line)}\n`);
    const failed = (index: number, error: unknown) => say({ index, problem: problemBody(request, error) });
    const valid: ReadingDocument[] = [];
    const places: number[] = [];
    readings.forEach((reading, index) => {
      try {
        const document = checked(readingSchema, reading);
        assertShown(request, document);
        valid.push(document);
        places.push(index);
      } catch (error) {
        failed(index, error);
      }
    });
    const place = (i: number) => places[i] as number;
    valid.forEach(note);
    const seen = await seenReadings(request, valid, standOn);
    try {
      await answerSeveral(
        store,
        seen,
        {
          answered: async (i, answer) => {
            if (!say({ index: place(i), answer })) await drained(response);
            sendOn(response);
          },
          failed: (i, error) => failed(place(i), error),
        },
        signal,
        names,
        { past },
      );
    } catch (error) {
      if (!(error instanceof CancelledError)) throw error;
    }
    response.end();
    return sent;
  });

  serve(router, routes.getDensity, { query: densitySchema }, async ({ query: { from, to, parts } }) => {
    const stepMs = (to - from) / parts;
    const counts = new Array<number>(parts).fill(0);
    const add = (atMs: number, n: number) => {
      const part = Math.floor((atMs - from) / stepMs);
      if (part >= 0 && part < parts) counts[part] = (counts[part] as number) + n;
    };
    if (stepMs >= slotMs) {
      for (const [slot, n] of await store.samplesPerSlot(from, to)) add(slotStart(slot), n);
    } else {
      const minutes = await store.samplesPerMinute(from, to);
      if (stepMs >= 60_000) for (const [minute, n] of minutes) add(minute * 60_000, n);
      else
        for (let part = 0; part < parts; part++)
          counts[part] = minutes.get(Math.floor((from + (part + 0.5) * stepMs) / 60_000)) ?? 0;
    }
    return { from, stepMs, counts };
  });
  return router;
}
