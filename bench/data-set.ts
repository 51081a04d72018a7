import { type Batch, joinBatches } from "../core/series/batch.ts";
import type { NewSeries } from "../server/store/series-registry.ts";
import { answerTimes, mixedSeries, type Source } from "./mix.ts";

/** So many levels of twenty machines, each told from the others by its tag `of`. */
export const levelsOf = (count: number): readonly NewSeries[] =>
  Array.from({ length: count }, (_, i) => ({
    counter: "bench",
    tags: { machine: `m${i % 20}`, of: String(i) },
    unit: "1",
    kind: "level",
  }));

/** Series that one source answers together. */
const perSource = 50;

/**
 * Answers of sources, from `fromMs` on: each call gives the next ones of all series as one batch, a run a source.
 * Series are numbered from 1.
 */
export class DataSet {
  readonly #series: Source[];
  readonly #times: Float64Array[];
  #at = 0;

  constructor(series: number, fromMs: number, answers: number, everyMs: number, seed: number) {
    this.#series = Array.from({ length: series }, (_, i) => mixedSeries(i, seed));
    this.#times = Array.from({ length: Math.ceil(series / perSource) }, (_, source) =>
      answerTimes(fromMs + source * 37, answers, everyMs, seed * 1000 + source),
    );
  }

  get left(): number {
    return (this.#times[0] as Float64Array).length - this.#at;
  }

  /** The next `count` answers of every source. */
  next(count: number): Batch {
    return joinBatches(Array.from({ length: Math.min(count, this.left) }, () => this.#answer()));
  }

  #answer(): Batch {
    const n = this.#series.length;
    const batch = { series: new Uint32Array(n), timeMs: new Float64Array(n), value: new Float64Array(n), length: n };
    for (let i = 0; i < n; i++) {
      batch.series[i] = i + 1;
      batch.timeMs[i] = (this.#times[Math.floor(i / perSource)] as Float64Array)[this.#at] as number;
      batch.value[i] = (this.#series[i] as Source)();
    }
    this.#at++;
    return batch;
  }
}
