import { Logger, type Runner, run } from "graphile-worker";
import type { Logger as Pino } from "pino";
import type { Database } from "../db/pool.ts";
import type { Store } from "./store.ts";

/** A runner that gave up (the database was away for long) is started again after so long. */
const againAfterMs = 5000;

/** The durable jobs of the store. */
export interface StoreJobs {
  /** Has the store maintained soon. */
  maintainSoon(): Promise<void>;
  stop(): Promise<void>;
}

/** Starts the durable jobs of the store: compaction, rollups and retention every ten minutes, made up for after a pause. */
export async function startStoreJobs(database: Database, store: Store, log: Pino): Promise<StoreJobs> {
  let stopped = false;
  let timer: NodeJS.Timeout | undefined;
  let runner: Runner | undefined;

  const start = async () => {
    const started = await run({
      pgPool: database,
      concurrency: 1,
      noHandleSignals: true,
      pollInterval: 10_000,
      crontab: "*/10 * * * * maintain ?fill=1h&queue=store",
      taskList: { maintain: () => store.maintain() },
      logger: new Logger(() => (level, message) => {
        if (level === "error") log.error(message);
        else if (level === "warning") log.warn(message);
      }),
    });
    if (stopped) return started.stop();
    runner = started;
    runner.promise.then(() => again(), again);
  };
  const again = (error?: unknown) => {
    runner = undefined;
    if (stopped) return;
    if (error) log.warn({ err: error }, "the store's jobs stopped and are started again");
    timer = setTimeout(() => void start().catch(again), againAfterMs);
  };
  await start();
  return {
    async maintainSoon() {
      await runner?.addJob("maintain", {}, { queueName: "store", jobKey: "maintain-soon" });
    },
    async stop() {
      stopped = true;
      clearTimeout(timer);
      await runner?.stop();
    },
  };
}
