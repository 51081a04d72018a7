import { Logger, type Runner, run, runMigrations, type TaskList } from "graphile-worker";
import type { Logger as Pino } from "pino";
import type { Database } from "../db/pool.ts";
import type { Slowness } from "../slowness/slowness.ts";
import { freeHeldJobs, moveWaitingJobs } from "./job-rows.ts";

/** A runner that gave up (the database was away for long) is started again after so long. */
const againAfterMs = 5000;
/**
 * A job's end is told to the database in batches, for then graphile-worker itself handles the database's being away: it
 * tries again, then ends the runner, which is started anew here. Told singly, the failure would be handled by nobody.
 */
const told = { completeJobBatchDelay: 0, failJobBatchDelay: 0 };
/**
 * What is slow to answer (a mail server, say) does not hold up the store: jobs of a queue are done one by one, others
 * beside them.
 */
const atOnce = 5;

/** What is done every ten minutes, or every minute, where it is among the tasks. */
const regular: readonly (readonly [when: string, name: string, how: string])[] = [
  ["*/10 * * * *", "maintain", "?fill=1h&queue=store"],
  ["*/10 * * * *", "send_month", "?queue=month&max=3"],
  ["* * * * *", "tell_door_news", "?queue=door&max=1"],
];

export interface Jobs {
  /** Has the store maintained soon. */
  maintainSoon(): Promise<void>;
  /** The clock was set by so many ms: what is due at a time of before is due by the new one. */
  rebase(byMs: number): Promise<void>;
  close(): Promise<void>;
}

/**
 * Runs the durable jobs: those that are asked for, and upkeep every ten minutes, made up for after a pause; whether a
 * month is to be sent is looked at as often. Where the
 * database goes away in the middle of a job, the runner is started again and again until it is back.
 */
export async function startJobs(
  database: Database,
  taskList: TaskList & { readonly maintain: () => Promise<void> },
  log: Pino,
  slowness?: Slowness,
): Promise<Jobs> {
  let stopped = false;
  let timer: NodeJS.Timeout | undefined;
  let runner: Runner | undefined;
  const under = new Set<Promise<unknown>>();

  const start = async () => {
    await Promise.allSettled([...under]); // what a runner that gave up has begun is not begun a second time beside it
    if (stopped) return;
    await runMigrations({ pgPool: database });
    await freeHeldJobs(database);
    const started = await run({
      pgPool: database,
      concurrency: atOnce,
      noHandleSignals: true,
      pollInterval: 10_000,
      crontab: regular
        .filter(([, name]) => name in taskList)
        .map((line) => line.join(" "))
        .join("\n"),
      taskList: noted(taskList, under, slowness),
      preset: { worker: told },
      logger: new Logger(() => (level, message) => {
        if (level === "error") log.error({ err: { message } }, "the queue of jobs");
        else if (level === "warning") log.warn({ err: { message } }, "the queue of jobs");
      }),
    });
    if (stopped) return started.stop();
    runner = started;
    runner.promise.then(() => again(), again);
  };
  const again = (error?: unknown) => {
    runner = undefined;
    if (stopped) return;
    if (error) log.warn({ err: error }, "the durable jobs stopped and are started again");
    timer = setTimeout(() => void start().catch(again), againAfterMs);
  };
  await start();
  return {
    async maintainSoon() {
      await runner?.addJob("maintain", {}, { queueName: "store", jobKey: "maintain-soon" });
    },
    async rebase(byMs) {
      await moveWaitingJobs(database, byMs);
    },
    async close() {
      stopped = true;
      clearTimeout(timer);
      await runner?.stop();
    },
  };
}

/** The same tasks; `under` holds what of them runs, and `slowness` hears how long each took. */
function noted(taskList: TaskList, under: Set<Promise<unknown>>, slowness?: Slowness): TaskList {
  return Object.fromEntries(
    Object.entries(taskList).map(([name, task]) => [
      name,
      async (...given: Parameters<NonNullable<typeof task>>) => {
        const work = async () => await task?.(...given);
        const running = slowness ? slowness.watch({ kind: "job", key: name, what: () => name }, work) : work();
        under.add(running);
        try {
          await running;
        } finally {
          under.delete(running);
        }
      },
    ]),
  );
}
