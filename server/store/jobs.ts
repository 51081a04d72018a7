import { Logger, type Runner, run } from "graphile-worker";
import type { Logger as Pino } from "pino";
import type { Database } from "../db/pool.ts";
import type { Store } from "./store.ts";

/** Starts the durable jobs of the store: compaction every ten minutes, made up for after a pause. */
export async function startStoreJobs(database: Database, store: Store, log: Pino): Promise<Runner> {
  return run({
    pgPool: database,
    concurrency: 1,
    noHandleSignals: true,
    pollInterval: 10_000,
    crontab: "*/10 * * * * compact ?fill=1h",
    taskList: { compact: () => store.compact(Date.now()) },
    logger: new Logger(() => (level, message) => {
      if (level === "error") log.error(message);
      else if (level === "warning") log.warn(message);
    }),
  });
}
