import { seriesKey } from "../../core/counters/series-key.ts";
import type { FileSeries } from "../../core/pages/file-series.ts";
import type { Page } from "../../core/pages/page.ts";
import { isStorableSeries } from "../sources/series-table.ts";

/** Samples that were read from a text and wait to be stored, with the series that the text has named so far. */
export class ImportRows {
  readonly series: FileSeries[] = [];
  /** Readers give the same object again for rows of one series that follow one another. */
  readonly #byObject = new WeakMap<FileSeries, number>();
  readonly #byKey = new Map<string, number>();
  #which: number[] = [];
  #timeMs: number[] = [];
  #value: number[] = [];

  get length(): number {
    return this.#which.length;
  }

  /** Adds a sample; false, and nothing is added, where its series cannot be stored. */
  add(series: FileSeries, timeMs: number, value: number): boolean {
    const known = this.#byObject.get(series);
    const index = known ?? this.#indexOf(series);
    if (index === this.series.length) {
      if (!isStorableSeries(series)) return false;
      this.series.push(series);
      this.#byKey.set(seriesKey(series.counter, series.tags), index);
    }
    this.#byObject.set(series, index);
    this.#which.push(index);
    this.#timeMs.push(timeMs);
    this.#value.push(value);
    return true;
  }

  /** All samples as one page; the next begin anew. */
  take(): Page {
    const page = {
      which: Uint32Array.from(this.#which),
      timeMs: Float64Array.from(this.#timeMs),
      value: Float64Array.from(this.#value),
      length: this.#which.length,
      found: this.#which.length,
      leftOut: new Map(),
    };
    this.#which = [];
    this.#timeMs = [];
    this.#value = [];
    return page;
  }

  #indexOf(series: FileSeries): number {
    return this.#byKey.get(seriesKey(series.counter, series.tags)) ?? this.series.length;
  }
}
