import * as routes from "../../core/api/machines.ts";
import { serve } from "../http/serve.ts";
import { Router } from "express";
import Joi from "joi";
import type { MachineView } from "../../core/api/machines.ts";
import type { MachineNames } from "./machine-names.ts";
import { machineNameSchema } from "./machine-names.ts";
import type { Sources } from "../sources/sources.ts";
import type { MachineList } from "./machine-list.ts";
import { sees, sightOf } from "../people/sight.ts";
import { Problem } from "../http/problem.ts";

/** The machines that there are. */
export function machinesRouter(list: MachineList, sources: Sources, names: MachineNames): Router {
  const router = Router();
  const all = () => list.views(Date.now());
  const listed = (name: string): MachineView => {
    const machine = all().find((one) => one.name === name);
    if (!machine) throw noSuchMachine(name);
    return machine;
  };

  serve(router, routes.listMachines, {}, ({ request }) => {
    const sight = sightOf(request);
    return all().filter(({ name }) => sees(sight, name));
  });

  serve(router, routes.getMachine, {}, ({ params: { name }, request }) => {
    if (!sees(sightOf(request), name)) throw noSuchMachine(name);
    return { ...listed(name), counters: list.countersOf(name) };
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
        "this-machine-stays",
        "The machine that Nubrel runs on is always gathered; it can be paused.",
      );
    for (const { source } of its) await sources.remove(source.id);
    await names.remove(name, Date.now());
    return { sources: its.map(({ source }) => source.id) };
  });

  serve(router, routes.bringMachineBack, { body: bringBackSchema }, async ({ params: { name }, body }) => {
    if (!names.isRemoved(name)) throw new Problem(404, "no-such-machine", `No machine named "${name}" was removed.`);
    await names.remove(name, null);
    for (const id of body.sources) await sources.bringBack(id);
    return all().find((machine) => machine.name === name) ?? null;
  });

  return router;
}

const noSuchMachine = (name: string) =>
  new Problem(404, "no-such-machine", `No machine named "${name}" has reported here.`);

const bringBackSchema = Joi.object<{ sources: readonly number[] }>({
  sources: Joi.array().items(Joi.number().integer()).max(100).default([]),
});
