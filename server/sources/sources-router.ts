import * as routes from "../../core/api/sources.ts";
import { serve } from "../http/serve.ts";
import { Router } from "express";
import Joi from "joi";
import type { Device } from "../../core/sources/kinds/device-kinds.ts";
import { type SourceKind, sends } from "../../core/sources/kinds/source-kinds.ts";
import type { Credentials, Source, SourceSettings } from "../../core/sources/source.ts";
import { foundSource, thereSource } from "./found-source.ts";
import { limitsSchema } from "./intake-limit-rows.ts";
import type { Sources } from "./sources.ts";
import { byWhom } from "../http/asker.ts";
import { Problem } from "../http/problem.ts";
import { changedSourceSchema, newSourceSchema, pauseSchema } from "./source-schema.ts";

const mostAskedMs = 3_600_000;
const windowSchema = Joi.object<{ from: number; to: number }>({
  from: Joi.number().required(),
  to: Joi.number().greater(Joi.ref("from")).required(),
});

/** Sources: what they are, how they stand, made, changed, paused and removed. `news` has a pause be seen at once. */
export function sourcesRouter(sources: Sources, news: () => void): Router {
  const router = Router();

  serve(router, routes.listSources, {}, () => sources.views(Date.now()));

  serve(router, routes.makeSource, { body: newSourceSchema }, async ({ body }) => {
    const { kind, credentials, ...settings } = body;
    assertSpeaks(settings.device, credentials?.kind ?? "none");
    assertInterval(kind, settings.intervalMs);
    assertAskedFrom(sources, kind, settings.askedFrom);
    const run = await unlessTaken(() => sources.create(kind, settings, credentials), settings);
    return run.view(Date.now());
  });

  serve(router, routes.getSource, {}, ({ params }) => foundSource(sources, params.id).view(Date.now()));

  serve(router, routes.changeSource, { body: changedSourceSchema }, async ({ params, body }) => {
    const { source } = foundSource(sources, params.id);
    const { credentials, ...settings } = body;
    assertFits(source, settings, credentials?.kind ?? source.credentials);
    assertAskedFrom(sources, source.kind, settings.askedFrom);
    const fixed =
      source.kind === "this-machine"
        ? { ...settings, machine: source.machine, intervalMs: source.intervalMs }
        : settings; // those are settings of the start command
    const run = await unlessTaken(() => sources.change(source.id, fixed, credentials), settings);
    return thereSource(run).view(Date.now());
  });

  serve(router, routes.pauseSource, { body: pauseSchema }, async ({ params, body: { untilMs, why }, request }) => {
    const { source } = foundSource(sources, params.id);
    const run = await sources.pause(source.id, { by: byWhom(request), why, sinceMs: Date.now(), untilMs });
    news();
    return thereSource(run).view(Date.now());
  });

  serve(router, routes.endPause, {}, async ({ params }) => {
    const run = await sources.pause(foundSource(sources, params.id).source.id, null);
    news();
    return thereSource(run).view(Date.now());
  });

  serve(router, routes.removeSource, {}, async ({ params }) => {
    const { source } = foundSource(sources, params.id);
    assertMayGo(sources, source);
    await sources.remove(source.id);
  });

  serve(router, routes.bringSourceBack, {}, async ({ params }) => {
    const run = await unlessTaken(() => sources.bringBack(params.id), { name: "that name" });
    if (!run) throw new Problem(404, "no-such-source", "Nothing that was removed in the last week has this number.");
    return run.view(Date.now());
  });

  serve(router, routes.listSpells, { query: windowSchema }, ({ params, query: { from, to } }) =>
    sources.spells(foundSource(sources, params.id).source.id, from, to),
  );

  serve(router, routes.getLimits, {}, () => sources.limits);

  serve(router, routes.changeLimits, { body: limitsSchema }, async ({ body }) => {
    await sources.setLimits(body);
    return sources.limits;
  });
  return router;
}

/** What kind a source is, and whether it is asked, stays. Throws Problem. */
function assertFits(source: Source, settings: SourceSettings, credentials: Credentials["kind"]): void {
  if ((settings.device?.kind ?? null) !== (source.device?.kind ?? null))
    throw new Problem(
      422,
      "the-request-does-not-fit",
      `"device" must be of the kind that the source is: ${source.device?.kind ?? "none"}`,
    );
  if ((settings.address === null) === (source.kind === "pull"))
    throw new Problem(
      422,
      "the-request-does-not-fit",
      source.kind === "pull"
        ? '"address" is needed: this source is asked'
        : '"address" cannot be: this source is not asked',
    );
  assertSpeaks(settings.device, credentials);
  assertInterval(source.kind, settings.intervalMs);
}

/** A source that is set to version 3 is never asked by a community, and none of the others by a user. */
function assertSpeaks(device: Device | null, credentials: Credentials["kind"]): void {
  if (device?.kind !== "snmp" || (device.version === "3") === (credentials === "snmp user")) return; // none stands for the community "public"
  throw new Problem(
    422,
    "the-request-does-not-fit",
    device.version === "3"
      ? '"credentials" are needed for version 3: a user and its keys; a community is of versions 1 and 2c'
      : `"credentials" are of version 3: version ${device.version} needs a community`,
  );
}

/** This machine stays, and so does a relay from which something is asked. Throws Problem. */
function assertMayGo(sources: Sources, source: Source): void {
  if (source.kind === "this-machine")
    throw new Problem(
      409,
      "this-machine-stays",
      "The machine that Nubrel runs on is always gathered; it can be paused.",
    );
  const asked = sources.all().filter((run) => run.source.askedFrom === source.id);
  if (asked.length > 0)
    throw new Problem(
      409,
      "sources-are-asked-from-it",
      `${asked.map((run) => run.source.name).join(", ")}: asked from ${source.name}. Ask them from elsewhere, or remove them, first.`,
    );
}

/** Only a relay asks for others, and only what is asked. Throws Problem. */
function assertAskedFrom(sources: Sources, kind: SourceKind, askedFrom: number | null | undefined): void {
  if (!askedFrom) return;
  const words =
    kind === "this-machine" || sends({ kind })
      ? "only what is asked can be asked from a relay"
      : sources.find(askedFrom)?.source.kind === "relay"
        ? undefined
        : "there is no such relay";
  if (words !== undefined)
    throw new Problem(422, "no-such-relay", `"askedFrom": ${words}.`, {
      errors: [{ path: "askedFrom", message: words }],
    });
}

/** What is asked is asked once an hour at least; what sends by itself may come much more seldom. */
function assertInterval(kind: SourceKind, intervalMs: number): void {
  if (!sends({ kind }) && intervalMs > mostAskedMs)
    throw new Problem(422, "the-request-does-not-fit", '"intervalMs" is 1 h at most: this source is asked');
}

async function unlessTaken<T>(work: () => Promise<T>, { name }: Pick<SourceSettings, "name">): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if ((error as { code?: string }).code === "23505")
      throw new Problem(409, "this-name-is-taken", `Another source is called ${name} already.`, {
        errors: [{ path: "name", message: `another source is called ${name} already` }],
      });
    throw error;
  }
}
