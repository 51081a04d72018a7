import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { batchOf } from "../../core/series/batch.ts";
import { seeded } from "../../core/testing/random.ts";
import { createOwner } from "../people/account-rows.ts";
import { Store } from "../store/store.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { listIncidents } from "./incident-rows.ts";
import { type RuleDocument, watchedValue } from "../../core/rules/rule.ts";
import { InlineExecutor } from "../work/executor.ts";
import { worked } from "../work/work-kind.ts";
import { rehearsePast, rehearsePastKind } from "./rehearse-past.ts";
import { Rehearser } from "./rehearser.ts";
import { MachineNames } from "../machines/machine-names.ts";
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
  const ids = await store.series.resolve(
    machines.map((machine) => ({
      counter: "system.cpu.load_average",
      tags: { machine },
      unit: "1",
      kind: "level" as const,
    })),
  );
  await Promise.all([
    store.write(
      batchOf(machines.map((machine, i) => [ids[i] as number, start + step * 5000, values[machine] as number])),
    ),
    store.flush(),
  ]);
  await checker.check(start + step * 5000 + 700);
}
const usual: RuleDocument = {
  name: "load",
  reading: { sentences: { load: { counter: "system.cpu.load_average" } }, unit: "1" },
  watch: watchedValue,
  compare: "above",
  notice: null,
  urgent: { high: 4 },
  everySeconds: 0,
  mustLastSeconds: 0,
  staysRaisedSeconds: 0,
  noData: "hold",
  marginSeconds: null,
  place: null,
  advice: "",
};
const rule = async (more: Partial<RuleDocument> = {}) => {
  const made = await insertRule(db.database, { ...usual, ...more }, 1);
  checker.forget();
  return made;
};
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
    {
      tags: { machine: "hive" },
      value: 5,
      furthest: 9,
      limit: 4,
      severity: "urgent",
      raisedAtMs: start + 15_000,
      clearedAtMs: start + 30_000,
    },
  ]);
});

test("a restart goes on: raised stays raised without a second incident, building goes on counting", async () => {
  await rule();
  await rule({ name: "slow", urgent: { high: 3 }, mustLastSeconds: 12 });
  for (const step of [0, 1]) await at(step, { hive: 1 });
  await at(2, { hive: 5 });
  checker = await RuleChecker.open(db.database, store, (one) => news.push(one));
  await at(3, { hive: 5 });
  await at(4, { hive: 5 });
  expect(told()).toEqual(["raised hive 5"]);
  await at(5, { hive: 5 });
  expect(news.map(({ incident }) => incident.ruleName)).toEqual(["load", "slow"]);
  await at(6, { hive: 1 });
  expect(news.slice(2).map(({ kind, incident }) => `${kind} ${incident.ruleName}`)).toEqual([
    "cleared load",
    "cleared slow",
  ]);
});

test("a machine that falls silent is blind, its incident stays open, and it clears only on a new reading", async () => {
  const { id } = await rule();
  for (const step of [0, 1, 2]) await at(step, { hive: 5 });
  await checker.check(start + 2 * 5000 + 31_000);
  expect(checker.stateOf(id)).toMatchObject({ mode: "blind", value: null });
  await checker.check(start + 3_600_000);
  expect(checker.stateOf(id)).toMatchObject({ mode: "blind" });
  expect(told()).toEqual(["raised hive 5"]);
  for (const step of [800, 801]) await at(step, { hive: 1 });
  expect(told()).toEqual(["raised hive 5", "cleared hive 5"]);
});

test("what cannot be stored is checked again from where it stood: nothing is told twice, nothing stays open", async () => {
  const { id } = await rule();
  for (const step of [0, 1]) await at(step, { hive: 5 });
  await db.database.query("alter table rule_line rename to rule_line_away");
  await at(2, { hive: 1, vault: 6 });
  expect(checker.stateOf(id)?.failure).toContain("rule_line");
  expect(told()).toEqual(["raised hive 5"]);
  await db.database.query("alter table rule_line_away rename to rule_line");
  await at(3, { hive: 1, vault: 6 });
  expect(told().toSorted()).toEqual(["cleared hive 5", "raised hive 5", "raised vault 6"]);
  expect(
    (await listIncidents(db.database, start, start + 60_000, 10)).map(({ tags, clearedAtMs }) => [
      tags["machine"],
      clearedAtMs !== null,
    ]),
  ).toEqual([
    ["vault", false],
    ["hive", true],
  ]);
});

