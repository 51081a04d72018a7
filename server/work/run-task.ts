import type { Connection } from "../db/pool.ts";
import { compactSlot } from "../store/tasks/compact-slot.ts";
import { readBody } from "../intake/read-body.ts";
import { setAside } from "../store/quarantine.ts";
import { readColumnsTask, reduceReading } from "../store/tasks/reduce-reading.ts";
import { rehearsePast } from "../rules/rehearse-past.ts";
import { rollUpPeriod } from "../store/tasks/roll-up-period.ts";
import type { StoreTask, TaskContext } from "../store/tasks/task.ts";

/** Does a task. What changes the store is one transaction; rows that a reading could not read are set aside in one of their own. */
export async function runTask(given: Omit<TaskContext, "damages">, task: StoreTask, isCancelled: () => boolean): Promise<unknown> {
  const context: TaskContext = { ...given, damages: [] };
  const result = await work(context, task, isCancelled);
  if (context.damages.length > 0) await committed(await context.connect(), (connection) => setAside(connection, context.damages));
  return result;
}

async function work(context: TaskContext, task: StoreTask, isCancelled: () => boolean): Promise<unknown> {
  switch (task.kind) {
    case "reduce":
      return reduceReading(context, task, isCancelled);
    case "columns":
      return readColumnsTask(context, task);
    case "rehearse":
      return rehearsePast(task);
    case "read-body":
      return readBody(task);
    case "compact":
      return committed(await context.connect(), (connection) => compactSlot(connection, context, task));
    case "roll-up":
      return committed(await context.connect(), (connection) => rollUpPeriod(connection, context, task));
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
