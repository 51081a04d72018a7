import type { Request } from "express";
import type { Tags } from "../../core/counters/counter.ts";
import type { Dashboard } from "../../core/dashboards/dashboard.ts";
import type { Sentence } from "../../core/reading/document.ts";
import { meets } from "../../core/reading/where.ts";
import type { Database } from "../db/pool.ts";
import { linkOf } from "../links/by-link.ts";
import { sightOf } from "../people/sight.ts";
import { dashboardOf } from "./dashboard-rows.ts";

/** What of counters can be seen by those who read dashboards alone. */
interface ShownCounters {
  /** Those that stand on a tile. */
  readonly counters: ReadonlySet<string>;
  /** Tags whose values are offered by a picker. */
  readonly tags: ReadonlySet<string>;
  /** Whether a counter's series stands on a tile, and a picker may offer its values. */
  offers(counter: string, tags: Tags): boolean;
}

/** What those see of counters who read dashboards alone: by a link, or held to them; undefined for everybody else. */
export function shownTo(database: Database): (request: Request) => Promise<ShownCounters | undefined> {
  return async (request) => {
    const link = linkOf(request);
    if (link) return shownCounters([link.document]);
    const sight = sightOf(request);
    if (!sight?.readsDashboards) return undefined;
    const found = await Promise.all([...(sight.dashboards ?? [])].map((id) => dashboardOf(database, id)));
    return shownCounters(found.flatMap((one) => one?.document ?? []));
  };
}

export function shownCounters(dashboards: readonly Dashboard[]): ShownCounters {
  const sentences = new Map<string, Sentence[]>();
  for (const { tiles } of dashboards)
    for (const { reading } of tiles)
      for (const one of Object.values(reading?.sentences ?? {}))
        sentences.set(one.counter, [...(sentences.get(one.counter) ?? []), one]);
  const pickers = dashboards.flatMap(({ pickers: own = [] }) => own);
  return {
    counters: new Set(sentences.keys()),
    tags: new Set(pickers.flatMap(({ tag }) => (tag === undefined ? [] : [tag]))),
    offers: (counter, tags) =>
      (sentences.get(counter) ?? []).some(({ where = [] }) => meets(tags, where)) &&
      pickers.every(({ tag, values }) => tag === undefined || !values || values.includes(tags[tag] ?? "")),
  };
}
