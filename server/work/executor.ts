import type { Connection, Database } from "../db/pool.ts";
import type { KnownTimes } from "../store/tasks/chunk-rows.ts";
import { runTask } from "./run-task.ts";
import type { StoreTask, TaskResult } from "../store/tasks/task.ts";

/** Does the store's heavy work somewhere. */
export interface Executor {
  /** How many tasks it can do at once that are worth doing at once. */
  readonly threads: number;
  /** Throws CancelledError where `signal` is raised before the work is done. */
  run<T extends StoreTask>(task: T, signal?: AbortSignal): Promise<TaskResult<T>>;
  close(): Promise<void>;
}

/** Does it right here: for small work, and for tests. */
export class InlineExecutor implements Executor {
  readonly threads = 1;
  readonly #database: Database;
  readonly #knownTimes: KnownTimes = new Map();

  constructor(database: Database) {
    this.#database = database;
  }

  async run<T extends StoreTask>(task: T, signal?: AbortSignal): Promise<TaskResult<T>> {
    let connection: Connection | undefined;
    let broken: Error | undefined;
    try {
      return (await runTask({ connect: async () => (connection ??= await this.#database.connect()), knownTimes: this.#knownTimes }, task, () => signal?.aborted ?? false)) as TaskResult<T>;
    } catch (error) {
      broken = error as Error;
      throw error;
    } finally {
      // A connection on which something failed is not used again: a COPY may be in its middle.
      connection?.release(broken);
    }
  }

  async close(): Promise<void> {}
}
