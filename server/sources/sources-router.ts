import { type Request, Router } from "express";
import Joi from "joi";
import type { FoundTable, TryAnswer, WalkAnswer } from "../../core/api/sources.ts";
import { findTableShape } from "../../core/formats/csv/table-shape.ts";
import { OtlpError } from "../../core/formats/otlp/otlp-messages.ts";
import { TextError } from "../../core/pages/text-error.ts";
import { ReadingsReader } from "../../core/pages/readings-reader.ts";
import type { Device } from "../../core/sources/device.ts";
import type { Credentials, SourceKind, SourceSettings } from "../../core/sources/source.ts";
import { diagnose } from "../transport/diagnose.ts";
import { snmpCredentials } from "../gather/open-device.ts";
import { PullError } from "../transport/pull-error.ts";
import { SnmpSession } from "../gather/snmp/snmp-wire.ts";
import { walkDevice } from "../gather/snmp/walk-device.ts";
import { limitsSchema } from "./intake-limits.ts";
import { formatOf } from "./received.ts";
import type { RawText, SourceRun } from "./source-run.ts";
import { failureOf, type Sources } from "./sources.ts";
import { triedPage, triedReading } from "./tried-page.ts";
import { notForReaders, nameOf } from "../http/asker.ts";
import { checked } from "../http/checked.ts";
import { idParameter } from "../http/id-parameter.ts";
import { Problem } from "../http/problem.ts";
import { changedSourceSchema, newSourceSchema, pauseSchema, previewSchema, tableSchema, trySchema, walkSchema } from "./source-schema.ts";

const mostAskedMs = 3_600_000;
const windowSchema = Joi.object<{ from: number; to: number }>({ from: Joi.number().required(), to: Joi.number().greater(Joi.ref("from")).required() });

