import * as routes from "../../core/api/counters.ts";
import { serve } from "../http/serve.ts";
import { type Request, Router } from "express";
import Joi from "joi";
import { type CounterView, mostListedValues, type SeriesView } from "../../core/api/counters.ts";
import { catalogue, naturalReduction } from "../../core/counters/catalogue.ts";
import type { CounterInfo } from "../../core/counters/counter.ts";
import type { MachineNames } from "../machines/machine-names.ts";
import type { Sources } from "../sources/sources.ts";
import type { Series } from "../store/series-registry.ts";
import type { Store } from "../store/store.ts";
import { type CounterTags, TagsOfCounters, tagsOfSeries } from "./counter-tags.ts";
import type { ShownTo } from "./shown-to.ts";
import { sees, sightOf } from "../people/sight.ts";
import { pageFields, tellNext } from "../http/next-page.ts";
import { Problem } from "../http/problem.ts";
import { windowSchema } from "../reading/reading-schema.ts";

const dayMs = 86_400_000;
const nowMs = 900_000;
const mostSeries = 500;
const mostValues = 1000;
const seriesPage = Joi.object<{ most: number; before?: number }>(pageFields(1000, 10_000));
/** In the list of all counters, where they are for finding. */
const samplesSchema = (windowSchema as Joi.ObjectSchema).keys({
  most: Joi.number().integer().min(1).max(5000).default(200),
}) as Joi.ObjectSchema<{ from: number; to: number; most: number }>;

/** What is measured: counters, their series, and samples as they are stored. */
export function countersRouter(store: Store, sources: Sources, names: MachineNames, shownTo: ShownTo): Router {
  const router = Router();
  const viewOf = viewing(sources);
  const ofAll = new TagsOfCounters(names, mostListedValues);
  void ofAll.lookAhead(store.series);
  /** The series of a counter that the one who asks may see. */
  const seenOf = (request: Request, name: string) => {
    const sight = sightOf(request);
    return store.series.ofCounter(name).filter(({ tags }) => sees(sight, tags["machine"]));
  };

  serve(router, routes.listCounters, {}, async ({ request }) => {
    const shown = await shownTo(request);
    if (shown)
      return [...shown.counters].flatMap((name) => {
        const series = store.series.ofCounter(name);
        return series.length === 0 ? [] : [withoutInside(viewOf(name, series, tagsOfSeries(series, names, 0)))];
      });
    const seesAll = sightOf(request) === undefined;
    return store.series.counters().flatMap((name) => {
      const seen = seesAll ? store.series.ofCounter(name) : seenOf(request, name);
      if (seen.length === 0) return [];
      return [viewOf(name, seen, seesAll ? ofAll.of(name, seen) : tagsOfSeries(seen, names, mostListedValues))];
    });
  });

  serve(router, routes.getCounter, {}, async ({ params, request }) => {
    const { name } = params;
    const series = seenOf(request, name);
    if (series.length === 0)
      throw new Problem(404, "no-such-counter", `Nothing here reports a counter named "${name}".`);
    const intervals = store.intervalsMs(series.map(({ id }) => id));
    const listed = series.slice(0, mostSeries);
    const now = Date.now();
    const columns = await store.read(
      listed.map(({ id }) => id),
      now - nowMs,
      now + 1,
    );
    return {
      ...viewOf(name, series, tagsOfSeries(series, names, mostValues)),
      samplesPerDay: Math.round(intervals.reduce((sum, ms) => (ms > 0 ? sum + dayMs / ms : sum), 0)),
      newest: listed.map(({ id, tags }, i) => ({
        id,
        tags,
        atMs: columns[i]?.timeMs.at(-1) ?? null,
        value: columns[i]?.value.at(-1) ?? null,
      })),
    };
  });

  serve(router, routes.listSeries, { query: seriesPage }, ({ params, query, request, response }) => {
    const part = newestOf(seenOf(request, params.name), query);
    tellNext(request, response, part, query.most);
    return part;
  });

  serve(router, routes.getSamples, { query: samplesSchema }, async ({ params: { id }, query, request }) => {
    const { from, to, most } = query;
    const series = store.series.byId(id);
    if (!series || !sees(sightOf(request), series.tags["machine"]))
      throw new Problem(404, "no-such-series", `There is no series ${id}.`);
    const [column] = await store.read([id], from, to);
    const timeMs = [...(column?.timeMs ?? [])].reverse();
    const value = [...(column?.value ?? [])].reverse();
    return { timeMs: timeMs.slice(0, most), value: value.slice(0, most), isCut: timeMs.length > most };
  });
  return router;
}

/** So many of the newest series, or of those before one: they stand in the order in which they came. */
function newestOf(
  series: readonly Series[],
  { most, before = Number.POSITIVE_INFINITY }: { most: number; before?: number },
): readonly SeriesView[] {
  const part: SeriesView[] = [];
  for (let i = series.length - 1; i >= 0 && part.length < most; i--) {
    const { id, tags } = series[i] as Series;
    if (id < before) part.push({ id, tags });
  }
  return part;
}

/** What a counter is, for those who read dashboards alone: nothing of which machines report it. */
const withoutInside = (view: CounterView): CounterView => ({ ...view, series: 0, machines: [] });

/** Makes the view of a counter from those of its series that are seen. */
function viewing(sources: Sources) {
  return (name: string, series: readonly Series[], tags: CounterTags): CounterView => {
    const one = series[0];
    const info: CounterInfo = catalogue.get(name) ?? {
      name,
      words: wordsOfName(name),
      explains: sources.helpOf(name),
      unit: one?.unit ?? "1",
      kind: one?.kind ?? "level",
    };
    return {
      ...info,
      reduction: naturalReduction(info),
      limit: info.limit ?? null,
      series: series.length,
      ...tags,
    };
  };
}

/** What a counter that nobody has explained is called: its name with blanks. */
function wordsOfName(name: string): string {
  return name.replace(/[._]+/g, " ");
}
