import type { Store } from "../server/store/store.ts";

const everyMs = 15_000;
const hourMs = 3_600_000;

interface Wandering {
  readonly counters: number;
  readonly linesEach: number;
  /** ms, half-open. */
  readonly from: number;
  readonly to: number;
}

/** Levels that wander, `bench.level.0` and on, stored as the product stores them. */
export async function writeWandering(store: Store, { counters, linesEach, from: begin, to }: Wandering): Promise<void> {
  const named = Array.from({ length: counters * linesEach }, (_, i) => ({
    counter: `bench.level.${Math.floor(i / linesEach)}`,
    tags: { machine: "m", device: `d${i % linesEach}` },
    unit: "1",
    kind: "level" as const,
  }));
  const ids = await store.series.resolve(named);
  const values = Float64Array.from(ids, (_, i) => 50 + (i % 10));
  for (let from = begin; from < to; from += hourMs) {
    const times = hourMs / everyMs;
    const length = times * ids.length;
    const batch = {
      series: new Uint32Array(length),
      timeMs: new Float64Array(length),
      value: new Float64Array(length),
      length,
    };
    for (let t = 0, at = 0; t < times; t++) {
      for (let i = 0; i < ids.length; i++, at++) {
        values[i] = Math.round(100 * ((values[i] as number) + Math.sin(i + (from / hourMs) * 3 + t / 20))) / 100;
        batch.series[at] = ids[i] as number;
        batch.timeMs[at] = from + t * everyMs;
        batch.value[at] = values[i] as number;
      }
    }
    await store.write(batch);
  }
}
