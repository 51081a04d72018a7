import { counterInfo } from "../../core/counters/catalogue.ts";
import type { Tags } from "../../core/counters/counter.ts";
import type { Source } from "../../core/sources/source.ts";
import type { NewSeries } from "../store/series-registry.ts";
import type { Store } from "../store/store.ts";
import { isStorableSeries, namedSeries, type PageTaken, unstorable } from "./series-table.ts";

/** One value of a catalogued counter at a shared time. */
export interface Reading {
  readonly counter: string;
  readonly tags: Tags;
  readonly value: number;
}

/** Sources whose series of earlier versions have been noted as theirs. */
const claimed = new WeakSet<object>();

/** Stores what one gathering gave, as the source's rules, tags and machine have it; resolves when it is durable. Values that are no numbers are left out. */
export async function writeReadings(store: Store, source: Pick<Source, "machine" | "tags" | "take"> & { readonly id?: number }, timeMs: number, readings: readonly Reading[]): Promise<PageTaken> {
  const named: NewSeries[] = [];
  const values: number[] = [];
  const leftOut: Record<string, number> = {};
  for (const { counter, tags, value } of readings) {
    const { unit, kind } = counterInfo(counter);
    const { series, factor } = namedSeries(source, { counter, tags, unit, kind });
    const reason = !Number.isFinite(value) ? "no number (NaN)" : !series ? "left by a rule" : isStorableSeries(series) ? undefined : unstorable;
    if (reason !== undefined) leftOut[reason] = (leftOut[reason] ?? 0) + 1;
    else {
      named.push(source.id === undefined ? (series as NewSeries) : { ...(series as NewSeries), sourceId: source.id });
      values.push(value * factor);
    }
  }
  if (source.id !== undefined && !claimed.has(source)) {
    claimed.add(source);
    store.series.claim(named.filter((series) => store.series.ownerOf(series) === undefined), source.id);
  }
  await store.writeNamed(named, timeMs, Float64Array.from(values));
  return { found: readings.length, taken: named.length, leftOut };
}
