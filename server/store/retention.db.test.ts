import { afterEach, beforeEach, expect, test } from "vitest";
import { batchOf } from "../../core/series/batch.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { slotMs } from "./slots.ts";
import { Store } from "./store.ts";

const dayMs = 86_400_000;
const startMs = 20_000 * dayMs;
let db: TestDatabase;
let store: Store;
let nowMs: number;
beforeEach(async () => {
  nowMs = startMs;
  db = await testDatabase();
  store = await Store.open(db.database, { now: () => nowMs });
});
afterEach(async () => {
  await store.close();
  await db.drop();
});

const known = async (counter: string) => {
  const [id] = await store.series.resolve([{ counter, tags: { machine: "m1" }, unit: "1", kind: "level" }]);
  await db.database.query("update series set created_at = now() - interval '3 days' where id = $1", [id]);
  return id as number;
};
const counters = () => [...store.series.all()].map(({ counter }) => counter).sort();

test("a series of which nothing is left is forgotten when samples were dropped, else once a day", async () => {
  await store.setRetention({ rawDays: 2, fiveMinuteDays: 14, hourDays: 14 });
  const id = await known("load");
  await store.write(batchOf([[id, nowMs, 1]]));
  await known("never");
  nowMs += 2 * slotMs;
  await store.maintain();
  expect(counters()).toEqual(["load"]);
  await known("after");
  nowMs += dayMs - 1;
  await store.maintain();
  expect(counters()).toEqual(["after", "load"]);
  nowMs += 1;
  await store.maintain();
  expect(counters()).toEqual(["load"]);
  // What it had goes while the server runs on: samples, buckets of 5 min, those of hours by a hundred days.
  nowMs += 120 * dayMs;
  await store.setRetention({ rawDays: 2, fiveMinuteDays: 14, hourDays: 300 });
  await store.maintain();
  await store.maintain();
  expect(counters()).toEqual(["load"]);
  await store.setRetention({ rawDays: 2, fiveMinuteDays: 14, hourDays: 14 });
  await store.maintain();
  expect(counters()).toEqual([]);
  expect(store.lastTimeMs(id)).toBeUndefined();
});

test("a series whose only samples are in memory stays", async () => {
  const id = await known("load");
  await store.write(batchOf([[id, nowMs, 1]]));
  await store.maintain();
  expect(counters()).toEqual(["load"]);
});
