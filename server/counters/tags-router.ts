import * as routes from "../../core/api/counters.ts";
import { serve } from "../http/serve.ts";
import { Router } from "express";
import Joi from "joi";
import type { Tags } from "../../core/counters/counter.ts";
import type { MachineNames } from "../machines/machine-names.ts";
import type { ShownTo } from "./shown-to.ts";
import { sees, sightOf } from "../people/sight.ts";
import type { Store } from "../store/store.ts";

/** More than can be picked from by eye; what is beyond is left out, and said. */
const mostCombinations = 5000;
const names = (most: number) => Joi.array().items(Joi.string().min(1).max(200)).single().max(most);
const tagsSchema = Joi.object<{ tag: readonly string[]; counter?: readonly string[] }>({
  tag: names(10).min(1).required(),
  counter: names(500),
});

/**
 * Which values of tags occur together among what reports, of all counters or of some: pickers offer only what there is.
 */
export function tagsRouter(store: Store, machines: MachineNames, shownTo: ShownTo): Router {
  const router = Router();
  serve(router, routes.getTags, { query: tagsSchema }, async ({ query, request }) => {
    const shown = await shownTo(request);
    // Whoever reads dashboards alone is offered what their pickers offer.
    const wanted = shown ? query.tag.filter((tag) => shown.tags.has(tag)) : query.tag;
    const of = shown
      ? (query.counter ?? [...shown.counters]).filter((name) => shown.counters.has(name))
      : query.counter;
    const sight = shown ? undefined : sightOf(request);
    const found = new Map<string, { readonly tags: Tags; readonly counters: Set<string> }>();
    let isCut = false;
    for (const { id, counter, tags } of of === undefined
      ? store.series.all()
      : of.flatMap((name) => store.series.ofCounter(name))) {
      if (!sees(sight, tags["machine"])) continue;
      // A machine can be looked back at when it is silent; what has long gone from one is not offered.
      if (store.lastTimeMs(id) === undefined && !wanted.every((name) => name === "machine" || tags[name] === undefined))
        continue;
      const all = machines.tagsWith(tags);
      if (shown?.offers(counter, all) === false) continue;
      const some = Object.fromEntries(wanted.flatMap((name) => (all[name] === undefined ? [] : [[name, all[name]]])));
      const key = JSON.stringify(some);
      if (key === "{}") continue;
      const known = found.get(key);
      if (known) known.counters.add(counter);
      else if (found.size < mostCombinations) found.set(key, { tags: some, counters: new Set([counter]) });
      else isCut = true;
    }
    const combinations = [...found.values()];
    return {
      combinations: combinations.map(({ tags }) => tags),
      counters: combinations.map(({ counters }) => counters.size),
      isCut,
    };
  });
  return router;
}
