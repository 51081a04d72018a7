import { afterAll, beforeAll, expect, test } from "vitest";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { insertSource, markRemoved, purgeRemoved } from "./source-rows.ts";
import { forgetSpells, lastHeard } from "./spell-rows.ts";
import { Spells } from "./spells.ts";

let db: TestDatabase;
let id: number;
const everyMs = 5000;
beforeAll(async () => {
  db = await testDatabase();
  id = (
    await insertSource(db.database, "push", {
      name: "gate",
      machine: "gate",
      intervalMs: everyMs,
      tellsSilence: true,
      address: null,
      trust: { kind: "system" },
      device: null,
      tags: {},
      take: [],
      csv: null,
    })
  ).id;
});
afterAll(() => db.drop());

const shapes = async (spells: Spells, from = 0, to = 1e12) =>
  (await spells.list(id, from, to)).map(({ fromMs, untilMs, outcome }) => [fromMs, untilMs, outcome]);

test("answers that follow one another are one spell; another outcome, or a long gap, begins the next", async () => {
  const spells = new Spells(db.database);
  for (const ms of [0, 5000, 10_000]) spells.note(id, everyMs, ms, "ok", "");
  spells.note(id, everyMs, 15_000, "wrong path", "nothing there (404)");
  spells.note(id, everyMs, 20_000, "wrong path", "nothing there (404)");
  spells.note(id, everyMs, 25_000, "no answer", "silence");
  spells.note(id, everyMs, 30_000, "ok", "");
  spells.note(id, everyMs, 90_000, "ok", ""); // nobody was there to ask for a minute: a gap is a gap
  const expected = [
    [0, 10_000, "ok"],
    [15_000, 20_000, "wrong path"],
    [25_000, 25_000, "no answer"],
    [30_000, 30_000, "ok"],
    [90_000, 90_000, "ok"],
  ];
  await expect.poll(() => shapes(spells)).toEqual(expected);
  await spells.flush();
  expect(await shapes(new Spells(db.database))).toEqual(expected); // the same after a restart
  expect(await lastHeard(db.database)).toEqual(new Map([[id, 90_000]]));
});
test("what goes on shows as far as it has come, before it is written", async () => {
  const spells = new Spells(db.database);
  spells.note(id, everyMs, 200_000, "ok", "");
  await expect.poll(() => shapes(new Spells(db.database), 150_000)).toEqual([[200_000, 200_000, "ok"]]);
  spells.note(id, everyMs, 205_000, "ok", "");
  expect(await shapes(spells, 150_000)).toEqual([[200_000, 205_000, "ok"]]);
  expect(await shapes(spells, 150_000, 200_000)).toEqual([]); // half-open: it begins at the window's end
});
test("of a window only what touches it is listed", async () => {
  const spells = new Spells(db.database);
  expect(await shapes(spells, 16_000, 26_000)).toEqual([
    [15_000, 20_000, "wrong path"],
    [25_000, 25_000, "no answer"],
  ]);
});
test("what is older than anything that is kept is forgotten", async () => {
  await forgetSpells(db.database, 26_000);
  expect(await shapes(new Spells(db.database), 0, 100_000)).toEqual([
    [30_000, 30_000, "ok"],
    [90_000, 90_000, "ok"],
  ]);
});
test("a source that was removed keeps its spells for a week, then they go with it", async () => {
  const spells = new Spells(db.database);
  expect(await markRemoved(db.database, id, true)).toBe(true);
  expect(await markRemoved(db.database, id, true)).toBe(false);
  await purgeRemoved(db.database);
  expect((await shapes(spells)).length).toBe(3);
  await db.database.query("update source set removed_at = now() - interval '8 days' where id = $1", [id]);
  await purgeRemoved(db.database);
  expect(await shapes(spells)).toEqual([]);
  spells.note(id, everyMs, 300_000, "ok", ""); // one that still runs somewhere leaves nothing behind
  await spells.flush();
  expect((await db.database.query("select from source_spell")).rowCount).toBe(0);
});
