import * as routes from "../../core/api/machines.ts";
import { serve } from "../http/serve.ts";
import { Router } from "express";
import Joi from "joi";
import type { MachineView } from "../../core/api/machines.ts";
import type { SourceState } from "../../core/sources/source.ts";
import type { MachineNames } from "./machine-names.ts";
import { machineNameSchema } from "./machine-names.ts";
import type { Sources } from "../sources/sources.ts";
import type { Store } from "../store/store.ts";
import { Problem } from "../http/problem.ts";

/** What stands for the interval of a machine whose source has gone. */
const medianIntervalMs = 60_000;

/** The best of a machine's sources says how the machine stands. */
const order: readonly SourceState[] = ["reporting", "late", "waiting", "silent", "paused"];

/** The machines that there are. */
export function machinesRouter(store: Store, sources: Sources, names: MachineNames): Router {
  const router = Router();
  const all = () => listMachines(store, sources, names, Date.now());
  const listed = (name: string): MachineView => {
    const machine = all().find((one) => one.name === name);
    if (!machine) throw new Problem(404, "No such machine", `No machine named "${name}" has reported here.`);
    return machine;
  };

  serve(router, routes.listMachines, {}, all);

  serve(router, routes.getMachine, {}, ({ params: { name } }) => {
    const machine = listed(name);
    const counters = new Set<string>();
    for (const { counter, tags } of store.series.all()) if (tags["machine"] === name) counters.add(counter);
    return { ...machine, counters: [...counters] };
  });

  serve(router, routes.nameMachine, { body: machineNameSchema }, async ({ params: { name }, body }) => {
    listed(name);
    await names.set(name, body);
    return listed(name);
  });

  serve(router, routes.removeMachine, {}, async ({ params: { name } }) => {
    listed(name);
    const its = sources.all().filter(({ source }) => source.machine === name);
    if (its.some(({ source }) => source.kind === "this-machine"))
      throw new Problem(
        409,
        "This machine stays",
        "The machine that Nubrel runs on is always gathered; it can be paused.",
      );
    for (const { source } of its) await sources.remove(source.id);
    await names.remove(name, Date.now());
    return { sources: its.map(({ source }) => source.id) };
  });

  serve(router, routes.bringMachineBack, { body: bringBackSchema }, async ({ params: { name }, body }) => {
    if (!names.isRemoved(name)) throw new Problem(404, "No such machine", `No machine named "${name}" was removed.`);
    await names.remove(name, null);
    for (const id of body.sources) await sources.bringBack(id);
    return all().find((machine) => machine.name === name) ?? null;
  });

  return router;
}

const bringBackSchema = Joi.object<{ sources: readonly number[] }>({
  sources: Joi.array().items(Joi.number().integer()).max(100).default([]),
});

/** Every machine that has reported or has a source. */
export function listMachines(
  store: Store,
  sources: Sources,
  names: MachineNames,
  nowMs: number,
): readonly MachineView[] {
  const found = new Map<string, { series: number; last: number; first: number }>();
  const none = { series: 0, last: Number.NEGATIVE_INFINITY, first: Number.POSITIVE_INFINITY };
  const guests = new Map<string, Set<string>>();
  const containers = new Map<string, Set<string>>();
  for (const { source } of sources.all()) found.set(source.machine, none);
  for (const { id, tags } of store.series.all()) {
    const name = tags["machine"];
    if (name === undefined) continue;
    const one = found.get(name) ?? none;
    const last = store.lastTimeMs(id);
    found.set(name, {
      series: one.series + 1,
      last: Math.max(one.last, last ?? Number.NEGATIVE_INFINITY),
      first: Math.min(one.first, id),
    });
    if (last === undefined) continue;
    if (tags["guest"] !== undefined) guests.set(name, (guests.get(name) ?? new Set()).add(tags["guest"]));
    if (tags["container"] !== undefined)
      containers.set(name, (containers.get(name) ?? new Set()).add(tags["container"]));
  }
  const byAge = [...found].sort(([, a], [, b]) => a.first - b.first).map(([name]) => name);
  const views = sources.views(nowMs);
  return [...found]
    .filter(
      ([name, { last }]) =>
        (names.removedAtMs(name) ?? Number.NEGATIVE_INFINITY) < last ||
        !names.isRemoved(name) ||
        views.some(({ machine }) => machine === name),
    )
    .map(([name, { series, last }]): MachineView => {
      const own = views
        .filter(({ machine }) => machine === name)
        .sort((a, b) => order.indexOf(a.state) - order.indexOf(b.state));
      return {
        name,
        state: own[0]?.state ?? "not gathered",
        lastSampleAtMs: Number.isFinite(last) ? last : null,
        intervalSeconds:
          Math.min(
            ...own.map(({ intervalMs }) => intervalMs),
            own.length === 0 ? medianIntervalMs : Number.POSITIVE_INFINITY,
          ) / 1000,
        series,
        colour: byAge.indexOf(name),
        guests: sortedNames(guests.get(name)),
        containers: sortedNames(containers.get(name)),
        ...names.of(name),
        sources: own.map(({ id, name: called, kind, state, trust, failure, pause }) => ({
          id,
          name: called,
          kind,
          state,
          pause,
          unchecked: trust.kind === "unchecked",
          failure: failure?.words ?? null,
        })),
      };
    })
    .sort((a, b) => a.name.localeCompare(b.name));
}

const sortedNames = (names: ReadonlySet<string> = new Set()): readonly string[] =>
  [...names].sort((a, b) => a.localeCompare(b, "en", { numeric: true }));
