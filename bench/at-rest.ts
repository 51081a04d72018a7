import { Store } from "../server/store/store.ts";
import { WorkerPool } from "../server/work/worker-pool.ts";
import { benchDatabase } from "./bench-database.ts";
import { mixedSeries } from "./mix.ts";
import { finish, report } from "./report.ts";

// The engine at rest: twenty sources of a thousand series each answer every 15 s, nobody looks. (Without fetching and
// parsing, which are not there yet.)
const sources = 20;
const perSource = 1000;
const everyMs = 15_000;
const rounds = 4;

const { database, url } = await benchDatabase("at_rest");
const store = await Store.open(database, { executor: new WorkerPool(url) });
const next = Array.from({ length: sources * perSource }, (_, i) => mixedSeries(i, 2));
const answer = (source: number) => ({
  series: Uint32Array.from({ length: perSource }, (_, i) => source * perSource + i + 1),
  timeMs: new Float64Array(perSource).fill(Date.now()),
  value: Float64Array.from({ length: perSource }, (_, i) => next[source * perSource + i]?.() as number),
  length: perSource,
});
let spentMs = 0;
const began = Date.now();
for (let round = 0; round < rounds; round++) {
  for (let source = 0; source < sources; source++) {
    const batch = answer(source); // what the series say is not the store's work
    const before = process.cpuUsage();
    await store.write(batch);
    const { user, system } = process.cpuUsage(before);
    spentMs += (user + system) / 1000;
    await new Promise((done) =>
      setTimeout(done, Math.max(0, began + round * everyMs + (source + 1) * (everyMs / sources) - Date.now())),
    );
  }
}
report("20 sources of 1,000 series every 15 s: processor", (spentMs / (rounds * everyMs)) * 100, "% of a core", {
  atMost: 5,
});
report("20 sources of 1,000 series every 15 s: memory", process.memoryUsage().rss / 1e6, "MB", { atMost: 250 });
await store.close();
await database.end();
finish();
