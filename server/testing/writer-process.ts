import { openDatabase } from "../db/pool.ts";
import { Store } from "../store/store.ts";
import { WorkerPool } from "../work/worker-pool.ts";
import { knownBatch, nowAt } from "./known-samples.ts";

// A process that writes known samples as fast as it can and maintains the store meanwhile, until it is killed. It tells
// its parent of every
// acknowledgement, and what part of maintenance is under way.
const [url, first] = process.argv.slice(2) as [string, string];
let k = Number(first);
/** How far the last round of maintenance came; writing does not run further ahead of it than a night of ingest may. */
let maintained = k;
const mostAhead = 25;
const database = openDatabase(url);
const store = await Store.open(database, { now: () => nowAt(k), executor: new WorkerPool(url, 1) });

async function maintainForever(): Promise<void> {
  for (;;) {
    const reached = k;
    for (const phase of ["compact", "rollUp", "expire"] as const) {
      process.send?.({ phase });
      await store[phase](nowAt(reached));
      process.send?.({ phase: "none" });
    }
    maintained = reached;
    await new Promise((done) => setTimeout(done, 5));
  }
}

process.send?.({ phase: "none" });
void maintainForever();
for (; ; k++) {
  while (k - maintained > mostAhead) await new Promise((done) => setTimeout(done, 5));
  const written = store.write(knownBatch(k));
  await store.flush(); // not to wait for more, which does not come
  await written;
  process.send?.({ acknowledged: k });
}