test("a machine that was removed leaves nothing raised and no line; one that is only silent stays", async () => {
  const gone = new Set<string>();
  checker = await RuleChecker.open(db.database, store, (one) => news.push(one), undefined, {
    isGone: (machine) => gone.has(machine),
  });
  const { id } = await rule();
  for (const step of [0, 1, 2]) await at(step, { hive: 5, vault: 5 });
  gone.add("hive");
  await checker.check(start + 3_600_000);
  expect(told()).toEqual(["raised hive 5", "raised vault 5", "cleared hive 5"]);
  expect(checker.stateOf(id)).toMatchObject({ mode: "blind", lines: 1 });
  expect((await db.database.query("select tags->>'machine' as machine from rule_line")).rows).toEqual([
    { machine: "vault" },
  ]);
  // Brought back it begins anew.
  gone.clear();
  for (const step of [800, 801]) await at(step, { hive: 6, vault: 1 });
  expect(told().slice(3)).toEqual(["raised hive 6", "cleared vault 5"]);
});

test("a sample that comes late, but before its step is over, is looked at; one from before what was checked changes nothing", async () => {
  await rule();
  for (const step of [0, 1, 2]) await at(step, { hive: 1 });
  const [hive] = await store.series.resolve([
    { counter: "system.cpu.load_average", tags: { machine: "hive" }, unit: "1", kind: "level" as const },
  ]);
  await checker.check(start + 3 * 5000 + 700); // nothing there yet
  await store.write(batchOf([[hive as number, start + 3 * 5000, 5]]));
  await checker.check(start + 3 * 5000 + 3700, true);
  expect(told()).toEqual(["raised hive 5"]);
  await at(4, { hive: 1 });
  await store.write(batchOf([[hive as number, start + 1000, 9]]));
  await checker.check(start + 4 * 5000 + 1700);
  await at(5, { hive: 1 });
  expect(told()).toEqual(["raised hive 5", "cleared hive 5"]);
});

test("a rule that cannot be worked out says why and leaves the others alone", async () => {
  const broken = await rule({
    name: "broken",
    reading: { sentences: { load: { counter: "system.cpu.load_average" } }, figure: "load +" },
  });
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
  expect(
    (await listIncidents(db.database, start, start + 1e6, 10)).every(
      ({ clearedAtMs }) => clearedAtMs === start + 60_000,
    ),
  ).toBe(true);
  expect(await checker.switch(second.id, true, start)).toBeUndefined();
});

test("a rule that is switched off or removed while it is being checked leaves nothing open", async () => {
  const first = await rule({ name: "switched" });
  const second = await rule({ name: "removed" });
  const ids = await store.series.resolve([
    { counter: "system.cpu.load_average", tags: { machine: "hive" }, unit: "1", kind: "level" },
  ]);
  await store.write(batchOf([0, 1, 2].map((step) => [ids[0] as number, start + step * 5000, 9] as const)));
  const now = start + 10_700;
  await Promise.all([
    checker.check(now),
    checker.switch(first.id, false, now),
    checker.remove(second.id, now),
    checker.check(now + 1),
  ]);
  expect(
    (await listIncidents(db.database, start, now + 1000, 10)).filter(({ clearedAtMs }) => clearedAtMs === null),
  ).toEqual([]);
  expect((await db.database.query("select 1 from rule_line")).rowCount).toBe(0);
  expect(checker.stateOf(second.id)).toBeUndefined();
});

test("of two severities one incident is told: raised, urgent, a notice again, cleared", async () => {
  await rule({ notice: { high: 2, clearHigh: 1 }, urgent: { high: 4 } });
  for (const [step, value] of [1, 3, 5, 3, 2, 1].entries()) await at(step, { hive: value });
  expect(news.map(({ kind, incident }) => [kind, incident.severity])).toEqual([
    ["raised", "notice"],
    ["worsened", "urgent"],
    ["eased", "notice"],
    ["cleared", "notice"],
  ]);
  expect(new Set(news.map(({ incident }) => incident.id)).size).toBe(1);
  const { rows } = await db.database.query<{ kind: string }>("select kind from incident_entry order by at_ms, id");
  expect(rows.map(({ kind }) => kind)).toEqual(["raised", "worsened", "eased", "cleared"]);
});

