import { Router } from "express";
import Joi from "joi";
import * as routes from "../../core/api/recordings.ts";
import { plannedAfter } from "../../core/recordings/schedule.ts";
import { byWhom, nameOf } from "../http/asker.ts";
import { Problem } from "../http/problem.ts";
import { serve } from "../http/serve.ts";
import { signalOf } from "../http/signal-of.ts";
import { beginAsked, type BeginParts } from "./begin-asked.ts";
import { forecastOf } from "./forecast.ts";
import { listedRun } from "./listed-run.ts";
import { noSuchRecording, noSuchRun } from "./no-such-run.ts";
import {
  bringRecordingRowBack,
  insertRecording,
  type RecordingRow,
  removeRecordingRow,
  updateRecording,
} from "./recording-rows.ts";
import { beginSchema, recordingSchema } from "./recording-schema.ts";
import { type ReportParts, reportOf } from "./run-report.ts";
import { addRunNotes, newestRuns, removeRunRow, runOf, runsOf } from "./run-rows.ts";

const noteSchema = Joi.object<routes.NoteBody>({ text: Joi.string().trim().min(1).max(2000).required() });

/** Recordings, and their runs. */
// biome-ignore lint/complexity/noExcessiveLinesPerFunction: a route after the other
export function recordingsRouter(parts: ReportParts & BeginParts): Router {
  const { database, recordings, store, sources, names } = parts;
  const router = Router();
  const found = (id: number): RecordingRow => {
    const row = recordings.find(id);
    if (!row) throw noSuchRecording(id);
    return row;
  };
  const views = async (rows: readonly RecordingRow[]): Promise<readonly routes.RecordingView[]> => {
    const newest = await newestRuns(database);
    const nowMs = Date.now();
    return rows.map(({ id, document }) => {
      const { runs, last } = newest.get(id) ?? { runs: 0, last: undefined };
      return {
        ...document,
        id,
        nextMs: (document.schedule && plannedAfter(document.schedule, nowMs)?.fromMs) ?? null,
        runs,
        lastRun: last ? listedRun(last) : null,
      };
    });
  };
  const viewOf = async (row: RecordingRow) => (await views([row]))[0] as routes.RecordingView;
  const nameTaken = (name: string) =>
    new Problem(409, "the-name-is-taken", `There is a recording called "${name}" already. Give this one another name.`);

  serve(router, routes.listRecordings, {}, async () => await views(recordings.all()));

  serve(router, routes.listRunning, {}, () => recordings.running());

  serve(router, routes.makeRecording, { body: recordingSchema }, async ({ body, request }) => {
    const made = await insertRecording(database, body, nameOf(request));
    if (!made) throw nameTaken(body.name);
    await recordings.reread();
    return await viewOf(made);
  });

  serve(router, routes.forecastRecording, { body: recordingSchema }, async ({ body }) =>
    forecastOf({ store, sources, names, bytesPerSample: recordings.bytesPerSample }, body),
  );

  serve(router, routes.getRecording, {}, async ({ params: { id } }) => await viewOf(found(id)));

  serve(router, routes.changeRecording, { body: recordingSchema }, async ({ params: { id }, body, request }) => {
    found(id);
    const changed = await updateRecording(database, id, body, nameOf(request));
    if (!changed) throw nameTaken(body.name);
    await recordings.reread();
    return await viewOf(changed);
  });

  serve(router, routes.removeRecording, {}, async ({ params: { id } }) => {
    if (!(await removeRecordingRow(database, id))) throw noSuchRecording(id);
    await recordings.reread();
  });

  serve(router, routes.bringRecordingBack, {}, async ({ params: { id } }) => {
    if (!(await bringRecordingRowBack(database, id)))
      throw new Problem(
        409,
        "it-cannot-be-brought-back",
        "It was not removed, was removed more than a week ago, or another recording has its name by now.",
      );
    await recordings.reread();
  });

  serve(router, routes.listRuns, {}, async ({ params: { id } }) => {
    found(id);
    const on = new Map(recordings.running().map((run) => [run.id, run]));
    return (await runsOf(database, id)).map((row) => {
      const run = on.get(row.id);
      return run ? { ...listedRun(row), samples: run.samples, bytes: run.bytes, untilMs: run.untilMs } : listedRun(row);
    });
  });

  serve(router, routes.beginRun, { body: beginSchema }, async ({ params: { id }, body }) =>
    beginAsked(parts, found(id), "person", body),
  );

  serve(router, routes.stopRun, {}, async ({ params: { id, run } }) => {
    const row = await runOf(database, id, run);
    if (!row) throw noSuchRun(run);
    const ended = await recordings.end(run, "by hand");
    // Who stops one that has ended meanwhile has what was wanted.
    return ended ?? listedRun((await runOf(database, id, run)) ?? row);
  });

  serve(router, routes.getRun, {}, async ({ params: { id, run }, response }) => {
    const row = await runOf(database, id, run);
    if (!row) throw noSuchRun(run);
    const signal = signalOf(response);
    const nowMs = Date.now();
    const on = recordings.on(run);
    const how = { parts: on?.partsUntil(nowMs) ?? row.parts, untilMs: row.endedAtMs ?? nowMs };
    return await reportOf(parts, on ? { ...row, samples: on.samples } : row, how, signal);
  });

  serve(router, routes.noteRun, { body: noteSchema }, async ({ params: { id, run }, body, request }) => {
    const row = await runOf(database, id, run);
    if (!row) throw noSuchRun(run);
    await addRunNotes(database, run, [`${body.text} (${byWhom(request)})`]);
    return listedRun(row);
  });

  serve(router, routes.removeRun, {}, async ({ params: { id, run } }) => {
    if (recordings.on(run)) throw new Problem(409, "the-run-is-on", "End it first; then it can be removed.");
    if (!(await removeRunRow(database, id, run))) throw noSuchRun(run);
  });
  return router;
}
