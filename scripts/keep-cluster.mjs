import { setTimeout as delay } from "node:timers/promises";

/** How often it is looked whether PostgreSQL lives; pauses between tries grow from the first to the last. */
const lookEveryMs = 1000;
const firstPauseMs = 1000;
const longestPauseMs = 60_000;
/** One that has run for so long has recovered: pauses begin anew. */
const settledMs = 120_000;

/**
 * Starts a cluster's PostgreSQL again whenever it has died, with growing pauses while it does not come up. `tell` hears
 * what happens: `{ tries, said }`, with what
 * PostgreSQL said last where it did not come up and `said: null` where it runs again. Answers a function that ends the
 * watch.
 * @param {{ isRunning(): boolean, start(): Promise<string | undefined> }} cluster
 * @param {(news: { tries: number, said: string | null }) => void} tell
 */
export function keepCluster(cluster, tell, { everyMs = lookEveryMs, pauseMs = firstPauseMs, wait = delay } = {}) {
  const ending = new AbortController();
  const watch = async () => {
    let tries = 0;
    let upSinceMs = performance.now();
    for (;;) {
      await wait(everyMs, undefined, { signal: ending.signal });
      if (cluster.isRunning()) {
        if (performance.now() - upSinceMs > settledMs) tries = 0;
        continue;
      }
      if (tries > 0)
        await wait(Math.min(longestPauseMs, pauseMs * 2 ** (tries - 1)), undefined, { signal: ending.signal });
      tries++;
      const said = await cluster.start();
      if (ending.signal.aborted) return;
      tell({ tries, said: said ?? null });
      upSinceMs = performance.now();
    }
  };
  const ended = watch().catch((error) => {
    if (error.name !== "AbortError") throw error;
  });
  return async () => {
    ending.abort();
    await ended;
  };
}