test("a rule that is changed goes on where only its advice is other; under other words it begins anew: incidents keep the name and limit that they were raised by", async () => {
  const { id } = await rule();
  for (const step of [0, 1]) await at(step, { hive: 5 });
  await checker.change(id, { ...usual, advice: "Look at hive." }, "Bo", start + 6000);
  expect(told()).toEqual(["raised hive 5"]);
  await checker.change(id, { ...usual, name: "load of hive", urgent: { high: 3 } }, "Bo", start + 7000);
  expect(told()).toEqual(["raised hive 5", "cleared hive 5"]);
  await at(2, { hive: 3.5 });
  expect(news.map(({ kind, incident }) => [kind, incident.ruleName, incident.limit, incident.ended])).toEqual([
    ["raised", "load", 4, null],
    ["cleared", "load", 4, "rule"],
    ["raised", "load of hive", 3, null],
  ]);
  await checker.change(id, { ...usual, name: "load of hive", urgent: { high: 3.6 } }, "Bo", start + 11_000);
  await at(3, { hive: 3.5 });
  expect(told()).toEqual(["raised hive 5", "cleared hive 5", "raised hive 3.5", "cleared hive 3.5"]);
  await at(4, { hive: 9 });
  expect(
    (await checker.change(id, { ...usual, watch: { kind: "change", overSeconds: 60 } }, "Bo", start + 21_000))
      ?.changedBy,
  ).toBe("Bo");
  expect(told().slice(4)).toEqual(["raised hive 9", "cleared hive 9"]);
});

describe("a line that ends", () => {
  const reading = {
    sentences: {
      busy: {
        counter: "container.cpu.time",
        as: "value" as const,
        lines: { per: ["machine", "container"] },
        combine: "max" as const,
      },
    },
    unit: "1",
  };
  const store5 = async (step: number, containers: readonly string[]) => {
    const ids = await store.series.resolve(
      containers.map((container) => ({
        counter: "container.cpu.time",
        tags: { machine: "hive", container },
        unit: "1",
        kind: "level" as const,
      })),
    );
    await store.write(batchOf(ids.length === 0 ? [] : Array.from(ids, (id) => [id, start + step * 5000, 5] as const)));
  };
  const run = async (more: Partial<RuleDocument>, isHeard: boolean) => {
    checker = await RuleChecker.open(db.database, store, (one) => news.push(one), undefined, {
      isHeard: () => isHeard,
    });
    await rule({ reading, ...more });
    for (const step of [0, 1, 2]) {
      await store5(step, ["chat", "relay"]);
      await checker.check(start + step * 5000 + 700);
    }
    for (let step = 3; step < 40; step++) {
      await store5(step, ["relay"]);
      await checker.check(start + step * 5000 + 700);
    }
    return news.map(({ kind, incident }) => [kind, incident.tags["container"], incident.ended]);
  };
  test("is over where its machine goes on being heard, and its incident says that it ended", async () => {
    expect(await run({}, true)).toEqual([
      ["raised", "chat", null],
      ["raised", "relay", null],
      ["cleared", "chat", "gone"],
    ]);
    expect(news.at(-1)?.incident.clearedValue).toBeNull();
  });
  test("stays raised where its machine is silent as a whole: nothing is known", async () =>
    expect(await run({}, false)).toEqual([
      ["raised", "chat", null],
      ["raised", "relay", null],
    ]));
  test("stays raised where the rule says so", async () =>
    expect(await run({ whenGone: "no data" }, true)).toEqual([
      ["raised", "chat", null],
      ["raised", "relay", null],
    ]));
});

test("what clears tells the value at which it did", async () => {
  await rule();
  for (const step of [0, 1]) await at(step, { hive: 5 });
  for (const step of [2, 3]) await at(step, { hive: 1.25 });
  expect(news.map(({ kind, incident }) => [kind, incident.clearedValue, incident.ended])).toEqual([
    ["raised", null, null],
    ["cleared", 1.25, null],
  ]);
});

