import { afterAll, beforeAll, expect, test, vi } from "vitest";
import {
  expectedOf,
  knownBatch,
  makeKnownSeries,
  nowAt,
  samplesPerBatch,
  startMs,
  storedIn,
} from "../testing/known-samples.ts";
import { leadingOn } from "../testing/other-writers.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { slotMs } from "./slots.ts";
import { Store } from "./store.ts";

// Two stores on one database, one of which writes: what the other has is compared sample by sample after each step. In
// order: each test goes on where the one before ended.

let db: TestDatabase;
let writer: Store;
let follower: Store;
let k = 0;
const failures: Error[] = [];
const soon = { timeout: 10_000, interval: 50 };

const follow = () =>
  Store.follow(db.database, db.url, { acting: () => nowAt(k), lookEveryMs: 300 }, (error) => void failures.push(error));

async function write(until: number): Promise<void> {
  for (; k < until; k++) {
    const written = writer.write(knownBatch(k));
    await writer.flush();
    await written;
  }
}
const isAlike = () =>
  vi.waitFor(async () => expect(await storedIn(follower, startMs, nowAt(k))).toEqual(expectedOf(k)), soon);

beforeAll(async () => {
  db = await testDatabase();
  writer = await Store.open(db.database, { now: () => nowAt(k), others: await leadingOn(db, failures) });
});
afterAll(async () => {
  await follower?.close();
  await writer?.close();
  await db?.drop();
});

test("it begins with what is there, and series that are made later are known with their first sample", async () => {
  follower = await follow();
  expect(follower.series.size).toBe(0);
  await makeKnownSeries(writer);
  await write(30);
  await isAlike();
  expect(follower.takeBehindMs()).toBeLessThan(5000);
  expect(follower.takeBehindMs()).toBeUndefined();
});

test("what is compacted meanwhile is read from chunks, and what comes late beside it", async () => {
  await write(62); // ten slots of six batches, and two batches of the next
  await isAlike();
  await writer.compact(nowAt(k) + 2 * slotMs);
  await write(63); // of the same slot: heard before it is seen that what came before is in chunks
  await vi.waitFor(() => expect(follower.memory.headSamples).toBe(samplesPerBatch), soon);
  expect(await storedIn(follower, startMs, nowAt(k))).toEqual(expectedOf(k));
});

test("what was written and compacted without its hearing of it is there all the same", async () => {
  await writer.close();
  writer = await Store.open(db.database, { now: () => nowAt(k) });
  await write(90);
  await writer.compact(nowAt(k) + 2 * slotMs);
  await isAlike();
  await writer.close();
  writer = await Store.open(db.database, { now: () => nowAt(k), others: await leadingOn(db, failures) });
  await write(100);
  await isAlike();
});

test("one that begins while a slot is taken into chunks lacks nothing of it", async () => {
  for (let round = 0; round < 4; round++) {
    await follower.close();
    await write(k + 10);
    const [next] = await Promise.all([follow(), writer.compact(nowAt(k) + 2 * slotMs)]);
    follower = next;
    await isAlike();
  }
});

test("series that are forgotten, and made again under another number, are followed", async () => {
  const [gone] = writer.series.all();
  if (!gone) throw new Error("there are series");
  const { id, ...anew } = gone;
  await writer.series.remove([id]);
  const [again] = await writer.series.resolve([anew]);
  const written = writer.write({
    series: Uint32Array.of(again as number),
    timeMs: Float64Array.of(nowAt(k) - 1000),
    value: Float64Array.of(7),
    length: 1,
  });
  await writer.flush();
  await written;
  await vi.waitFor(() => expect(follower.series.all().map((one) => one.id)).toContain(again), soon);
  expect(follower.series.all().map((one) => one.id)).not.toContain(id);
  expect(failures).toEqual([]);
});
