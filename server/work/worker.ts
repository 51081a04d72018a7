import { parentPort, workerData } from "node:worker_threads";
import type pg from "pg";
import { Arena } from "../../core/series/arena.ts";
import type { Connection } from "../db/pool.ts";
import { openConnection } from "../db/pool.ts";
import type { KnownTimes } from "../store/tasks/chunk-rows.ts";
import { runTask } from "./run-task.ts";
import type { StoreTask } from "../store/tasks/task.ts";

/** What the pool sends: a task and a word of shared memory that is not 0 once nobody waits. */
export interface TaskMessage {
  readonly id: number;
  readonly task: StoreTask;
  readonly cancelled: Int32Array;
}

/** What a worker answers. */
export type TaskAnswer = { readonly id: number; readonly result: unknown } | { readonly id: number; readonly error: { readonly name: string; readonly message: string; readonly code: string | undefined; readonly stack: string | undefined } };

// A worker thread of the store: does one task at a time over a connection of its own, which is opened anew after an error.
const { databaseUrl } = workerData as { databaseUrl: string };
const knownTimes: KnownTimes = new Map();
const arena = new Arena();
let connection: pg.Client | undefined;

async function connect(): Promise<Connection> {
  connection ??= await openConnection(databaseUrl, () => {
    connection = undefined;
  });
  return connection as unknown as Connection;
}

parentPort?.on("message", async ({ id, task, cancelled }: TaskMessage) => {
  try {
    const result = await runTask({ connect, knownTimes, arena }, task, () => Atomics.load(cancelled, 0) !== 0);
    parentPort?.postMessage({ id, result } satisfies TaskAnswer, buffersOf(result));
  } catch (error) {
    const broken = connection;
    connection = undefined;
    broken?.end().catch(() => {});
    const { name, message, code, stack } = error as Error & { code?: string };
    parentPort?.postMessage({ id, error: { name, message, code, stack } } satisfies TaskAnswer);
  }
});

/** The memory of all typed arrays in a result: it is handed over instead of copied. */
function buffersOf(result: unknown): ArrayBuffer[] {
  const buffers = new Set<ArrayBuffer>();
  const look = (part: unknown) => {
    if (part instanceof Float64Array) {
      if (part.buffer instanceof ArrayBuffer) buffers.add(part.buffer);
    } else if (part !== null && typeof part === "object") for (const inner of Object.values(part)) look(inner);
  };
  look(result);
  return [...buffers];
}