test("an incident that is closed by hand is not opened again before its limit has been left", async () => {
  await rule();
  for (const step of [0, 1]) await at(step, { hive: 5 });
  const [{ incident } = { incident: undefined }] = news;
  expect((await checker.closeOne(incident?.id ?? 0, "Ines", start + 7000))?.closedBy).toBe("Ines");
  await at(2, { hive: 6 });
  await at(3, { hive: 1 });
  await at(4, { hive: 7 });
  expect(told()).toEqual(["raised hive 5", "cleared hive 5", "raised hive 7"]);
});

test("no data raises where the rule says so, with no value; and is ignored where it says that", async () => {
  await rule({ name: "raises", noData: "raise" });
  const ignoring = await rule({ name: "ignores", noData: "ignore" });
  for (const step of [0, 1, 2]) await at(step, { hive: 1 });
  await checker.check(start + 60_000);
  await checker.check(start + 65_000);
  expect(news.map(({ kind, incident }) => [kind, incident.ruleName, incident.value])).toEqual([
    ["raised", "raises", null],
  ]);
  expect(checker.stateOf(ignoring.id)).toMatchObject({ mode: "quiet" });
});

test("silence is told after as long as it may last, and ends with the next value", async () => {
  await rule({ name: "quiet", watch: { kind: "silence" }, urgent: { high: 60 } });
  for (const step of [0, 1, 2]) await at(step, { hive: 1 });
  for (let second = 15; second <= 90; second += 5) await checker.check(start + 10_000 + second * 1000 + 700);
  expect(news.map(({ kind, incident }) => [kind, incident.watch, (incident.value ?? 0) > 60, incident.unit])).toEqual([
    ["raised", "silence", true, "s"],
  ]);
  for (const step of [25, 26, 27]) await at(step, { hive: 1 });
  expect(news.at(-1)?.kind).toBe("cleared");
});

test("a rule that fails again and again is an incident itself, and closes when it works", async () => {
  const { id } = await rule({ name: "broken", reading: { ...usual.reading, figure: "load +" } });
  for (const step of [0, 1, 2, 3]) await at(step, { hive: 1 });
  expect(news.map(({ kind, incident }) => [kind, incident.compare, incident.ruleName])).toEqual([
    ["raised", "failed", "broken"],
  ]);
  expect(checker.stats(start + 20_000).failing).toBe(1);
  await checker.change(id, usual, "Ines", start + 20_000);
  expect(news.at(-1)?.kind).toBe("cleared");
});

test("what was told of a rule that could not be checked ends when it can be again, after a restart as well", async () => {
  await rule();
  await at(0, { hive: 1 });
  await db.database.query("alter table rule_line rename to rule_line_away");
  for (const step of [1, 2, 3]) await at(step, { hive: 5 });
  await db.database.query("alter table rule_line_away rename to rule_line");
  checker = await RuleChecker.open(db.database, store, (one) => news.push(one));
  for (const step of [4, 5]) await at(step, { hive: 5 });
  expect(news.map(({ kind, incident }) => `${kind} ${incident.compare}`)).toEqual([
    "raised failed",
    "raised above",
    "cleared failed",
  ]);
  expect(checker.stats(start + 30_000).failing).toBe(0);
});

