import { afterEach, beforeEach, expect, test } from "vitest";
import { batchOf } from "../../core/series/batch.ts";
import { seeded } from "../../core/testing/random.ts";
import { answerReading } from "../reading/answer-reading.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { slotMs, slotOf, slotStart } from "./slots.ts";
import { Store } from "./store.ts";

let db: TestDatabase;
let now = 0;
const endSlot = slotOf(Date.UTC(2026, 10, 20));
const open = () => Store.open(db.database, { now: () => now });
beforeEach(async () => {
  db = await testDatabase();
  now = slotStart(endSlot);
});
afterEach(() => db.drop());

const named = (container: string, kind: "level" | "total" = "level") => ({
  counter: kind === "level" ? "container.memory" : "container.io",
  tags: { machine: "hive", container },
  unit: kind === "level" ? "By" : "1",
  kind,
});
const alive = (store: Store, fromSlot: number, toSlot: number) =>
  store
    .seriesAlive("container.memory", slotStart(fromSlot), slotStart(toSlot))
    .map(({ tags }) => tags["container"])
    .sort();
/** So many samples in each of the slots. */
const samples = (id: number, slots: readonly number[], each = 10) =>
  slots.flatMap((slot) =>
    Array.from({ length: each }, (_, i) => [id, slotStart(slot) + (i * slotMs) / each, slot + i] as const),
  );

test("what had ended before a window is left out of it, after compaction and a new start as well; what comes seldom is not", async () => {
  let store = await open();
  const [early, late, seldom, fresh] = await store.series.resolve(
    ["early", "late", "seldom", "fresh"].map((c) => named(c)),
  );
  await store.write(
    batchOf([
      ...samples(early as number, [endSlot - 60, endSlot - 59]),
      ...samples(late as number, [endSlot - 20, endSlot - 19]),
      ...samples(seldom as number, [endSlot - 60], 1),
      ...samples(fresh as number, [endSlot - 1]),
    ]),
  );
  const check = () => {
    expect(alive(store, endSlot - 60, endSlot - 60)).toEqual(["early", "seldom"]);
    expect(alive(store, endSlot - 21, endSlot - 20)).toEqual(["late", "seldom"]);
    expect(alive(store, endSlot - 2, endSlot)).toEqual(["fresh", "seldom"]);
    expect(alive(store, endSlot - 400, endSlot)).toEqual(["early", "fresh", "late", "seldom"]);
  };
  await store.compact(slotStart(endSlot) + 600_000);
  check();
  await store.close();
  store = await open();
  check();
  // samples that come late, and one that comes back
  await store.write(batchOf(samples(late as number, [endSlot - 60])));
  expect(alive(store, endSlot - 60, endSlot - 60)).toEqual(["early", "late", "seldom"]);
  await store.write(batchOf(samples(early as number, [endSlot])));
  expect(alive(store, endSlot, endSlot)).toEqual(["early", "fresh", "seldom"]);
  await store.close();
  store = await open();
  expect(alive(store, endSlot, endSlot)).toEqual(["early", "fresh", "seldom"]);
  await store.close();
});

test("a page that is damaged hides nothing", async () => {
  let store = await open();
  const [early] = await store.series.resolve([named("early")]);
  await store.write(batchOf(samples(early as number, [endSlot - 60])));
  await store.compact(slotStart(endSlot) + 600_000);
  expect(alive(store, endSlot - 2, endSlot)).toEqual([]);
  await store.close();
  await db.database.query("update series_life set lives = set_byte(lives, 9, get_byte(lives, 9) # 1)");
  store = await open();
  expect(alive(store, endSlot - 2, endSlot)).toEqual(["early"]);
  await store.write(batchOf(samples(early as number, [endSlot - 1])));
  await store.compact(slotStart(endSlot) + 600_000);
  await store.close();
  store = await open();
  expect(alive(store, endSlot - 400, endSlot - 399)).toEqual(["early"]);
  await store.close();
});

test("series of before lives were noted may have been there always", async () => {
  let store = await open();
  const [old] = await store.series.resolve([named("old")]);
  await db.database.query("update setting set value = to_jsonb($1::int) where name = 'lives_are_known_after'", [old]);
  await store.close();
  store = await open();
  await store.write(batchOf(samples(old as number, [endSlot - 1])));
  await store.compact(slotStart(endSlot) + 600_000);
  expect(alive(store, endSlot - 900, endSlot - 899)).toEqual(["old"]);
  await store.close();
  store = await open();
  expect(alive(store, endSlot - 900, endSlot - 899)).toEqual(["old"]);
  await store.close();
});

test("readings are what they are where nothing is left out: dense, seldom and broken series, levels and totals (seed 24)", async () => {
  const random = seeded(24);
  const store = await open();
  const ids = await store.series.resolve(
    Array.from({ length: 30 }, (_, i) => named(`c${i}`, i % 2 === 0 ? "level" : "total")),
  );
  const rows: (readonly [number, number, number])[] = [];
  for (const id of ids) {
    const everyMs = [60_000, 600_000, 3_600_000, 26_000_000][Math.floor(random() * 4)] as number;
    for (let part = 0; part < 2; part++) {
      const from = slotStart(endSlot - 100 + Math.floor(random() * 90)) + random() * slotMs;
      const until = Math.min(from + random() * 20 * slotMs, now);
      let value = Math.floor(random() * 100);
      for (let at = from; at < until; at += everyMs)
        rows.push([id, Math.floor(at), (value += Math.floor(random() * 9))]);
    }
  }
  await store.write(batchOf(rows.sort((a, b) => a[1] - b[1])));
  await store.maintain(slotStart(endSlot) + 600_000);
  await store.close();
  const [noting, all] = [await open(), await Store.open(db.database, { now: () => now })];
  // the same store in which every series may be there always
  all.seriesAlive = (counter) => all.series.ofCounter(counter);
  let shorter = 0;
  for (let i = 0; i < 60; i++) {
    const from = slotStart(endSlot - 100) + random() * 90 * slotMs;
    const to = from + (1 + (i % 3) ** 3) * slotMs * random() + 60_000;
    const counter = i % 2 === 0 ? "container.memory" : "container.io";
    for (const lines of ["each", "together"] as const) {
      const document = { window: { from, to }, points: 50, sentences: { x: { counter, lines } } };
      const [ours, theirs] = [await answerReading(noting, document), await answerReading(all, document)];
      expect(ours.lines).toEqual(theirs.lines);
    }
    if (noting.seriesAlive(counter, from, to).length < 15) shorter++;
  }
  expect(shorter).toBeGreaterThan(20);
  await Promise.all([noting.close(), all.close()]);
});
