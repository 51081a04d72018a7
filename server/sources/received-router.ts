import { Router } from "express";
import * as routes from "../../core/api/sources.ts";
import { findTableShape } from "../../core/formats/csv/table-shape.ts";
import { OtlpError } from "../../core/formats/otlp/otlp-messages.ts";
import { TextError } from "../../core/pages/text-error.ts";
import { Problem } from "../http/problem.ts";
import { sent, serve } from "../http/serve.ts";
import { foundSource } from "./found-source.ts";
import { formatOf } from "./received.ts";
import type { RawText } from "./source-run.ts";
import { previewSchema, tableSchema } from "./source-schema.ts";
import type { Sources } from "./sources.ts";
import { triedPage, triedReading } from "./tried-page.ts";

/** What a source said last: as received, under other rules, as a table that is read otherwise. */
export function receivedRouter(sources: Sources): Router {
  const router = Router();

  /** The text as last received, whatever it is; never shown as a page of ours. */
  serve(router, routes.getRawText, {}, ({ params, response }) => {
    const { raw } = foundSource(sources, params.id);
    if (!raw) throw new Problem(404, "nothing-received-yet", "This source has sent nothing since Nubrel was started.");
    response.setHeader("Content-Type", "text/plain; charset=utf-8");
    response.setHeader("X-Content-Type-Options", "nosniff");
    response.setHeader("X-Received-At", new Date(raw.atMs).toISOString());
    response.send(Buffer.from(raw.bytes));
    return sent;
  });

  /** What other rules and tags would make of the text received last. */
  serve(router, routes.previewRules, { body: previewSchema }, ({ params, body: { take, tags } }) => {
    const { source, raw, lastReadings } = foundSource(sources, params.id);
    if (lastReadings)
      return triedReading(
        { kind: source.kind, machine: source.machine, take, tags },
        lastReadings,
        { bytes: raw?.bytes.length ?? 0, format: "device", tookMs: 0 },
        sources.limits,
      );
    if (!raw)
      throw new Problem(
        409,
        "nothing-received-yet",
        "There is nothing to try the rules on: this source has sent no text since Nubrel was started.",
      );
    try {
      return triedPage(
        { kind: source.kind, machine: source.machine, take, tags },
        wholePage(raw),
        formatOf(raw.contentType),
        sources.limits,
        0,
        source.csv,
      );
    } catch (error) {
      if (error instanceof TextError || error instanceof OtlpError)
        throw new Problem(409, "the-text-received-last-cannot-be-read", error.message);
      throw error;
    }
  });

  /** How a table is read: found, or as a person says; with what it gives. */
  serve(router, routes.readTable, { body: tableSchema }, ({ params, body: { text, shape } }) => {
    const run = foundSource(sources, params.id);
    const guess = shape ? { shape, doubts: [] } : findTableShape(text, {}, run.knownColumns());
    if (!guess)
      throw new Problem(
        422,
        "no-table-with-times",
        "No column of times was found. A table has a heading, a column of times, and values; its columns are apart by comma, semicolon, tab or |.",
      );
    try {
      return { ...guess, tried: triedPage(run.source, Buffer.from(text), "csv", sources.limits, 0, guess.shape) };
    } catch (error) {
      if (error instanceof TextError) throw new Problem(422, "the-table-cannot-be-read-so", error.message);
      throw error;
    }
  });
  return router;
}

/** A text of which only the beginning is kept, as a page that ends there. */
function wholePage({ bytes, contentType, isWhole }: RawText): Uint8Array {
  return isWhole || formatOf(contentType) !== "openmetrics" ? bytes : Buffer.concat([bytes, Buffer.from("# EOF\n")]);
}
