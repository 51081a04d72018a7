import { afterEach, beforeEach, expect, test } from "vitest";
import { batchOf } from "../../core/series/batch.ts";
import { createOwner } from "../people/accounts.ts";
import { Store } from "../store/store.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { listIncidents } from "./incident-rows.ts";
import { RuleChecker, type RuleNews } from "./rule-checker.ts";
import { insertRule } from "./rule-rows.ts";

const start = 1_795_000_000_000;
let db: TestDatabase;
let store: Store;
let news: RuleNews[];
let checker: RuleChecker;

beforeEach(async () => {
  db = await testDatabase();
  store = await Store.open(db.database);
  news = [];
  checker = await RuleChecker.open(db.database, store, (one) => news.push(one));
  await createOwner(db.database, "Ines", "-");
});
afterEach(async () => {
  await store.close();
  await db.drop();
});

/** Stores one value a machine at a moment (in steps of 5 s), then checks right after it. */
async function at(step: number, values: Record<string, number>): Promise<void> {
  const machines = Object.keys(values);
  const ids = await store.series.resolve(machines.map((machine) => ({ counter: "system.cpu.load_average", tags: { machine }, unit: "1", kind: "level" as const })));
  await store.write(batchOf(machines.map((machine, i) => [ids[i] as number, start + step * 5000, values[machine] as number])));
  await checker.check(start + step * 5000 + 700);
}
const rule = (more: object = {}) =>
  insertRule(db.database, { name: "load", reading: { sentences: { load: { counter: "system.cpu.load_average" } }, unit: "1" }, compare: "above", limit: 4, mustLastSeconds: 0, staysRaisedSeconds: 0, severity: "urgent", ...more }, 1);
const told = () => news.map(({ kind, incident }) => `${kind} ${incident.tags["machine"]} ${incident.value}`);

test("each machine has its own state; value, furthest and times are kept", async () => {
  const { id } = await rule();
  for (const step of [0, 1, 2]) await at(step, { hive: 1, vault: 2 });
  await at(3, { hive: 5, vault: 2 });
  await at(4, { hive: 9, vault: 2 });
  expect(checker.stateOf(id)).toMatchObject({ mode: "raised", value: 9, lines: 2 });
  await at(5, { hive: 6, vault: 7 });
  await at(6, { hive: 4, vault: 7 });
  expect(told()).toEqual(["raised hive 5", "raised vault 7", "cleared hive 5"]);
  const incidents = await listIncidents(db.database, start, start + 60_000, 10);
  expect(incidents).toMatchObject([
    { tags: { machine: "vault" }, value: 7, furthest: 7, clearedAtMs: null },
    { tags: { machine: "hive" }, value: 5, furthest: 9, limit: 4, severity: "urgent", raisedAtMs: start + 15_700, clearedAtMs: start + 30_700 },
  ]);
});

test("a restart goes on: raised stays raised without a second incident, building goes on counting", async () => {
  await rule();
  await rule({ name: "slow", limit: 3, mustLastSeconds: 12 });
  for (const step of [0, 1]) await at(step, { hive: 1 });
  await at(2, { hive: 5 });
  checker = await RuleChecker.open(db.database, store, (one) => news.push(one));
  await at(3, { hive: 5 });
  await at(4, { hive: 5 });
  expect(told()).toEqual(["raised hive 5"]);
  await at(5, { hive: 5 });
  expect(news.map(({ incident }) => incident.ruleName)).toEqual(["load", "slow"]);
  await at(6, { hive: 1 });
  expect(news.slice(2).map(({ kind, incident }) => `${kind} ${incident.ruleName}`)).toEqual(["cleared load", "cleared slow"]);
});

test("a machine that falls silent is blind, its incident stays open, and it clears only on a new reading", async () => {
  const { id } = await rule();
  for (const step of [0, 1, 2]) await at(step, { hive: 5 });
  await checker.check(start + 2 * 5000 + 21_000);
  expect(checker.stateOf(id)).toMatchObject({ mode: "blind", value: null });
  await checker.check(start + 3_600_000);
  expect(checker.stateOf(id)).toMatchObject({ mode: "blind" });
  expect(told()).toEqual(["raised hive 5"]);
  for (const step of [800, 801]) await at(step, { hive: 1 });
  expect(told()).toEqual(["raised hive 5", "cleared hive 5"]);
});

test("a rule that cannot be worked out says why and leaves the others alone", async () => {
  const broken = await rule({ name: "broken", reading: { sentences: { load: { counter: "system.cpu.load_average" } }, figure: "load +" } });
  await rule();
  for (const step of [0, 1]) await at(step, { hive: 5 });
  expect(checker.stateOf(broken.id)?.failure).toContain('"load +" cannot be read');
  expect(told()).toEqual(["raised hive 5"]);
});

test("switching off and removing close what is open", async () => {
  const first = await rule();
  const second = await rule({ name: "again" });
  for (const step of [0, 1]) await at(step, { hive: 5 });
  await checker.switch(first.id, false, start + 60_000);
  await checker.remove(second.id, start + 60_000);
  expect(told()).toEqual(["raised hive 5", "raised hive 5", "cleared hive 5", "cleared hive 5"]);
  await at(2, { hive: 5 });
  expect(news).toHaveLength(4);
  expect((await listIncidents(db.database, start, start + 1e6, 10)).every(({ clearedAtMs }) => clearedAtMs === start + 60_000)).toBe(true);
  expect(await checker.switch(second.id, true, start)).toBeUndefined();
});

test("a rule that is switched off or removed while it is being checked leaves nothing open", async () => {
  const first = await rule({ name: "switched" });
  const second = await rule({ name: "removed" });
  const ids = await store.series.resolve([{ counter: "system.cpu.load_average", tags: { machine: "hive" }, unit: "1", kind: "level" }]);
  await store.write(batchOf([0, 1, 2].map((step) => [ids[0] as number, start + step * 5000, 9] as const)));
  const now = start + 10_700;
  await Promise.all([checker.check(now), checker.switch(first.id, false, now), checker.remove(second.id, now), checker.check(now + 1)]);
  expect((await listIncidents(db.database, start, now + 1000, 10)).filter(({ clearedAtMs }) => clearedAtMs === null)).toEqual([]);
  expect((await db.database.query("select 1 from rule_line")).rowCount).toBe(0);
  expect(checker.stateOf(second.id)).toBeUndefined();
});
