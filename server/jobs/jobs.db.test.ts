import pino from "pino";
import { expect, test } from "vitest";
import { batchOf } from "../../core/series/batch.ts";
import { testDatabase } from "../testing/test-database.ts";
import { startJobs } from "./jobs.ts";
import { slotMs, slotOf } from "../store/slots.ts";
import { Store } from "../store/store.ts";

test("the durable job compacts what has ended and leaves the slot of now", async () => {
  const db = await testDatabase();
  const store = await Store.open(db.database);
  const now = Date.now();
  await store.write(batchOf([[1, now - 3 * slotMs, 1], [1, now, 2]]));
  const jobs = await startJobs(db.database, { maintain: () => store.maintain() }, pino({ level: "silent" }));
  try {
    await jobs.maintainSoon();
    const left = async () => (await db.database.query<{ slot: number }>("select slot from journal")).rows.map((row) => row.slot);
    await expect.poll(left, { timeout: 15_000 }).toEqual([slotOf(now)]);
    const [column] = await store.read([1], 0, 1e15);
    expect([...(column?.value ?? [])]).toEqual([1, 2]);
  } finally {
    await jobs.stop();
    await store.close();
    await db.drop();
  }
});
