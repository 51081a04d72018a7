import { parentPort, workerData } from "node:worker_threads";
import type pg from "pg";
import type { Connection } from "../db/pool.ts";
import { openConnection } from "../db/pool.ts";
import { type Worked, Workshop } from "./work-kind.ts";

/** What the pool sends: work by the name of its kind, and a word of shared memory that is not 0 once nobody waits. */
export interface WorkMessage {
  readonly id: number;
  readonly name: string;
  readonly given: unknown;
  readonly cancelled: Int32Array;
  /** A standby from which it is read; where that fails, the database itself is read. */
  readonly standbyUrl: string | undefined;
}

/** What a worker answers. */
export type WorkAnswer =
  | { readonly id: number; readonly result: unknown }
  | {
      readonly id: number;
      readonly error: {
        readonly name: string;
        readonly message: string;
        readonly code: string | undefined;
        readonly stack: string | undefined;
      };
    };

/**
 * Makes this thread one that does work, one piece at a time, over a connection of its own that is opened anew after an
 * error.
 */
export function serveWork(all: readonly Worked[]): void {
  const { databaseUrl } = workerData as { databaseUrl: string };
  const workshop = new Workshop(all);
  const connections = new Map<string, pg.Client>();

  const connectTo = async (url: string): Promise<Connection> => {
    let connection = connections.get(url);
    if (!connection) {
      connection = await openConnection(url, () => connections.delete(url));
      connections.set(url, connection);
    }
    return connection as unknown as Connection;
  };
  /** What was broken off leaves its connection in the middle of something. */
  const close = (url: string) => {
    connections
      .get(url)
      ?.end()
      .catch(() => {});
    connections.delete(url);
  };

  parentPort?.on("message", async ({ id, name, given, cancelled, standbyUrl }: WorkMessage) => {
    const isCancelled = () => Atomics.load(cancelled, 0) !== 0;
    const workAt = async (url: string): Promise<unknown> => {
      try {
        return await workshop.run(name, { connect: () => connectTo(url), isCancelled, isAlone: true }, given);
      } catch (error) {
        close(url);
        throw error;
      }
    };
    const atStandby = async (url: string): Promise<unknown> => {
      try {
        return await workAt(url);
      } catch (error) {
        // A standby ends what stands in the way of its replaying, and may be gone.
        if (isCancelled()) throw error;
        return workAt(databaseUrl);
      }
    };
    try {
      const result = await (standbyUrl === undefined ? workAt(databaseUrl) : atStandby(standbyUrl));
      parentPort?.postMessage({ id, result } satisfies WorkAnswer, buffersOf(result));
    } catch (error) {
      const { name: errorName, message, code, stack } = error as Error & { code?: string };
      parentPort?.postMessage({ id, error: { name: errorName, message, code, stack } } satisfies WorkAnswer);
    }
  });
}

/**
 * The memory of all typed arrays in a result: it is handed over instead of copied. An array without values is copied:
 * it may be one that stands for "none" everywhere, and this thread still needs it.
 */
function buffersOf(result: unknown): ArrayBuffer[] {
  const buffers = new Set<ArrayBuffer>();
  const look = (part: unknown) => {
    if (part instanceof Float64Array) {
      if (part.buffer instanceof ArrayBuffer && part.length > 0) buffers.add(part.buffer);
    } else if (part !== null && typeof part === "object") for (const inner of Object.values(part)) look(inner);
  };
  look(result);
  return [...buffers];
}
