import { LRUCache } from "lru-cache";
import type { Batch } from "../../../core/series/batch.ts";
import type { Store } from "../../store/store.ts";

const hourMs = 3_600_000;
/** Thirty days. */
export const hoursOfBlock = 720;
export const blockMs = hoursOfBlock * hourMs;
/** Of each a year is 70 kB. */
const mostSeries = 500;

const kept = new WeakMap<Store, KeptHours>();

/**
 * Energy of hours that are long over, in Wh, in memory by series and block of thirty days: a page that shows a year
 * asks for the same hours every minute. A sample that comes later for such a time takes away all that is kept of its
 * series.
 */
export class KeptHours {
  readonly #ofSeries = new LRUCache<number, Map<number, Float64Array>>({ max: mostSeries });

  /** Those of a store. */
  static of(store: Store): KeptHours {
    const known = kept.get(store);
    if (known) return known;
    const made = new KeptHours();
    kept.set(store, made);
    store.onCommit((batch) => made.#hear(batch));
    return made;
  }

  /** NaN stands for an hour that is not known; undefined for a block that is not kept. */
  get(series: number, block: number): Float64Array | undefined {
    return this.#ofSeries.get(series)?.get(block);
  }

  keep(series: number, block: number, hours: Float64Array): void {
    const blocks = this.#ofSeries.get(series) ?? new Map<number, Float64Array>();
    blocks.set(block, hours);
    this.#ofSeries.set(series, blocks);
  }

  #hear({ series, timeMs, length }: Batch): void {
    if (this.#ofSeries.size === 0) return;
    for (let i = 0; i < length; i++) {
      const blocks = this.#ofSeries.peek(series[i] as number);
      const block = Math.floor((timeMs[i] as number) / blockMs);
      if (blocks && [...blocks.keys()].some((one) => one >= block)) this.#ofSeries.delete(series[i] as number);
    }
  }
}
