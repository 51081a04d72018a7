import type { Slowness } from "../slowness/slowness.ts";
import type { Logger } from "pino";
import type { Flushed } from "./journal.ts";
import { JournalFence } from "./journal-fence.ts";
import { Standby } from "../db/standby.ts";
import type { Database } from "../db/pool.ts";
import { WorkerPool } from "../work/worker-pool.ts";
import { recentSamples, SampleRate } from "./sample-rate.ts";
import { Spool } from "./spool.ts";
import { Store } from "./store.ts";

interface KeepingParts {
  readonly database: Database;
  readonly databaseUrl: string;
  readonly spoolFile: string | undefined;
  readonly isOneOfSeveral: boolean;
  /** Names this server among those that serve the database. */
  readonly instance: string;
  readonly log: Logger;
  /** Of a standby that readings are taken from. */
  readonly readUrl: string | undefined;
  readonly isHeld: () => boolean;
  /** The time by which something may be deleted. */
  readonly actingMs: () => number;
  readonly slowness: Slowness;
}

/** Notes commits that take long. */
export const flushesOf =
  (slowness: Slowness): Flushed =>
  (tookMs, samples, failure) =>
    slowness.note({ kind: "flush", key: "", what: () => flushInWords(samples, failure) }, tookMs);

const flushInWords = (samples: number, failure: Error | undefined): string =>
  `${samples.toLocaleString("en")} ${samples === 1 ? "sample" : "samples"}${failure ? `, which the database did not take: ${failure.message}` : ""}`;

/** The store with the threads that read it, and how fast samples come. */
export class Keeping {
  readonly store: Store;
  readonly pool: WorkerPool;
  readonly standby: Standby | undefined;
  /** The newest sample that was there at the start. */
  readonly lastSampleBeforeMs: number | undefined;
  readonly #rate = new SampleRate();

  private constructor(store: Store, pool: WorkerPool, standby: Standby | undefined) {
    this.store = store;
    this.standby = standby;
    this.pool = pool;
    this.lastSampleBeforeMs = store.health.lastSampleAtMs;
    store.onCommit((batch) => {
      const now = Date.now();
      this.#rate.count(recentSamples(batch, now), now);
    });
  }

  static async open({
    database,
    databaseUrl,
    spoolFile,
    isOneOfSeveral,
    instance,
    log,
    readUrl,
    isHeld,
    actingMs,
    slowness,
  }: KeepingParts): Promise<Keeping> {
    const standby = readUrl === undefined ? undefined : new Standby(database, readUrl);
    const pool = new WorkerPool(databaseUrl, undefined, { standby });
    standby?.start();
    const spool = spoolFile === undefined ? undefined : new Spool(spoolFile);
    const moved = standby && (() => standby.moved());
    const others = isOneOfSeveral && {
      url: databaseUrl,
      fence: new JournalFence(database, instance),
      failed: (error: Error) => log.info({ err: error }, "what others write could not be followed; it is tried again"),
    };
    const rest = { spool, flushed: flushesOf(slowness), ...(others && { others }), ...(moved && { moved }) };
    return new Keeping(
      await Store.open(database, { executor: pool, acting: actingMs, mayWrite: isHeld, ...rest }),
      pool,
      standby,
    );
  }

  samplesPerSecond(nowMs: number): number {
    return this.#rate.perSecond(nowMs);
  }

  async close(): Promise<void> {
    await this.store.close();
    await this.standby?.close();
  }
}
