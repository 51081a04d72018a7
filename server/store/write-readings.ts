import { counterInfo } from "../../core/counters/catalogue.ts";
import type { Tags } from "../../core/counters/counter.ts";
import type { NewSeries } from "./series-registry.ts";
import type { Store } from "./store.ts";

/** One value of a catalogued counter at a shared time. */
export interface Reading {
  readonly counter: string;
  readonly tags: Tags;
  readonly value: number;
}

/** Stores what one answer of a source gave, with the machine as a tag; resolves when it is durable. Values that are no numbers are left out. */
export async function writeReadings(store: Store, machine: string, timeMs: number, readings: readonly Reading[]): Promise<number> {
  const known = readings.filter((reading) => Number.isFinite(reading.value));
  const named = known.map(({ counter, tags }): NewSeries => {
    const { unit, kind } = counterInfo(counter);
    return { counter, tags: { machine, ...tags }, unit, kind };
  });
  await store.writeNamed(named, timeMs, Float64Array.from(known, (reading) => reading.value));
  return known.length;
}
