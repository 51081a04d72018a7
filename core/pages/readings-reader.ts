import { counterInfo } from "../counters/catalogue.ts";
import type { CounterKind } from "../counters/counter.ts";
import type { Reading } from "../counters/reading.ts";
import { seriesKey } from "../counters/series-key.ts";
import type { Page } from "./page.ts";
import type { FileSeries } from "./file-series.ts";

/** Turns readings of a device into pages, as readers of text formats do; it remembers the series that it has seen. */
export class ReadingsReader {
  readonly #series: FileSeries[] = [];
  readonly #index = new Map<string, number>();
  readonly help: ReadonlyMap<string, string> = new Map();

  get series(): readonly FileSeries[] {
    return this.#series;
  }

  /**
   * Readings of one moment. What is no number is left out and counted, as is `missing`, what was to be had and was not;
   * of two readings with the same name the first stands.
   */
  read(readings: readonly Reading[], timeMs = Number.NaN, missing: ReadonlyMap<string, number> = new Map()): Page {
    const which = new Uint32Array(readings.length);
    const value = new Float64Array(readings.length);
    const leftOut = new Map(missing);
    const seen = new Set<number>();
    let length = 0;
    for (const reading of readings) {
      const index = this.#of(reading);
      const reason = !Number.isFinite(reading.value)
        ? "no number (NaN)"
        : seen.has(index)
          ? "twice in one answer"
          : undefined;
      if (reason !== undefined) {
        leftOut.set(reason, (leftOut.get(reason) ?? 0) + 1);
        continue;
      }
      seen.add(index);
      which[length] = index;
      value[length++] = reading.value;
    }
    return {
      which,
      timeMs: new Float64Array(length).fill(timeMs),
      value,
      length,
      found: readings.length + [...missing.values()].reduce((sum, n) => sum + n, 0),
      leftOut,
    };
  }

  #of({ counter, tags, unit, kind, falls }: Reading): number {
    const key = seriesKey(counter, tags);
    const known = this.#index.get(key);
    if (known !== undefined) return known;
    const info = unit === undefined || kind === undefined ? counterInfo(counter) : undefined;
    this.#series.push({
      counter,
      tags,
      unit: unit ?? (info?.unit as string),
      kind: kind ?? (info?.kind as CounterKind),
      ...(falls !== undefined && { falls }),
    });
    this.#index.set(key, this.#series.length - 1);
    return this.#series.length - 1;
  }
}
