import type { Database } from "../db/pool.ts";
import { WorkerPool } from "../work/worker-pool.ts";
import { recentSamples, SampleRate } from "./sample-rate.ts";
import { Spool } from "./spool.ts";
import { Store } from "./store.ts";

interface KeepingParts {
  readonly database: Database;
  readonly databaseUrl: string;
  readonly spoolFile: string | undefined;
  readonly isHeld: () => boolean;
  /** The time by which something may be deleted. */
  readonly actingMs: () => number;
}

/** The store with the threads that read it, and how fast samples come. */
export class Keeping {
  readonly store: Store;
  readonly pool: WorkerPool;
  /** The newest sample that was there at the start. */
  readonly lastSampleBeforeMs: number | undefined;
  readonly #rate = new SampleRate();

  private constructor(store: Store, pool: WorkerPool) {
    this.store = store;
    this.pool = pool;
    this.lastSampleBeforeMs = store.health.lastSampleAtMs;
    store.onCommit((batch) => {
      const now = Date.now();
      this.#rate.count(recentSamples(batch, now), now);
    });
  }

  static async open({ database, databaseUrl, spoolFile, isHeld, actingMs }: KeepingParts): Promise<Keeping> {
    const pool = new WorkerPool(databaseUrl);
    const spool = spoolFile === undefined ? undefined : new Spool(spoolFile);
    return new Keeping(await Store.open(database, { executor: pool, acting: actingMs, mayWrite: isHeld, spool }), pool);
  }

  samplesPerSecond(nowMs: number): number {
    return this.#rate.perSecond(nowMs);
  }

  close(): Promise<void> {
    return this.store.close();
  }
}
