import pino from "pino";
import { afterAll, beforeAll, beforeEach, describe, expect, test, vi } from "vitest";
import type { SourceSettings } from "../../core/sources/source.ts";
import { SecretBox } from "../sources/secret-box.ts";
import { Sources } from "../sources/sources.ts";
import { Store } from "../store/store.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { listIncidents } from "../rules/incident-rows.ts";
import type { RuleNews } from "../rules/rule-checker.ts";
import { SilenceWatch } from "./silence-watch.ts";

let db: TestDatabase;
let store: Store;
let sources: Sources;
let watch: SilenceWatch;
let told: RuleNews[];
let startMs: number;
const log = pino({ level: "silent" });
const pause = () => ({ by: "Ines", why: "new switch", sinceMs: startMs, untilMs: startMs + 600_000 });
const settings = (name: string, more: Partial<SourceSettings> = {}): SourceSettings => ({
  name,
  machine: name,
  intervalMs: 5000,
  tellsSilence: true,
  address: null,
  trust: { kind: "system" },
  device: null,
  tags: {},
  take: [],
  csv: null,
  ...more,
});
const open = async () => {
  sources = await Sources.open(db.database, store, SecretBox.open(undefined), log);
  told = [];
  watch = await SilenceWatch.open(db.database, sources, (news) => told.push(news));
};
const said = () => told.map(({ kind, incident }) => `${kind}: ${incident.ruleName}`);

beforeAll(async () => {
  db = await testDatabase();
  store = await Store.open(db.database);
});
beforeEach(async () => {
  await db.database.query("truncate source, incident cascade");
  startMs = Date.now();
  vi.useFakeTimers({ now: startMs, toFake: ["Date"] }); // the clock alone: the database answers in real time
  await open();
});
afterAll(async () => {
  vi.useRealTimers();
  await store.close();
  await db.drop();
});

/** The clock stands still but for this. */
const at = async (afterMs: number) => {
  vi.setSystemTime(startMs + afterMs);
  await watch.check(Date.now());
};

describe("a source that sends every 5 s (silent after three intervals and 2 s of grace)", () => {
  test("is an incident once it is silent, told once, and closed at the moment when it was heard", async () => {
    const run = await sources.create("push", settings("mast"));
    run.heard(startMs);
    await at(17_000);
    expect(said()).toEqual([]);
    await at(17_001);
    await at(30_000);
    expect(said()).toEqual(["raised: mast is silent"]);
    expect(told[0]?.incident).toMatchObject({
      compare: "silent",
      unit: "s",
      limit: 17,
      value: 17.001,
      severity: "notice",
      tags: { machine: "mast" },
    });
    run.heard(startMs + 40_000);
    await at(41_000);
    expect(said()).toEqual(["raised: mast is silent", "cleared: mast is silent"]);
    expect(told[1]?.incident).toMatchObject({ clearedAtMs: startMs + 40_000, furthest: 40 });
  });
  test("one that was never heard is waited for: nobody knows when its script is put to work", async () => {
    await sources.create("push", settings("desk"));
    await at(3_600_000);
    expect(said()).toEqual([]);
  });
  test.each([
    ["paused", (id: number) => sources.pause(id, pause())],
    ["not to be told of", (id: number) => sources.change(id, settings("gate", { tellsSilence: false }))],
  ])("one that is %s raises nothing, and closes what is open", async (_words, change) => {
    const run = await sources.create("push", settings("gate"));
    run.heard(startMs);
    await at(20_000);
    expect(said()).toEqual(["raised: gate is silent"]);
    await change(run.source.id);
    await at(25_000);
    await at(60_000);
    expect(said()).toEqual(["raised: gate is silent", "cleared: gate is silent"]);
  });
  test("resumed it is waited for anew", async () => {
    const run = await sources.create("push", settings("gate"));
    run.heard(startMs);
    await sources.pause(run.source.id, pause());
    vi.setSystemTime(startMs + 600_000);
    expect(await sources.endPauses(startMs + 599_999)).toBe(false);
    expect(await sources.endPauses(startMs + 600_000)).toBe(true); // by itself
    await at(610_000);
    expect(said()).toEqual([]);
    await at(618_000);
    expect(said()).toEqual(["raised: gate is silent"]);
  });
  test("a machine is gone once its last source was removed or has it under another name, after a restart as well; not before, not one that nobody knew", async () => {
    const [first, second] = [
      await sources.create("push", settings("gate")),
      await sources.create("push", settings("gate page", { machine: "gate" })),
    ];
    const gone = () => ["gate", "mast", "nobody"].filter((machine) => sources.isGone(machine));
    await sources.remove(first.source.id);
    expect(gone()).toEqual([]);
    await sources.change(second.source.id, settings("mast"));
    expect(gone()).toEqual(["gate"]);
    await sources.close();
    await open();
    expect(gone()).toEqual(["gate"]);
    await sources.bringBack(first.source.id);
    expect(gone()).toEqual([]);
  });
  test("removed it leaves no incident open", async () => {
    const run = await sources.create("push", settings("gate"));
    run.heard(startMs);
    await at(20_000);
    await sources.remove(run.source.id);
    await at(25_000);
    expect(said()).toEqual(["raised: gate is silent", "cleared: gate is silent"]);
  });
  test("a restart keeps the incident and raises no second one; it ends when the source is heard", async () => {
    (await sources.create("push", settings("mast"))).heard(startMs);
    await at(20_000);
    await sources.close();
    await open();
    await at(25_000);
    await at(60_000);
    expect(said()).toEqual([]);
    expect(await listIncidents(db.database, startMs, startMs + 90_000, 10)).toHaveLength(1);
    sources.all()[0]?.heard(startMs + 70_000);
    await at(71_000);
    expect(said()).toEqual(["cleared: mast is silent"]);
  });
  test("the server's own absence is nobody's silence", async () => {
    const run = await sources.create("push", settings("mast"));
    run.heard(startMs);
    await sources.close();
    vi.setSystemTime(startMs + 3_600_000);
    await open();
    await at(3_610_000);
    expect(said()).toEqual([]);
    await at(3_618_000);
    expect(said()).toEqual(["raised: mast is silent"]);
  });
});
