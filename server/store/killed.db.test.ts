import { afterEach, beforeEach, expect, test } from "vitest";
import { batchOfRuns } from "../../core/series/batch.ts";
import { startServerProcess } from "../../e2e/support/server-process.mjs";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { journalSegments, replayJournal } from "./journal-replay.ts";
import { slotMs } from "./slots.ts";
import { Store } from "./store.ts";

let db: TestDatabase;
beforeEach(async () => {
  db = await testDatabase();
});
afterEach(() => db.drop());

/** Every sample that the database has committed to the journal, by series and time. */
async function committed(): Promise<Map<string, number>> {
  const found = new Map<string, number>();
  await replayJournal(db.database, await journalSegments(db.database), (runs) => {
    const { series, timeMs, value, length } = batchOfRuns(runs);
    for (let i = 0; i < length; i++) found.set(`${series[i]} ${timeMs[i]}`, value[i] as number);
  });
  return found;
}

async function readBack(store: Store): Promise<{ readonly samples: Map<string, number>; readonly count: number }> {
  const ids = [...store.series.all()].map(({ id }) => id);
  const samples = new Map<string, number>();
  let count = 0;
  (await store.read(ids, 0, 1e15)).forEach((column, i) => {
    count += column.timeMs.length;
    for (const [k, time] of column.timeMs.entries()) samples.set(`${ids[i]} ${time}`, column.value[k] as number);
  });
  return { samples, count };
}

test("a server killed with SIGKILL while it gathers loses no committed sample and doubles none, four times over, compacted in between", async () => {
  let known = new Map<string, number>();
  for (const round of [0, 1, 2, 3]) {
    const server = await startServerProcess(db.url, { env: { NUBREL_GATHER_MS: "100", NUBREL_MACHINE: "playout" } });
    const before = (await committed()).size;
    await expect.poll(async () => (await committed()).size, { timeout: 15_000 }).toBeGreaterThan(before + 200);
    await new Promise((done) => setTimeout(done, 37 * round));
    expect(await server.kill("SIGKILL")).toEqual({ code: null, signal: "SIGKILL" });

    known = new Map([...known, ...(await committed())]);
    const store = await Store.open(db.database);
    const { samples, count } = await readBack(store);
    expect(count).toBe(samples.size);
    expect(new Map([...samples].sort())).toEqual(new Map([...known].sort()));
    if (round === 1) await store.compact(Date.now() + 3 * slotMs);
    await store.close();
  }
  expect(known.size).toBeGreaterThan(800);
  // Four starts of a server, each of which may wait 15 s for its samples.
}, 120_000);
