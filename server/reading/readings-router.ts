import { sendOn } from "../http/packed.ts";
import * as routes from "../../core/api/readings.ts";
import { sent, serve } from "../http/serve.ts";
import { signalOf } from "../http/signal-of.ts";
import { Router } from "express";
import Joi from "joi";
import type { ReadingAnswer, ReadingDocument } from "../../core/reading/document.ts";
import { answerSeveral } from "./answer-several.ts";
import { answerReading } from "./answer-reading.ts";
import type { MachineNames } from "../machines/machine-names.ts";
import type { Store } from "../store/store.ts";
import { CancelledError } from "../work/work-kind.ts";
import { checked } from "../http/checked.ts";
import { drained } from "../http/drained.ts";
import { serveDensity } from "./density-route.ts";
import { readingSchema } from "./reading-schema.ts";
import { problemBody } from "../http/problem.ts";
import type { KeptPast } from "./kept-past.ts";
import { assertShown } from "../links/by-link.ts";
import { seenReadings, type StandOn } from "./seen-readings.ts";
import { sendReading } from "./send-reading.ts";
import { inCommon, SharedAnswers } from "./shared-answers.ts";
import type { Slowness, Timed } from "../slowness/slowness.ts";
import { countersOfReading, namedReading } from "../../core/reading/named-reading.ts";

/**
 * As many readings as a page asks for at once; each is checked by itself, so that one that is wrong does not take the
 * others with it.
 */
const severalSchema = Joi.object<{ readings: readonly unknown[] }>({
  readings: Joi.array().items(Joi.object()).min(1).max(100).required(),
});

/** What other subjects do for readings. */
interface BesideReadings {
  readonly slowness: Slowness;
  /** Notes which counters were looked at. */
  lookedAt(counters: readonly string[]): void;
  readonly standOn: StandOn;
}

/** A reading as it is told where it was slow. */
const timed = (document: ReadingDocument): Timed => ({
  kind: "reading",
  key: countersOfReading(document),
  what: () => namedReading(document),
});

/** Readings, and how densely a window was gathered. */
export function readingsRouter(
  store: Store,
  names: MachineNames,
  past: KeptPast,
  { lookedAt, standOn, slowness }: BesideReadings,
): Router {
  const router = Router();
  const shared = new SharedAnswers(store);
  const note = ({ sentences }: ReadingDocument) => lookedAt(Object.values(sentences).map(({ counter }) => counter));

  serve(router, routes.askReading, { body: readingSchema }, async ({ body, request, response }) => {
    assertShown(request, body);
    const [seen] = await seenReadings(request, [body], standOn);
    const signal = signalOf(response);
    note(body);
    try {
      const answer = await slowness.watch(timed(body), () =>
        answerReading(store, seen as ReadingDocument, signal, names, { past }),
      );
      await sendReading(response, answer);
    } catch (error) {
      if (!(error instanceof CancelledError)) throw error;
    }
    return sent;
  });

  serve(router, routes.askReadings, { body: severalSchema }, async ({ body: { readings }, request, response }) => {
    const signal = signalOf(response);
    response.type("application/x-ndjson");
    const say = (line: string) => response.write(`${line}\n`);
    const failed = (index: number, error: unknown) =>
      say(JSON.stringify({ index, problem: problemBody(request, error) }));
    const answered = async (answers: readonly (readonly [i: number, text: string])[]) => {
      const lines = answers.map(([i, text]) => `{"index":${place(i)},"answer":${text}}`);
      if (!say(lines.join("\n"))) await drained(response);
      sendOn(response);
    };
    const valid: ReadingDocument[] = [];
    const places: number[] = [];
    const place = (i: number) => places[i] as number;
    readings.forEach((reading, index) => {
      try {
        const document = shared.checked(reading, (one) => checked(readingSchema, one));
        assertShown(request, document);
        valid.push(document);
        places.push(index);
      } catch (error) {
        failed(index, error);
      }
    });
    valid.forEach(note);
    const seen = await seenReadings(request, valid, standOn);
    const since = performance.now();
    const work = async (own: readonly number[], settle: (i: number, answer?: ReadingAnswer) => string) => {
      const handed = {
        answered: async (k: number, answer: ReadingAnswer) => {
          const i = own[k] as number;
          slowness.note(timed(valid[i] as ReadingDocument), performance.now() - since);
          await answered([[i, settle(i, answer)]]);
        },
        failed: (k: number, error: unknown) => failed(place(own[k] as number), error),
      };
      const documents = own.map((i) => seen[i] as ReadingDocument);
      await answerSeveral(store, documents, handed, signal, names, { past });
    };
    try {
      await inCommon(shared, seen, work, answered);
    } catch (error) {
      if (!(error instanceof CancelledError)) throw error;
    }
    response.end();
    return sent;
  });

  serveDensity(router, store);
  return router;
}
