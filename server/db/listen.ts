import { setTimeout as delay } from "node:timers/promises";
import type pg from "pg";
import { openConnection } from "./pool.ts";

const againAfterMs = 1000;

export interface Listening {
  /** By how much the database's clock is ahead of this machine's, ms, as it was when listening began. */
  readonly aheadMs: number;
  close(): Promise<void>;
}

/**
 * Hears what is told on a channel of the database (`listen`, `notify`), over a connection of its own. One that breaks is
 * opened anew, and `heard` called with nothing: something may have been missed. Throws where it cannot be opened at first.
 */
export async function listenTo(url: string, channel: string, heard: (told: string) => void): Promise<Listening> {
  let closed = false;
  let aheadMs = 0;
  let connection: pg.Client | undefined;
  const open = async (): Promise<void> => {
    const opened = await openConnection(url, () => {
      if (connection !== opened) return;
      connection = undefined;
      if (!closed) void again();
    });
    opened.on("notification", ({ payload }) => heard(payload ?? ""));
    await opened.query(`listen ${channel}`);
    const askedMs = Date.now();
    const { rows } = await opened.query<{ ms: number }>(
      "select extract(epoch from clock_timestamp())::float8 * 1000 as ms",
    );
    aheadMs = (rows[0]?.ms ?? askedMs) - (askedMs + Date.now()) / 2;
    connection = opened;
  };
  const again = async (): Promise<void> => {
    while (!closed) {
      try {
        await open();
        return heard("");
      } catch {
        await delay(againAfterMs, undefined, { ref: false });
      }
    }
  };
  await open();
  return {
    get aheadMs() {
      return aheadMs;
    },
    async close() {
      closed = true;
      await connection?.end().catch(() => {});
    },
  };
}
