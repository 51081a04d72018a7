import { setTimeout as delay } from "node:timers/promises";
import { isDatabaseAway, isFull } from "../db/database-away.ts";
import type { SeriesRegistry } from "./series-registry.ts";
import type { NamedSamples, Spool } from "./spool.ts";

const resolveAgainMs = 1000;

interface Wait {
  readonly samples: NamedSamples;
  spooled: boolean;
}

/** Samples of series that have no id yet, as the database does not give them one just now; kept on disk as well. */
export class NamelessSamples {
  readonly #series: SeriesRegistry;
  readonly #spool: Spool | undefined;
  readonly #waits = new Set<Wait>();
  #closed = false;

  constructor(series: SeriesRegistry, spool: Spool | undefined) {
    this.#series = series;
    this.#spool = spool;
  }

  /** How many samples wait. */
  get count(): number {
    let sum = 0;
    for (const { samples } of this.#waits) sum += samples.which.length;
    return sum;
  }

  /** Whether some of what waits stands in the spool. */
  get isSpooled(): boolean {
    return [...this.#waits].some(({ spooled }) => spooled);
  }

  /** The ids of the series that samples are of, once the database can give them. */
  async resolve(samples: NamedSamples): Promise<Uint32Array> {
    const wait = { samples, spooled: false };
    this.#waits.add(wait);
    try {
      for (;;) {
        try {
          return await this.#series.resolve(samples.named);
        } catch (error) {
          if (this.#closed || !(isDatabaseAway(error) || isFull(error))) throw error;
          this.#spoolOne(wait);
          await delay(resolveAgainMs, undefined, { ref: false });
        }
      }
    } finally {
      this.#waits.delete(wait);
    }
  }

  /** Waits for no series any more: what waits is left in the spool. */
  close(): void {
    this.#closed = true;
    for (const wait of this.#waits) this.#spoolOne(wait);
  }

  #spoolOne(wait: Wait): void {
    wait.spooled ||= this.#spool?.add([{ kind: "named", ...wait.samples }]) ?? false;
  }
}
