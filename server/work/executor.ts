import type { Connection, Database } from "../db/pool.ts";
import { type Worked, type WorkKind, Workshop } from "./work-kind.ts";

/** Does heavy work somewhere. */
export interface Executor {
  /** How many pieces of work it can do at once that are worth doing at once. */
  readonly threads: number;
  /** Throws CancelledError where `signal` is raised before the work is done. */
  run<Given, Answer>(kind: WorkKind<Given, Answer>, given: Given, signal?: AbortSignal): Promise<Answer>;
  close(): Promise<void>;
}

/** Does it right here: for small work, and for tests. */
export class InlineExecutor implements Executor {
  readonly threads = 1;
  readonly #database: Database;
  readonly #workshop: Workshop;

  constructor(database: Database, all: readonly Worked[]) {
    this.#database = database;
    this.#workshop = new Workshop(all);
  }

  async run<Given, Answer>({ name }: WorkKind<Given, Answer>, given: Given, signal?: AbortSignal): Promise<Answer> {
    let connection: Connection | undefined;
    let broken: Error | undefined;
    try {
      const place = {
        connect: async () => (connection ??= await this.#database.connect()),
        isCancelled: () => signal?.aborted ?? false,
        isAlone: false,
      };
      return (await this.#workshop.run(name, place, given)) as Answer;
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
