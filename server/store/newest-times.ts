import type { Batch } from "../../core/series/batch.ts";

const noted = 1024;

/** The time of the newest sample of each series that has come, by its number. */
export class NewestTimes {
  readonly #before: (id: number) => number;
  /** NaN where nothing has come yet. */
  #ms = new Float64Array(noted).fill(Number.NaN);

  /** `before` says after which time there was no sample of a series before anything came here. */
  constructor(before: (id: number) => number) {
    this.#before = before;
  }

  /** Whether nothing is known of a series at this time or after it. */
  isAhead(id: number, timeMs: number): boolean {
    this.#hold(id);
    if (Number.isNaN(this.#ms[id])) this.#ms[id] = this.#before(id);
    return timeMs > (this.#ms[id] as number);
  }

  /** To be called before what `before` answers knows of the batch. */
  note({ series, timeMs, length }: Batch): void {
    for (let i = 0; i < length; i++) {
      const id = series[i] as number;
      if (this.isAhead(id, timeMs[i] as number)) this.#ms[id] = timeMs[i] as number;
    }
  }

  /**
   * What of a batch of another server is not newer than all before: perhaps it was written here at the same moment, and
   * whoever begins anew has it in another order. Written here once more it comes last.
   */
  lateOf({ series, timeMs, value, length }: Batch): readonly (readonly [id: number, timeMs: number, value: number])[] {
    const rows: (readonly [number, number, number])[] = [];
    for (let i = 0; i < length; i++) {
      const [id, ms] = [series[i] as number, timeMs[i] as number];
      if (!this.isAhead(id, ms)) rows.push([id, ms, value[i] as number]);
    }
    return rows;
  }

  #hold(id: number): void {
    if (id < this.#ms.length) return;
    const more = new Float64Array(Math.max(id + 1, this.#ms.length * 2)).fill(Number.NaN);
    more.set(this.#ms);
    this.#ms = more;
  }
}
