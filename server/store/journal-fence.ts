import { type Connection, type Database, inTransaction } from "../db/pool.ts";

/** By which a server is let in to write the journal. */
export interface Pass {
  readonly fence: number;
  /** No process had it before; it is above those of all segments that were ended with the fence. */
  readonly era: number;
  /** The fence with which series were forgotten last. */
  readonly forgotten: number;
}

/** The lock on the database is not held just now, or no server leads: what waits goes on waiting. */
export class NotOursError extends Error {
  override name = "NotOursError";
}

/**
 * The number by which servers of one database are let in to write the journal (a fencing token: Kleppmann, "Designing
 * Data-Intensive Applications", 2017, ch. 8). Each row is written in one statement with a look at the number, which holds
 * the number as it is until that is committed; who raises it waits for those that have begun, so that from then on every
 * segment that was begun before has an end.
 */
export class JournalFence {
  readonly #database: Database;
  readonly #instance: string | undefined;

  /** `instance` is that of the server that leads, where it is this one; no other raises the fence. */
  constructor(database: Database, instance?: string) {
    this.#database = database;
    this.#instance = instance;
  }

  /** How rows are let in just now. Throws NotOursError. */
  async pass(): Promise<Pass> {
    const { rows } = await this.#database.query<Pass>(
      `select fence, nextval('journal_era')::bigint as era, forgotten
       from serving
       where fence is not null and ($1::uuid is null or instance = $1::uuid)`,
      [this.#instance ?? null],
    );
    return one(rows);
  }

  /** Lets nobody go on with a segment that was begun. Throws NotOursError where another server leads. */
  async raise(): Promise<Pass> {
    return await inTransaction(this.#database, (connection) => this.#raise(connection, false));
  }

  /**
   * Has series forgotten: while `forget` does it nobody writes, and what was written is there to be read. Throws
   * NotOursError where another server leads.
   */
  async raiseForgetting(forget: (connection: Connection) => Promise<void>): Promise<Pass> {
    return await inTransaction(this.#database, async (connection) => {
      const pass = await this.#raise(connection, true);
      await forget(connection);
      return pass;
    });
  }

  /** The fence is an era as well, so that it is above those of segments that it ends. */
  async #raise(connection: Connection, isForgetting: boolean): Promise<Pass> {
    const { rows } = await connection.query<Pass>(
      `with next as (select nextval('journal_era')::bigint as fence)
       update serving
       set fence = next.fence, forgotten = case when $2::boolean then next.fence else forgotten end
       from next
       where instance = $1::uuid
       returning serving.fence, serving.fence as era, serving.forgotten`,
      [this.#instance, isForgetting],
    );
    return one(rows);
  }
}

function one(rows: readonly Pass[]): Pass {
  const [pass] = rows;
  if (!pass)
    throw new NotOursError("no server leads just now, or another does; what waits is written once that is known");
  return pass;
}
