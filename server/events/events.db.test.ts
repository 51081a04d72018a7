import { afterAll, beforeAll, beforeEach, describe, expect, test } from "vitest";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import {
  eventsOfWindow,
  forgetEvents,
  insertEvent,
  insertEvents,
  listEvents,
  type NewEvent,
  removeEvent,
} from "./event-rows.ts";

let db: TestDatabase;
beforeAll(async () => {
  db = await testDatabase();
});
afterAll(() => db.drop());
beforeEach(async () => {
  await db.database.query("delete from event");
});

/** A step of PostgreSQL's plan, as `explain (analyze, format json)` tells it. */
interface PlanNode {
  readonly "Actual Rows": number;
  readonly "Actual Loops": number;
  readonly "Rows Removed by Filter"?: number;
  readonly "Rows Removed by Index Recheck"?: number;
  readonly Plans?: readonly PlanNode[];
}
const rowsLookedAt = (node: PlanNode): number =>
  node["Actual Loops"] * (node["Actual Rows"] + (node["Rows Removed by Filter"] ?? 0)) +
  (node["Rows Removed by Index Recheck"] ?? 0) +
  (node.Plans ?? []).reduce((sum, part) => sum + rowsLookedAt(part), 0);

const event = (fromMs: number, toMs = fromMs, more: Partial<NewEvent> = {}): NewEvent => ({
  fromMs,
  toMs,
  kind: "note",
  machine: "vault",
  text: `at ${fromMs}`,
  tags: {},
  ...more,
});
const found = async (from: number, to: number, machine?: string) =>
  (await listEvents(db.database, from, to, machine)).map(({ text }) => text);

test("those that ended before what is kept are forgotten", async () => {
  await insertEvents(db.database, [event(50, 99), event(50, 100), event(200)]);
  await forgetEvents(db.database, 100);
  expect(await found(0, 1000)).toEqual(["at 50", "at 200"]);
});
test("of a window cost nothing of those before it", async () => {
  await db.database.query(
    `insert into event (from_ms, to_ms, kind, machine, text, tags)
     select i, i + 5, 'note', 'vault', 'x', '{}' from generate_series(1, 100000) as i`,
  );
  await db.database.query("analyze event");
  const { rows } = await db.database.query<{ "QUERY PLAN": readonly [{ readonly Plan: PlanNode }] }>(
    `explain (analyze, format json) ${eventsOfWindow}`,
    [100_004, 200_000, null, 2000, null],
  );
  expect(rowsLookedAt((rows[0] as (typeof rows)[0])["QUERY PLAN"][0].Plan)).toBeLessThan(100);
});

describe("events", () => {
  test.each([
    ["a moment inside", 150, 150, true],
    ["one that began before and ends inside", 50, 150, true],
    ["one that lasts beyond both ends", 50, 500, true],
    ["one that ends as the window begins", 50, 100, true],
    ["a moment as the window begins", 100, 100, true],
    ["one that begins as the window ends", 200, 300, false],
    ["one before", 50, 99, false],
    ["one after", 201, 300, false],
  ])("of the window [100, 200): %s", async (_, from, to, isIn) => {
    await insertEvents(db.database, [event(from, to)]);
    expect(await found(100, 200)).toEqual(isIn ? [`at ${from}`] : []);
  });
  test("stand in order of their beginning, whatever order they came in; of one machine alone where that is asked", async () => {
    await insertEvents(db.database, [event(30), event(10, 99), event(20, 20, { machine: "hive" })]);
    expect(await found(0, 100)).toEqual(["at 10", "at 20", "at 30"]);
    expect(await found(0, 100, "hive")).toEqual(["at 20"]);
  });
  test("of very many the newest are listed", async () => {
    await insertEvents(
      db.database,
      Array.from({ length: 2100 }, (_, i) => event(i)),
    );
    const listed = await found(0, 10_000);
    expect([listed.length, listed[0], listed.at(-1)]).toEqual([2000, "at 100", "at 2099"]);
  });
  test("are given back as they were, with their number; parts of a millisecond are dropped", async () => {
    const made = await insertEvent(
      db.database,
      event(1_795_000_000_000.7, 1_795_000_001_000.2, { tags: { by: "Ines", site: 'the "rack"' } }),
    );
    expect(made).toEqual({
      id: expect.any(Number),
      fromMs: 1_795_000_000_000,
      toMs: 1_795_000_001_000,
      kind: "note",
      machine: "vault",
      text: expect.any(String),
      tags: { by: "Ines", site: 'the "rack"' },
    });
    expect(await listEvents(db.database, 0, 2e12)).toEqual([made]);
  });
  test("one is removed once, and given back so that it can be put back", async () => {
    const made = await insertEvent(db.database, event(5));
    expect(await removeEvent(db.database, made.id)).toEqual(made);
    expect(await removeEvent(db.database, made.id)).toBeUndefined();
    expect(await found(0, 10)).toEqual([]);
  });
  test("of a source that is not there any more it is stored without it; none at all is no question", async () => {
    await insertEvents(db.database, [event(1, 1, { sourceId: 424_242 })]);
    await insertEvents(db.database, []);
    expect(await found(0, 10)).toEqual(["at 1"]);
  });
  test("what a source tells again word for word is the event that is there; what differs, or a person notes, is another", async () => {
    const { rows } = await db.database.query<{ id: number }>(
      "insert into source (kind, name, machine, interval_ms) values ('push', 'lamp', 'lamp', 1000) returning id",
    );
    const sourceId = (rows[0] as { id: number }).id;
    const told = event(10, 10, { sourceId, tags: { container: "chat" } });
    for (let i = 0; i < 2; i++) await insertEvents(db.database, [told, event(11, 11, { sourceId })]);
    await insertEvents(db.database, [{ ...told, tags: { container: "web" } }]);
    expect(await found(0, 100)).toEqual(["at 10", "at 10", "at 11"]);
    for (let i = 0; i < 2; i++) await insertEvents(db.database, [event(50)]);
    expect(await found(50, 100)).toEqual(["at 50", "at 50"]);
  });
  test("an end before the beginning becomes a moment; a very long text is cut", async () => {
    await insertEvents(db.database, [event(100, 50, { text: "x".repeat(3000) })]);
    const [one] = await listEvents(db.database, 0, 200);
    expect([one?.fromMs, one?.toMs, one?.text.length]).toEqual([100, 100, 2000]);
  });
});
