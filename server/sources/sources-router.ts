import * as routes from "../../core/api/sources.ts";
import { sent, serve } from "../http/serve.ts";
import { Router } from "express";
import Joi from "joi";
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
import { Problem } from "../http/problem.ts";
import {
  changedSourceSchema,
  newSourceSchema,
  pauseSchema,
  previewSchema,
  tableSchema,
  trySchema,
  walkSchema,
} from "./source-schema.ts";

const mostAskedMs = 3_600_000;
const windowSchema = Joi.object<{ from: number; to: number }>({
  from: Joi.number().required(),
  to: Joi.number().greater(Joi.ref("from")).required(),
});

/**
 * Sources: what they are, how they stand, trying before saving, pausing, what was received. `news` has a pause be seen
 * at once.
 */
export function sourcesRouter(sources: Sources, news: () => void): Router {
  const router = Router();
  const there = (run: SourceRun | undefined): SourceRun => {
    if (!run) throw new Problem(404, "No such source", "This source is not there; it may have been removed.");
    return run;
  };
  const found = (id: number): SourceRun => there(sources.find(id));

  serve(router, routes.listSources, {}, () => sources.views(Date.now()));

  serve(router, routes.makeSource, { body: newSourceSchema }, async ({ body }) => {
    const { kind, credentials, ...settings } = body;
    assertSpeaks(settings.device, credentials?.kind ?? "none");
    assertInterval(kind, settings.intervalMs);
    const run = await unlessTaken(() => sources.create(kind, settings, credentials), settings);
    return run.view(Date.now());
  });

  serve(
    router,
    routes.trySource,
    { body: trySchema },
    async ({ body: { address, device, trust, credentials, id, ...source } }) => {
      const nowMs = Date.now();
      const began = performance.now();
      try {
        if (device) {
          const { readings, leftOut, raw } = await sources.askDevice(device, trust, credentials, id);
          const reader = new ReadingsReader();
          return triedReading(
            source,
            { page: reader.read(readings, undefined, leftOut), reader },
            { bytes: raw.length, format: "device", tookMs: performance.now() - began },
            sources.limits,
          );
        }
        const pulled = await sources.ask({ address, trust }, credentials, id);
        return triedPage(source, pulled.bytes, pulled.dialect, sources.limits, pulled.tookMs);
      } catch (error) {
        if (!(error instanceof PullError || error instanceof TextError)) throw error;
        return {
          kind: "failed" as const,
          failure: failureOf(
            error instanceof PullError ? error : await diagnose(error, address as NonNullable<typeof address>),
            nowMs,
          ),
        };
      }
    },
  );

  /** Everything that a device of SNMP has, in words. */
  serve(router, routes.walkSource, { body: walkSchema }, async ({ body: { device, credentials, id, after } }) => {
    const wire = new SnmpSession(
      device,
      snmpCredentials(
        await sources.credentialsFor(credentials, id, { address: null, device, trust: { kind: "system" } }),
      ),
    );
    try {
      return { kind: "walked" as const, walk: await walkDevice(wire, Date.now(), after) };
    } catch (error) {
      if (!(error instanceof PullError)) throw error;
      return { kind: "failed" as const, failure: failureOf(error, Date.now()) };
    } finally {
      wire.close();
    }
  });

  serve(router, routes.getSource, {}, ({ params }) => found(params.id).view(Date.now()));

  serve(router, routes.changeSource, { body: changedSourceSchema }, async ({ params, body }) => {
    const { source } = found(params.id);
    const { credentials, ...settings } = body;
    if ((settings.device?.kind ?? null) !== (source.device?.kind ?? null))
      throw new Problem(
        422,
        "The request does not fit",
        `"device" must be of the kind that the source is: ${source.device?.kind ?? "none"}`,
      );
    if ((settings.address === null) === (source.kind === "pull"))
      throw new Problem(
        422,
        "The request does not fit",
        source.kind === "pull"
          ? '"address" is needed: this source is asked'
          : '"address" cannot be: this source is not asked',
      );
    assertSpeaks(settings.device, credentials?.kind ?? source.credentials);
    assertInterval(source.kind, settings.intervalMs);
    const fixed =
      source.kind === "this-machine"
        ? { ...settings, machine: source.machine, intervalMs: source.intervalMs }
        : settings; // those are settings of the start command
    const run = await unlessTaken(() => sources.change(source.id, fixed, credentials), settings);
    return there(run).view(Date.now());
  });

  serve(router, routes.pauseSource, { body: pauseSchema }, async ({ params, body: { untilMs, why }, request }) => {
    const { source } = found(params.id);
    const run = await sources.pause(source.id, { by: nameOf(request) || "a token", why, sinceMs: Date.now(), untilMs });
    news();
    return there(run).view(Date.now());
  });

  serve(router, routes.endPause, {}, async ({ params }) => {
    const run = await sources.pause(found(params.id).source.id, null);
    news();
    return there(run).view(Date.now());
  });

  serve(router, routes.removeSource, {}, async ({ params }) => {
    const { source } = found(params.id);
    if (source.kind === "this-machine")
      throw new Problem(
        409,
        "This machine stays",
        "The machine that Nubrel runs on is always gathered; it can be paused.",
      );
    await sources.remove(source.id);
  });

  serve(router, routes.bringSourceBack, {}, async ({ params }) => {
    const run = await unlessTaken(() => sources.bringBack(params.id), { name: "that name" });
    if (!run) throw new Problem(404, "No such source", "Nothing that was removed in the last week has this number.");
    return run.view(Date.now());
  });

  /** The text as last received, whatever it is; never shown as a page of ours. */
  serve(router, routes.getRawText, { guard: notForReaders }, ({ params, response }) => {
    const { raw } = found(params.id);
    if (!raw) throw new Problem(404, "Nothing received yet", "This source has sent nothing since Nubrel was started.");
    response.setHeader("Content-Type", "text/plain; charset=utf-8");
    response.setHeader("X-Content-Type-Options", "nosniff");
    response.setHeader("X-Received-At", new Date(raw.atMs).toISOString());
    response.send(Buffer.from(raw.bytes));
    return sent;
  });

  /** What other rules and tags would make of the text received last. */
  serve(router, routes.previewRules, { body: previewSchema }, ({ params, body: { take, tags } }) => {
    const { source, raw, lastReadings } = found(params.id);
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
        "Nothing received yet",
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
        throw new Problem(409, "The text received last cannot be read", error.message);
      throw error;
    }
  });

  serve(router, routes.listSpells, { query: windowSchema }, ({ params, query: { from, to } }) =>
    sources.spells(found(params.id).source.id, from, to),
  );

  /** How a table is read: found, or as a person says; with what it gives. */
  serve(router, routes.readTable, { body: tableSchema }, ({ params, body: { text, shape } }) => {
    const run = found(params.id);
    const guess = shape ? { shape, doubts: [] } : findTableShape(text, {}, run.knownColumns());
    if (!guess)
      throw new Problem(
        422,
        "No table with times",
        "No column of times was found. A table has a heading, a column of times, and values; its columns are apart by comma, semicolon, tab or |.",
      );
    try {
      return { ...guess, tried: triedPage(run.source, Buffer.from(text), "csv", sources.limits, 0, guess.shape) };
    } catch (error) {
      if (error instanceof TextError) throw new Problem(422, "The table cannot be read so", error.message);
      throw error;
    }
  });

  serve(router, routes.getLimits, {}, () => sources.limits);

  serve(router, routes.changeLimits, { body: limitsSchema }, async ({ body }) => {
    await sources.setLimits(body);
    return sources.limits;
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
  throw new Problem(
    422,
    "The request does not fit",
    device.version === "3"
      ? '"credentials" are needed for version 3: a user and its keys; a community is of versions 1 and 2c'
      : `"credentials" are of version 3: version ${device.version} needs a community`,
  );
}

/** What is asked is asked once an hour at least; what sends by itself may come much more seldom. */
function assertInterval(kind: SourceKind, intervalMs: number): void {
  if (kind !== "push" && kind !== "collector" && intervalMs > mostAskedMs)
    throw new Problem(422, "The request does not fit", '"intervalMs" is 1 h at most: this source is asked');
}

async function unlessTaken<T>(work: () => Promise<T>, { name }: Pick<SourceSettings, "name">): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if ((error as { code?: string }).code === "23505")
      throw new Problem(409, "This name is taken", `Another source is called ${name} already.`, {
        errors: [{ path: "name", message: `another source is called ${name} already` }],
      });
    throw error;
  }
}
