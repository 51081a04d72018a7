import type { Batch } from "../core/series/batch.ts";
import { answerReading } from "../server/reading/answer-reading.ts";
import { slotMs, slotOf, slotStart } from "../server/store/slots.ts";
import { Store } from "../server/store/store.ts";
import { WorkerPool } from "../server/work/worker-pool.ts";
import { benchDatabase } from "./bench-database.ts";
import { compare, finish, report, round } from "./report.ts";

// Series that come and go, as those of containers and processes do: a thousand new ones an hour over thirty days, each
// there for an hour with a sample every five minutes. What a reading of the newest of them costs, beside the same
// reading of a store in which there never were others.
const hours = Number(process.env["NUBREL_GROWTH_HOURS"] ?? 720);
const perHour = 1000;
const [hourMs, everyMs] = [3_600_000, 300_000];
const endMs = slotStart(slotOf(Date.now())) - slotMs;

async function gone(name: string, ofHours: number) {
  const { database, url } = await benchDatabase(name);
  let nowMs = endMs - ofHours * hourMs;
  const store = await Store.open(database, { now: () => nowMs, executor: new WorkerPool(url) });
  for (let hour = 0; hour < ofHours; hour++) {
    const fromMs = endMs - (ofHours - hour) * hourMs;
    const ids = await store.series.resolve(
      Array.from({ length: perHour }, (_, i) => ({
        counter: "container.cpu",
        tags: { machine: `machine-${i % 10}`, container: `c-${hour}-${i}` },
        unit: "1",
        kind: "level" as const,
      })),
    );
    for (let atMs = fromMs; atMs < fromMs + hourMs; atMs += everyMs) {
      nowMs = atMs;
      const batch: Batch = {
        series: ids,
        timeMs: new Float64Array(perHour).fill(atMs),
        value: Float64Array.from(ids, (id) => (id * 7 + atMs / everyMs) % 101),
        length: perHour,
      };
      const written = store.write(batch);
      await store.flush();
      await written;
    }
    if (hour % 2 === 1) await store.compact(nowMs);
  }
  nowMs = endMs;
  await store.close();
  return await Store.open(database, { now: () => nowMs, executor: new WorkerPool(url) });
}

const alone = await gone("came_now", 24);
const beside = await gone("came_and_went", hours);
const read = (store: Store, of: number) => () =>
  answerReading(store, {
    window: { from: endMs - of * hourMs, to: endMs },
    step: of * 60,
    sentences: { x: { counter: "container.cpu", lines: "together", combine: "sum" } },
  });
for (const of of [1, 6]) {
  const { oursMs, theirsMs, ratio } = await compare(9, read(beside, of), read(alone, of));
  report(
    `${of} h of what is there, among ${(hours * perHour).toLocaleString("en")} series that came and went`,
    1 / ratio,
    "times",
    { atMost: 1.5 },
    `${round(oursMs)} ms, ${round(theirsMs)} ms without those before`,
  );
}
await Promise.all([alone.close(), beside.close()]);
finish();
