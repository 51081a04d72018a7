import { Router } from "express";
import Joi from "joi";
import * as routes from "../../core/api/recordings.ts";
import type { GivenShape } from "../../core/formats/csv/table-shape.ts";
import { listEvents } from "../events/event-rows.ts";
import { drained } from "../http/drained.ts";
import { nameOf } from "../http/asker.ts";
import { sent, serve } from "../http/serve.ts";
import { wholeBody } from "../intake/request-body.ts";
import { tableQuery, type TableQuery } from "../sources/source-schema.ts";
import type { Sources } from "../sources/sources.ts";
import { stripOf } from "./keep-ended-run.ts";
import { listedRun } from "./listed-run.ts";
import { insertRecording } from "./recording-rows.ts";
import type { Recordings } from "./recordings.ts";
import { openedRun, type RunFileFormat, runFileFormats, runFileText } from "./run-files.ts";
import { type ReportParts, seriesOfRun } from "./run-report.ts";
import { insertEndedRun, keepRun, runOf } from "./run-rows.ts";
import { noSuchRun } from "./no-such-run.ts";
import { readRunKind } from "./run-work.ts";

const openQuery = (tableQuery as Joi.ObjectSchema<TableQuery & { name?: string }>).keys({
  name: Joi.string().trim().min(1).max(200),
});
const formatQuery = Joi.object<{ format: RunFileFormat }>({
  format: Joi.valid(...Object.keys(runFileFormats)).default("nubrel"),
});
const mostNames = 1000;

/** Runs as files: written out in open formats, and opened from them without touching the store's own series. */
export function runFilesRouter(
  parts: ReportParts & { readonly sources: Sources; readonly recordings: Recordings },
): Router {
  const { database, pool, sources, recordings } = parts;
  const router = Router();

  serve(router, routes.openRunFile, { query: openQuery }, async ({ query, request }) => {
    const bytes = await wholeBody(request, sources.limits.bodyBytes);
    const { name = "opened file", decimal, times, zone, tags } = query;
    const given: GivenShape = {
      ...(decimal !== undefined && { decimal }),
      ...(times !== undefined && { timeForm: times }),
      ...(zone !== undefined && { offsetMinutes: zone }),
      ...(tags !== undefined && { tags: tags.split(",").map((tag) => tag.trim()) }),
    };
    const opened = openedRun(bytes, name, given);
    const { document, series, startedAtMs, endedAtMs } = opened;
    const { reading } = await pool.run(readRunKind, { document, series, fromMs: startedAtMs, toMs: endedAtMs });
    const { schedule: _, ...plain } = document; // what ran elsewhere does not begin to run here
    const recording = await recordingNamed(plain, nameOf(request));
    const row = await insertEndedRun(database, {
      ...opened,
      recordingId: recording.id,
      origin: "file",
      parts: [{ fromMs: startedAtMs, toMs: endedAtMs }],
    });
    await keepRun(database, row.id, series, { strip: stripOf(reading), used: [] });
    await recordings.reread();
    return listedRun((await runOf(database, recording.id, row.id)) ?? row);
  });

  serve(router, routes.getRunFile, { query: formatQuery }, async ({ params, query: { format }, response }) => {
    const row = await runOf(database, params.id, params.run);
    if (!row) throw noSuchRun(params.run);
    const on = recordings.on(row.id);
    const nowMs = Date.now();
    const series = await seriesOfRun(parts, row, on?.partsUntil(nowMs));
    const untilMs = row.endedAtMs ?? nowMs;
    const events = row.origin === "file" ? row.events : await listEvents(database, row.startedAtMs, untilMs);
    const { type, ends } = runFileFormats[format];
    const file = `${row.document.name.replace(/[^\w-]+/g, "-").slice(0, 80)}-${new Date(row.startedAtMs).toISOString().slice(0, 16).replace(":", "")}.${ends}`;
    response.setHeader("Content-Type", type);
    response.setHeader("Content-Disposition", `attachment; filename="${file}"`);
    for (const text of runFileText(format, { ...row, endedAtMs: untilMs }, series, events))
      if (!response.write(text)) await drained(response);
    response.end();
    return sent;
  });

  /** A recording of this name with the same sentences takes the run; else one is made, with a number where the name is taken. */
  async function recordingNamed(
    document: Parameters<typeof insertRecording>[1],
    by: string,
  ): Promise<{ readonly id: number }> {
    const same = recordings.find(document.name);
    if (same && JSON.stringify(same.document.sentences) === JSON.stringify(document.sentences)) return same;
    for (let n = 1; n < mostNames; n++) {
      const name = n === 1 ? document.name : `${document.name} (${n})`;
      const made = await insertRecording(database, { ...document, name }, by);
      if (made) return made;
    }
    throw new Error(`${mostNames} recordings are called ${document.name}`);
  }
  return router;
}