test("a rehearsal over the same samples raises and clears at the same moments as live checks, sample for sample, for every way of watching", async () => {
  const documents: readonly RuleDocument[] = [
    { ...usual, name: "value", notice: { high: 5, clearHigh: 4 }, urgent: { high: 8 } },
    { ...usual, name: "lasting", urgent: { high: 5 }, mustLastSeconds: 20, staysRaisedSeconds: 15 },
    { ...usual, name: "mean", watch: { kind: "value", of: "mean", overSeconds: 60 }, urgent: { high: 5 } },
    { ...usual, name: "change", watch: { kind: "change", overSeconds: 30 }, urgent: { high: 3 } },
    { ...usual, name: "seldom", urgent: { high: 5 }, everySeconds: 20 },
    { ...usual, name: "below", compare: "below", urgent: { low: 3 }, noData: "raise" },
  ];
  for (const document of documents) await rule(document);
  let seed = 7;
  const random = () => (seed = (seed * 48_271) % 2_147_483_647) / 2_147_483_647;
  const steps = 150;
  for (let step = 0; step < steps; step++) {
    if (step % 40 > 34)
      await checker.check(start + step * 5000 + 700); // a gap of five steps
    else await at(step, { hive: 5 + 4 * Math.sin(step / 6) + 2 * random(), vault: 10 * random() });
  }
  const rehearser = new Rehearser(
    store,
    await MachineNames.open(db.database),
    new InlineExecutor(db.database, [worked(rehearsePastKind, (_place, given) => rehearsePast(given))]),
  );
  for (const document of documents) {
    const live = (await listIncidents(db.database, 0, start + 1e9, 1000))
      .filter(({ ruleName }) => ruleName === document.name)
      .map(
        ({ tags, raisedAtMs, clearedAtMs, severity }) =>
          `${tags["machine"]} ${raisedAtMs - start} ${clearedAtMs === null ? "" : clearedAtMs - start} ${severity === "urgent" || clearedAtMs === null ? "" : severity}`,
      );
    const { incidents, lines } = await rehearser.rehearse(
      document,
      start - 5000,
      start + (steps - 1) * 5000 + 700,
      "UTC",
      () => {},
    );
    const rehearsed = incidents.map(
      ({ line, raisedAtMs, clearedAtMs }) =>
        `${lines[line]?.tags["machine"]} ${raisedAtMs - start} ${clearedAtMs === null ? "" : clearedAtMs - start}`,
    );
    expect(live.length, document.name).toBeGreaterThan(2);
    expect(rehearsed.sort(), document.name).toEqual(live.map((one) => one.split(" ").slice(0, 3).join(" ")).sort());
  }
});

describe("a rule on a sum of members that report at their own times", () => {
  interface Member {
    readonly machine: string;
    readonly everyMs: number;
    readonly offsetMs: number;
    /** How much later than its time a sample arrives. */
    readonly delayMs: () => number;
    readonly value: (atMs: number) => number;
  }
  /** Has samples arrive and the rule checked, in the order of time, every second; answers what was told. */
  async function live(document: RuleDocument, members: readonly Member[], seconds: number): Promise<readonly string[]> {
    const ids = await store.series.resolve(
      members.map(({ machine }) => ({
        counter: "system.cpu.load_average",
        tags: { machine },
        unit: "1",
        kind: "level" as const,
      })),
    );
    // As a source says how often it means to send.
    for (const [i, id] of ids.entries()) store.expect(id, { intervalMs: (members[i] as Member).everyMs, lateMs: 0 });
    await rule(document);
    const arrivals = members.flatMap(({ everyMs, offsetMs, delayMs, value }, i) =>
      Array.from(
        { length: Math.floor((seconds * 1000 - offsetMs) / everyMs) },
        (_, k) => start + offsetMs + k * everyMs,
      ).map((atMs) => ({ atMs, arrivesMs: atMs + delayMs(), id: ids[i] as number, value: value(atMs) })),
    );
    arrivals.sort((a, b) => a.arrivesMs - b.arrivesMs || a.atMs - b.atMs);
    let next = 0;
    for (let at = start; at <= start + seconds * 1000 + 200_000; at += 1000) {
      const come = [];
      for (; next < arrivals.length && (arrivals[next] as (typeof arrivals)[0]).arrivesMs <= at; next++)
        come.push(arrivals[next] as (typeof arrivals)[0]);
      if (come.length > 0)
        await Promise.all([
          store.write(batchOf(come.map(({ id, atMs, value }) => [id, atMs, value] as const))),
          store.flush(),
        ]);
      // Lines of one member each would be new one after the other; the sum is asked for once all are there.
      if (at >= start + warmMs) await checker.check(at);
    }
    return spellsOf(await listIncidents(db.database, 0, start + 1e9, 1000), seconds);
  }
  async function rehearsed(document: RuleDocument, seconds: number): Promise<readonly string[]> {
    const rehearser = new Rehearser(
      store,
      await MachineNames.open(db.database),
      new InlineExecutor(db.database, [worked(rehearsePastKind, (_place, given) => rehearsePast(given))]),
    );
    const { incidents } = await rehearser.rehearse(document, start + warmMs, start + seconds * 1000, "UTC", () => {});
    return spellsOf(incidents, seconds);
  }
  const warmMs = 60_000;
  /** What was raised and cleared until then; what is raised at the beginning has its first moment. */
  const spellsOf = (
    all: readonly { readonly raisedAtMs: number; readonly clearedAtMs: number | null }[],
    seconds: number,
  ) =>
    all
      .filter(
        ({ raisedAtMs, clearedAtMs }) =>
          raisedAtMs <= start + (seconds - 60) * 1000 && (clearedAtMs ?? start + 1e9) > start + warmMs + 30_000,
      )
      .map(
        ({ raisedAtMs, clearedAtMs }) =>
          `${Math.max(raisedAtMs - start, warmMs + 30_000)} ${clearedAtMs === null || clearedAtMs > start + (seconds - 60) * 1000 ? "" : clearedAtMs - start}`,
      )
      .sort();
  const sumBelow = (low: number): RuleDocument => ({
    ...usual,
    reading: {
      sentences: { load: { counter: "system.cpu.load_average", lines: "together", combine: "sum" } },
      unit: "1",
    },
    compare: "below",
    urgent: { low },
  });
  const steady = (machine: string, everyMs: number, offsetMs: number, level: number): Member => ({
    machine,
    everyMs,
    offsetMs,
    delayMs: () => 0,
    value: () => level,
  });

  test("two levels of 100 at +0.3 s and +1.8 s of every 15 s never are below 150, and neither in a rehearsal", async () => {
    const document = sumBelow(150);
    expect(await live(document, [steady("a", 15_000, 300, 100), steady("b", 15_000, 1800, 100)], 150)).toEqual([]);
    expect(await rehearsed(document, 150)).toEqual([]);
  });
  test("members of 5 s and of 60 s: 150 stays 150 between the slow one's samples", async () => {
    const document = sumBelow(120);
    expect(await live(document, [steady("a", 5000, 700, 50), steady("b", 60_000, 2300, 100)], 200)).toEqual([]);
    expect(await rehearsed(document, 200)).toEqual([]);
  });
  test.each([1, 2, 3, 4])(
    "live equals rehearsal, with random offsets, intervals and delays of the members (seed %d)",
    async (seed) => {
      const random = seeded(seed);
      const members = Array.from({ length: 2 + Math.floor(random() * 3) }, (_, i): Member => {
        const everyMs = [5000, 10_000, 15_000, 20_000][Math.floor(random() * 4)] as number;
        const [phase, period, delay] = [random() * 6, 40_000 + random() * 60_000, Math.floor(random() * 1.5 * everyMs)];
        return {
          machine: `m${i}`,
          everyMs,
          offsetMs: Math.floor(random() * everyMs),
          delayMs: () => delay,
          value: (atMs) => 50 + 40 * Math.sin(phase + (2 * Math.PI * (atMs - start)) / period),
        };
      });
      const document = { ...sumBelow(50 * members.length - 10), mustLastSeconds: seed % 2 === 0 ? 0 : 10 };
      const found = await live(document, members, 400);
      expect(found.length).toBeGreaterThan(0);
      expect(await rehearsed(document, 400)).toEqual(found);
    },
    90_000,
  );
});

