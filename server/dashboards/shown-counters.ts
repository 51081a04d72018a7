import type { Tags } from "../../core/counters/counter.ts";
import type { Dashboard } from "../../core/dashboards/dashboard.ts";
import type { Sentence } from "../../core/reading/document.ts";
import { meets } from "../../core/reading/where.ts";

/** What of counters can be seen by those who read dashboards alone. */
interface ShownCounters {
  /** Those that stand on a tile. */
  readonly counters: ReadonlySet<string>;
  /** Tags whose values are offered by a picker. */
  readonly tags: ReadonlySet<string>;
  /** Whether a counter's series stands on a tile, and a picker may offer its values. */
  offers(counter: string, tags: Tags): boolean;
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
