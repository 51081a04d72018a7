import type { Connection } from "../../db/pool.ts";
import { compactSlot } from "./compact-slot.ts";
import { readColumnsTask, reduceReading } from "./reduce-reading.ts";
import { rollUpPeriod } from "./roll-up-period.ts";
import type { StoreTask } from "./task.ts";

/** Does a task over a connection that is opened when it is first needed. What changes the store is one transaction. */
export async function runTask(connect: () => Promise<Connection>, task: StoreTask, isCancelled: () => boolean): Promise<unknown> {
  switch (task.kind) {
    case "reduce":
      return reduceReading(connect, task, isCancelled);
    case "columns":
      return readColumnsTask(connect, task);
    case "compact":
      return committed(await connect(), (connection) => compactSlot(connection, task));
    case "roll-up":
      return committed(await connect(), (connection) => rollUpPeriod(connection, task));
  }
}

async function committed<T>(connection: Connection, work: (connection: Connection) => Promise<T>): Promise<T> {
  await connection.query("begin");
  try {
    const result = await work(connection);
    await connection.query("commit");
    return result;
  } catch (error) {
    await connection.query("rollback").catch(() => {});
    throw error;
  }
}
