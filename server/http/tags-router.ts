import { Router } from "express";
import Joi from "joi";
import type { TagsPresent } from "../../core/api/views.ts";
import type { Tags } from "../../core/counters/counter.ts";
import type { MachineNames } from "../sources/machine-names.ts";
import type { Store } from "../store/store.ts";
import { checked } from "./checked.ts";

/** More than can be picked from by eye; what is beyond is left out, and said. */
const mostCombinations = 5000;
const tagsSchema = Joi.object<{ tag: readonly string[] }>({ tag: Joi.array().items(Joi.string().min(1).max(100)).single().min(1).max(10).required() });

/** Which values of tags occur together among what reports: pickers offer only what there is. */
export function tagsRouter(store: Store, names: MachineNames): Router {
  const router = Router();
  router.get("/tags", (request, response) => {
    const { tag: wanted } = checked(tagsSchema, request.query);
    const found = new Map<string, Tags>();
    let isCut = false;
    for (const { id, tags } of store.series.all()) {
      // A machine can be looked back at when it is silent; what has long gone from one is not offered.
      if (store.lastTimeMs(id) === undefined && !wanted.every((name) => name === "machine" || tags[name] === undefined)) continue;
      const all = names.tagsWith(tags);
      const some = Object.fromEntries(wanted.flatMap((name) => (all[name] === undefined ? [] : [[name, all[name]]])));
      const key = JSON.stringify(some);
      if (key === "{}" || found.has(key)) continue;
      if (found.size >= mostCombinations) {
        isCut = true;
        break;
      }
      found.set(key, some);
    }
    response.json({ combinations: [...found.values()], isCut } satisfies TagsPresent);
  });
  return router;
}
