import type { Expected } from "./expected.ts";

/** How far apart and how late the samples of series come: as they came, and as their sources mean to send them. */
export class SeriesPace {
  readonly #came: (ids: readonly number[]) => Float64Array;
  readonly #expected = new Map<number, Expected>();
  /** How far apart series come that have come more often for a while. */
  readonly #usualIntervals = new Map<number, number>();

  /** `came` says how far apart the newest samples of series were, ms; NaN where that is not known. */
  constructor(came: (ids: readonly number[]) => Float64Array) {
    this.#came = came;
  }

  /** How far apart the samples of each series come, ms; NaN where neither is known. */
  intervalsMs(ids: readonly number[]): Float64Array {
    const intervals = this.#came(ids);
    for (let i = 0; i < ids.length; i++) {
      const id = ids[i] as number;
      const expected = this.#expected.get(id);
      // Two answers in quick succession do not make a source that is meant to send every minute one of milliseconds;
      // one that is asked comes as often as it is asked, also after it was asked more often for a while.
      if (expected)
        intervals[i] = Number.isNaN(intervals[i])
          ? expected.intervalMs
          : Math.max(intervals[i] as number, expected.isAsked ? expected.intervalMs : expected.intervalMs / 10);
      const usual = this.#usualIntervals.get(id);
      if (usual !== undefined && !((intervals[i] as number) >= usual)) intervals[i] = usual;
    }
    return intervals;
  }

  /** Notes how far apart these series come usually. */
  keepIntervals(ids: readonly number[]): void {
    const intervals = this.intervalsMs(ids);
    ids.forEach((id, i) => {
      const ms = intervals[i] as number;
      if (ms > 0 && !this.#usualIntervals.has(id)) this.#usualIntervals.set(id, ms);
    });
  }

  /** How late the samples of each series may come, ms. */
  latesMs(ids: readonly number[]): Float64Array {
    return Float64Array.from(ids, (id) => this.#expected.get(id)?.lateMs ?? 0);
  }

  /** Notes what is to be expected of a series. */
  expect(id: number, expected: Expected): void {
    if (this.#expected.get(id)?.intervalMs !== expected.intervalMs) this.#usualIntervals.delete(id);
    this.#expected.set(id, expected);
  }
}
