import type { ServerView } from "../../core/api/condition.ts";
import type { Database } from "../db/pool.ts";
import { leaderOf, listBeside } from "../db/serving-rows.ts";

/** All servers that work on the database, the one that leads first. */
export async function listServers(database: Database): Promise<readonly ServerView[]> {
  const [leader, beside] = await Promise.all([leaderOf(database), listBeside(database)]);
  return [
    ...(leader ? [{ ...leader, leads: true, behindMs: null, asks: null, storesPerSecond: null }] : []),
    ...beside.map((one) => ({ ...one, leads: false })),
  ].map(({ host, pid, address, leads, since, behindMs, asks, storesPerSecond }) => ({
    ...{ host, pid, address, leads, behindMs, asks, storesPerSecond },
    sinceMs: since.getTime(),
  }));
}