/** Sources: what they are, how they stand, trying before saving, pausing, what was received. `news` has a pause be seen at once. */
export function sourcesRouter(sources: Sources, news: () => void): Router {
  const router = Router();
  const found = (request: Pick<Request<object>, "params">): SourceRun => {
    const run = sources.find(idParameter(request, "source"));
    if (!run) throw new Problem(404, "No such source", "This source is not there; it may have been removed.");
    return run;
  };

  router.get("/sources", (_request, response) => {
    response.json(sources.views(Date.now()));
  });

  router.post("/sources", async (request, response) => {
    const { kind, credentials, ...settings } = checked(newSourceSchema, request.body);
    assertSpeaks(settings.device, credentials?.kind ?? "none");
    assertInterval(kind, settings.intervalMs);
    const run = await unlessTaken(() => sources.create(kind, settings, credentials), settings);
    response.status(201).json(run.view(Date.now()));
  });

  router.post("/sources/try", async (request, response) => {
    const { address, device, trust, credentials, id, ...source } = checked(trySchema, request.body);
    const nowMs = Date.now();
    const began = performance.now();
    try {
      if (device) {
        const { readings, leftOut, raw } = await sources.askDevice(device, trust, credentials, id);
        const reader = new ReadingsReader();
        response.json(triedReading(source, { page: reader.read(readings, undefined, leftOut), reader }, { bytes: raw.length, format: "device", tookMs: performance.now() - began }, sources.limits) satisfies TryAnswer);
        return;
      }
      const pulled = await sources.ask({ address, trust }, credentials, id);
      response.json(triedPage(source, pulled.bytes, pulled.dialect, sources.limits, pulled.tookMs) satisfies TryAnswer);
    } catch (error) {
      if (!(error instanceof PullError || error instanceof TextError)) throw error;
      response.json({ kind: "failed", failure: failureOf(error instanceof PullError ? error : await diagnose(error, address as NonNullable<typeof address>), nowMs) } satisfies TryAnswer);
    }
  });

  /** Everything that a device of SNMP has, in words. */
  router.post("/sources/walk", async (request, response) => {
    const { device, credentials, id, after } = checked(walkSchema, request.body);
    const wire = new SnmpSession(device, snmpCredentials(await sources.credentialsFor(credentials, id, { address: null, device, trust: { kind: "system" } })));
    try {
      response.json({ kind: "walked", walk: await walkDevice(wire, Date.now(), after) } satisfies WalkAnswer);
    } catch (error) {
      if (!(error instanceof PullError)) throw error;
      response.json({ kind: "failed", failure: failureOf(error, Date.now()) } satisfies WalkAnswer);
    } finally {
      wire.close();
    }
  });

  router.get("/sources/:id", (request, response) => {
    response.json(found(request).view(Date.now()));
  });

  router.put("/sources/:id", async (request, response) => {
    const { source } = found(request);
    const { credentials, ...settings } = checked(changedSourceSchema, request.body);
    if ((settings.device?.kind ?? null) !== (source.device?.kind ?? null)) throw new Problem(422, "The request does not fit", `"device" must be of the kind that the source is: ${source.device?.kind ?? "none"}`);
    if ((settings.address === null) === (source.kind === "pull")) throw new Problem(422, "The request does not fit", source.kind === "pull" ? '"address" is needed: this source is asked' : '"address" cannot be: this source is not asked');
    assertSpeaks(settings.device, credentials?.kind ?? source.credentials);
    assertInterval(source.kind, settings.intervalMs);
    const fixed = source.kind === "this-machine" ? { ...settings, machine: source.machine, intervalMs: source.intervalMs } : settings; // those are settings of the start command
    const run = await unlessTaken(() => sources.change(source.id, fixed, credentials), settings);
    response.json(run?.view(Date.now()));
  });

  router.put("/sources/:id/pause", async (request, response) => {
    const { source } = found(request);
    const { untilMs, why } = checked(pauseSchema, request.body);
    const run = await sources.pause(source.id, { by: nameOf(request) || "a token", why, sinceMs: Date.now(), untilMs });
    news();
    response.json(run?.view(Date.now()));
  });

  router.delete("/sources/:id/pause", async (request, response) => {
    const run = await sources.pause(found(request).source.id, null);
    news();
    response.json(run?.view(Date.now()));
  });

  router.delete("/sources/:id", async (request, response) => {
    const { source } = found(request);
    if (source.kind === "this-machine") throw new Problem(409, "This machine stays", "The machine that Nubrel runs on is always gathered; it can be paused.");
    await sources.remove(source.id);
    response.status(204).end();
  });

  router.post("/sources/:id/bring-back", async (request, response) => {
    const run = await unlessTaken(() => sources.bringBack(idParameter(request, "source")), { name: "that name" });
    if (!run) throw new Problem(404, "No such source", "Nothing that was removed in the last week has this number.");
    response.json(run.view(Date.now()));
  });

  /** The text as last received, whatever it is; never shown as a page of ours. */
  router.get("/sources/:id/raw", notForReaders, (request, response) => {
    const { raw } = found(request);
    if (!raw) throw new Problem(404, "Nothing received yet", "This source has sent nothing since Nubrel was started.");
    response.setHeader("Content-Type", "text/plain; charset=utf-8");
    response.setHeader("X-Content-Type-Options", "nosniff");
    response.setHeader("X-Received-At", new Date(raw.atMs).toISOString());
    response.send(Buffer.from(raw.bytes));
  });

  /** What other rules and tags would make of the text received last. */
  router.post("/sources/:id/preview", (request, response) => {
    const { source, raw } = found(request);
    const { take, tags } = checked(previewSchema, request.body);
    const { lastReadings } = found(request);
    if (lastReadings) {
      response.json(triedReading({ kind: source.kind, machine: source.machine, take, tags }, lastReadings, { bytes: raw?.bytes.length ?? 0, format: "device", tookMs: 0 }, sources.limits));
      return;
    }
    if (!raw) throw new Problem(409, "Nothing received yet", "There is nothing to try the rules on: this source has sent no text since Nubrel was started.");
    try {
      response.json(triedPage({ kind: source.kind, machine: source.machine, take, tags }, wholePage(raw), formatOf(raw.contentType), sources.limits, 0, source.csv));
    } catch (error) {
      if (error instanceof TextError || error instanceof OtlpError) throw new Problem(409, "The text received last cannot be read", error.message);
      throw error;
    }
  });

  router.get("/sources/:id/spells", async (request, response) => {
    const { from, to } = checked(windowSchema, request.query);
    response.json(await sources.spells(found(request).source.id, from, to));
  });

  /** How a table is read: found, or as a person says; with what it gives. */
  router.post("/sources/:id/table", (request, response) => {
    const run = found(request);
    const { text, shape } = checked(tableSchema, request.body);
    const guess = shape ? { shape, doubts: [] } : findTableShape(text, {}, run.knownColumns());
    if (!guess) throw new Problem(422, "No table with times", "No column of times was found. A table has a heading, a column of times, and values; its columns are apart by comma, semicolon, tab or |.");
    try {
      response.json({ ...guess, tried: triedPage(run.source, Buffer.from(text), "csv", sources.limits, 0, guess.shape) } satisfies FoundTable);
    } catch (error) {
      if (error instanceof TextError) throw new Problem(422, "The table cannot be read so", error.message);
      throw error;
    }
  });

  router.get("/intake-limits", (_request, response) => {
    response.json(sources.limits);
  });

  router.put("/intake-limits", async (request, response) => {
    await sources.setLimits(checked(limitsSchema, request.body));
    response.json(sources.limits);
  });
  return router;
}

/** A text of which only the beginning is kept, as a page that ends there. */
function wholePage({ bytes, contentType, isWhole }: RawText): Uint8Array {
  return isWhole || formatOf(contentType) !== "openmetrics" ? bytes : Buffer.concat([bytes, Buffer.from("# EOF\n")]);
}

/** A source that is set to version 3 is never asked by a community, and none of the others by a user. */
function assertSpeaks(device: Device | null, credentials: Credentials["kind"]): void {
  if (device?.kind !== "snmp" || (device.version === "3") === (credentials === "snmp user")) return; // none stands for the community "public"
  throw new Problem(422, "The request does not fit", device.version === "3" ? '"credentials" are needed for version 3: a user and its keys; a community is of versions 1 and 2c' : `"credentials" are of version 3: version ${device.version} needs a community`);
}

/** What is asked is asked once an hour at least; what sends by itself may come much more seldom. */
function assertInterval(kind: SourceKind, intervalMs: number): void {
  if (kind !== "push" && kind !== "collector" && intervalMs > mostAskedMs) throw new Problem(422, "The request does not fit", '"intervalMs" is 1 h at most: this source is asked');
}

async function unlessTaken<T>(work: () => Promise<T>, { name }: Pick<SourceSettings, "name">): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if ((error as { code?: string }).code === "23505") throw new Problem(409, "This name is taken", `Another source is called ${name} already.`, { errors: [{ path: "name", message: `another source is called ${name} already` }] });
    throw error;
  }
}
