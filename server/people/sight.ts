import type { Request, RequestHandler } from "express";
import type { LiveEvent } from "../../core/api/live.ts";
import type { Limits } from "../../core/people/roles.ts";
import type { ReadingDocument } from "../../core/reading/document.ts";
import { callerOf, limitsOf } from "../http/asker.ts";

/** What somebody sees who is held to a part of what there is. */
export interface Sight {
  /** By name; none where they are held to dashboards alone. */
  readonly machines: ReadonlySet<string>;
  /** By number; undefined where every dashboard may be opened. */
  readonly dashboards: ReadonlySet<number> | undefined;
  /** Whether they are held to dashboards alone, and read what stands on these whatever machine it is of. */
  readonly readsDashboards: boolean;
}

/** Knows which machines carry one of these values of a tag. */
interface TaggedMachines {
  withTag(tag: string, values: readonly string[]): readonly string[];
}

const sights = new WeakMap<Request, Sight>();

/** Works out what those see who are held to a part. To stand behind what finds out who asks. */
export function noteSight(names: TaggedMachines): RequestHandler {
  return (request, _response, next) => {
    const limits = limitsOf(request);
    if (limits) sights.set(request, sightWithin(limits, names));
    next();
  };
}

/** What of a machine's tags and names a person is held to, as it is now. */
const sightWithin = (limits: Limits, names: TaggedMachines): Sight => ({
  machines: new Set([
    ...(limits.machines ?? []),
    ...(limits.tags ?? []).flatMap(({ tag, is }) => names.withTag(tag, is)),
  ]),
  dashboards: limits.dashboards && new Set(limits.dashboards),
  readsDashboards: limits.machines === undefined && limits.tags === undefined,
});

/** What the one who asks is held to; undefined where nothing is held back. */
export function sightOf(request: Request): Sight | undefined {
  const sight = sights.get(request);
  if (!sight && callerOf(request) === "held viewer")
    throw new Error(`${request.path} is not behind what works out a held viewer's sight`);
  return sight;
}

/** Whether a machine's things may be shown. What is of no machine is shown to those alone who see all. */
export const sees = (sight: Sight | undefined, machine: string | undefined): boolean =>
  sight === undefined || (machine !== undefined && sight.machines.has(machine));

/** A reading of what is seen alone: every sentence is narrowed to those machines. */
export function seenReading<R extends Pick<ReadingDocument, "sentences">>(sight: Sight | undefined, document: R): R {
  if (!sight) return document;
  const only = { tag: "machine", is: [...sight.machines] };
  const sentences = Object.fromEntries(
    Object.entries(document.sentences).map(([name, one]) => [name, { ...one, where: [...(one.where ?? []), only] }]),
  );
  return { ...document, sentences };
}

/** Which live events are for the one who asks: of incidents those alone whose machines they see. */
export function hearsOf(request: Request): (event: LiveEvent) => boolean {
  const sight = sightOf(request);
  if (callerOf(request) === "link") return ({ kind }) => kind === "samples";
  return (event) => !("incident" in event) || sees(sight, event.incident.tags["machine"]);
}