test("a sender whose clock is a minute behind is alerted on, a minute late and at its own times; silence is told of what is silent only", async () => {
  await rule();
  await rule({ name: "silent", watch: { kind: "silence" }, urgent: { high: 20 } });
  const [id] = await store.series.resolve([
    { counter: "system.cpu.load_average", tags: { machine: "hive" }, unit: "1", kind: "level" as const },
  ]);
  store.expect(id as number, { intervalMs: 5000, lateMs: 61_000 });
  for (let step = 0; step < 60; step++) {
    const atMs = start + step * 5000;
    await Promise.all([
      store.write(batchOf([[id as number, atMs - 60_000, step >= 20 && step < 30 ? 9 : 1]])),
      store.flush(),
    ]);
    await checker.check(atMs + 700);
  }
  expect(told()).toEqual(["raised hive 9", "cleared hive 9"]);
  expect(news[0]?.incident.raisedAtMs).toBe(start + 20 * 5000 - 60_000);
});

test("a clock that was set back by an hour blinds no rule", async () => {
  await rule({ mustLastSeconds: 10 });
  for (const step of [720, 721, 722]) await at(step, { hive: 1 });
  checker.rebase(start);
  for (const step of [0, 1]) await at(step, { hive: 1 });
  for (const step of [2, 3, 4, 5]) await at(step, { hive: 9 });
  expect(told()).toEqual(["raised hive 9"]);
  expect(news[0]?.incident.raisedAtMs).toBe(start + 4 * 5000);
});
