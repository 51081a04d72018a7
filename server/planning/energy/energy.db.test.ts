import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { EnergyBody, PlanningSettings } from "../../../core/api/energy.ts";
import { batchOf } from "../../../core/series/batch.ts";
import { seeded } from "../../../core/testing/random.ts";
import type { Tariff } from "../../../core/tariffs/tariff.ts";
import { MachineNames } from "../../machines/machine-names.ts";
import { Store } from "../../store/store.ts";
import { type TestDatabase, testDatabase } from "../../testing/test-database.ts";
import { energyView } from "./energy-view.ts";

// November 2026 up to the 25th, midnight in Berlin. hive draws 80 W by night and 200 W by day (07 to 19), read at random
// times about every minute; its controller's energy counter grows as much, read every ten minutes. vault draws 149 W and
// was silent for six hours on the 24th. The ups measures both. desk has no meter. playout has its processor's counter.
const hour = 3_600_000;
const day = 24 * hour;
const berlin = (date: string) => Date.parse(`${date}T00:00:00+01:00`);
const until = berlin("2026-11-25");
const start = berlin("2026-10-27");
const gap = { from: berlin("2026-11-24") + 8 * hour, to: berlin("2026-11-24") + 14 * hour };
const wrap = 262_143.328_85;

let db: TestDatabase;
let store: Store;
let names: MachineNames;
const none: PlanningSettings = { guesses: {}, feeders: [], speeds: {}, fills: [], meters: [], diskOperations: {} };
const tariff: Tariff = { name: "rack", currency: "EUR", zone: "Europe/Berlin", from: "2026-01-01", price: 0.11 };

const hourOf = (ms: number) => ((((ms - berlin("2026-11-01")) / hour) % 24) + 24) % 24;
const hiveWatts = (ms: number) => (hourOf(ms) >= 7 && hourOf(ms) < 19 ? 200 : 80);
const hiveDay = 12 * 200 + 12 * 80;

beforeAll(async () => {
  db = await testDatabase();
  let clock = start;
  store = await Store.open(db.database, { now: () => clock });
  names = await MachineNames.open(db.database);
  const level = { unit: "W", kind: "level" as const };
  const total = { unit: "J", kind: "total" as const };
  const [hive, vault, ups, hiveCounter, playout, load, busy, idle, web] = (await store.series.resolve([
    { counter: "hw.host.power", tags: { machine: "hive", sensor: "whole" }, ...level },
    { counter: "hw.host.power", tags: { machine: "vault", sensor: "whole" }, ...level },
    { counter: "hw.host.power", tags: { machine: "ups", sensor: "output" }, ...level },
    { counter: "hw.energy", tags: { machine: "hive", sensor: "Environment" }, ...total },
    { counter: "hw.energy", tags: { machine: "playout", zone: "package-0" }, ...total, falls: wrap },
    { counter: "ups.load", tags: { machine: "ups" }, unit: "1", kind: "level" },
    { counter: "system.cpu.time", tags: { machine: "desk", mode: "user" }, unit: "s", kind: "total" },
    { counter: "system.cpu.time", tags: { machine: "desk", mode: "idle" }, unit: "s", kind: "total" },
    { counter: "guest.cpu.time", tags: { machine: "hive", guest: "web" }, unit: "s", kind: "total" },
  ])) as unknown as number[];
  const [hiveBusy] = (await store.series.resolve([
    { counter: "system.cpu.time", tags: { machine: "hive", mode: "user" }, unit: "s", kind: "total" },
  ])) as unknown as number[];
  const random = seeded(5);
  let joules = 5e7;
  let before = start;
  let hiveCpu = 0;
  for (let from = start; from < until; from += 6 * hour) {
    const rows: [number, number, number][] = [];
    const to = from + 6 * hour;
    const times = new Set<number>();
    for (let at = from; at < to; at += 60_000) times.add(Math.round(at + random() * 40_000));
    // Both sides of each step are read: what lies between is not guessed.
    for (let at = from; at < to; at += hour)
      if ([7, 19].includes(hourOf(at))) for (const ms of [at - 1, at]) times.add(ms);
    for (const at of [...times].sort((a, b) => a - b)) rows.push([hive as number, at, hiveWatts(at)]);
    for (let at = from; at < to; at += 60_000) {
      if (at < gap.from || at > gap.to) rows.push([vault as number, at, 149]);
      rows.push([ups as number, at, 149 + hiveWatts(at)], [load as number, at, 0.3]);
      const seconds = (at - start) / 1000;
      rows.push([playout as number, at, (30 * seconds) % wrap]);
      rows.push([busy as number, at, seconds / 4], [idle as number, at, (seconds * 3) / 4]);
      hiveCpu += hiveWatts(at) === 200 ? 120 : 0;
      rows.push([hiveBusy as number, at + 1, hiveCpu], [web as number, at + 1, hiveCpu / 2]);
    }
    for (let at = from; at < to; at += 10 * 60_000) {
      joules += (hiveWatts((before + at) / 2) * (at - before)) / 1000;
      before = at;
      rows.push([hiveCounter as number, at, joules]);
    }
    clock = to;
    await store.write(batchOf(rows));
    await store.maintain();
  }
}, 120_000);
afterAll(async () => {
  await store.close();
  await db.drop();
});

const ask = (body: Partial<EnergyBody>, tariffs: readonly Tariff[] = [tariff], settings = none) =>
  energyView(
    { store, names, tariffs, settings },
    { window: { from: until - 7 * day, to: until }, per: "machine", zone: "Europe/Berlin", ...body },
  );
const lineOf = async (of: string, ...how: Parameters<typeof ask>) => {
  const found = (await ask(...how)).lines.find((one) => one.of === of);
  if (!found) throw new Error(`no line of ${of}`);
  return found;
};

describe("energy per machine", () => {
  test("149 W are 3.576 kWh a day, 0.393 at 0.11 a kWh (common practice, no source)", async () => {
    const one = await lineOf("vault", { window: { from: until - 3 * day, to: until - 2 * day } });
    expect(one.wattHours).toBeCloseTo(3576, 6);
    expect(one.cost).toBeCloseTo(0.393, 3);
    expect(one).toMatchObject({
      currency: "EUR",
      estimated: false,
      missingShare: 0,
      method: "its power, added up over time",
    });
    expect(one.formula).toBe("3.58 kWh × 0.11 EUR/kWh = EUR 0.393");
  });
  test("a counter of energy is preferred, and its power compared with it", async () => {
    const one = await lineOf("hive", {});
    expect(one.wattHours / (7 * hiveDay)).toBeCloseTo(1, 3);
    expect(one.method).toBe("its own counter of energy");
    expect(one.compared?.method).toBe("its power, added up over time");
    expect((one.compared?.wattHours as number) / (one.compared?.against as number)).toBeCloseTo(1, 4);
  });
  test("what was not gathered is missing, and filled only when asked, by what is usual of those hours", async () => {
    const window = { from: berlin("2026-11-24"), to: until };
    const missing = await lineOf("vault", { window });
    // Three minutes lie between what was read last and the gap, or the end.
    expect(missing.wattHours / (149 * (18 - 3 / 60))).toBeCloseTo(1, 9);
    expect(missing.missingShare).toBeCloseTo(0.25, 2);
    const filled = await lineOf("vault", { window, fill: true });
    expect(filled.filledWattHours).toBeCloseTo(149 * (6 + 3 / 60), 3);
    expect(filled.wattHours).toBeCloseTo(3576, 3);
  });
  test("a supply that feeds others is told, and not added", async () => {
    const { lines, notes } = await ask({});
    expect(lines.find(({ of }) => of === "ups")).toMatchObject({ feedsOthers: true, share: null });
    const shares = lines.flatMap(({ share }) => share ?? []);
    expect(shares.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 9);
    expect(notes).toContain("ups measures what others draw as well, and is not added to them.");
    const together = await lineOf("together", { per: "together" });
    expect(together.wattHours).toBeCloseTo(
      lines.filter(({ of }) => of !== "ups").reduce((sum, one) => sum + one.wattHours, 0),
      6,
    );
  });
  test("of a processor's counter that wraps nothing is lost, and it is said that it is the processor alone", async () => {
    const one = await lineOf("playout", {});
    expect(one.wattHours / (30 * 7 * 24)).toBeCloseTo(1, 3);
    expect(one.isPart).toBe(true);
  });
  test("a machine without a meter is estimated where a person said what it draws, and never added", async () => {
    const settings = { ...none, guesses: { desk: { idleWatts: 40, fullWatts: 120 } } };
    const one = await lineOf("desk", {}, [tariff], settings);
    expect(one).toMatchObject({ estimated: true, share: null });
    expect(one.wattHours / (60 * 7 * 24)).toBeCloseTo(1, 2);
    const { lines } = await ask({ per: "together" }, [tariff], settings);
    expect(lines.map(({ of, estimated }) => [of, estimated])).toEqual([
      ["together", false],
      ["estimated, not added", true],
    ]);
  });
});

describe("steps, tags, guests", () => {
  test("days add up to the window, and so does their cost with a standing charge and night hours", async () => {
    const nights: Tariff = {
      ...tariff,
      price: 0.3,
      hours: [{ from: "19:00", to: "07:00", price: 0.2 }],
      standing: { amount: 3, per: "day" },
    };
    const one = await lineOf("hive", { step: "day" }, [nights]);
    expect(one.steps).toHaveLength(7);
    const sum = (of: (step: { wattHours: number | null; cost: number | null }) => number | null) =>
      (one.steps ?? []).reduce((all, step) => all + (of(step) ?? 0), 0);
    expect(sum(({ wattHours }) => wattHours)).toBeCloseTo(one.wattHours, 6);
    expect(sum(({ cost }) => cost)).toBeCloseTo(one.cost as number, 6);
    const together = await lineOf("together", { per: "together", step: "day" }, [nights]);
    // By day 12 h at 0.3, by night 12 h at 0.2; playout's 30 W, vault's 149 W (six hours of it missing), hive's own.
    const [first] = together.steps ?? [];
    const expected = ((200 + 149 + 30) * 12 * 0.3 + (80 + 149 + 30) * 12 * 0.2) / 1000;
    expect((first?.cost as number) / (expected + 3)).toBeCloseTo(1, 1);
  });
  test("machines by tag, those without it apart", async () => {
    await names.set("hive", { friendlyName: "", tags: { rack: "A" } });
    const { lines } = await ask({ per: "tag:rack" });
    expect(lines.map(({ of, method }) => [of, method])).toEqual([
      ["A", "the sum of hive"],
      ["without this tag", "the sum of playout, vault"],
    ]);
  });
  test("guests share what their host draws above idle by processor time", async () => {
    const { lines } = await ask({ per: "guest", window: { from: until - 2 * day, to: until - day } });
    expect(lines.map(({ of }) => of)).toEqual(["hive web"]);
    expect((lines[0]?.wattHours as number) / (12 * 60)).toBeCloseTo(1, 1);
  });
});

describe("this month", () => {
  test("so far, and expected by what is usual of its remaining hours", async () => {
    const { months, monthSoFar, monthExpected, budget, currency } = await ask({}, [{ ...tariff, budgetPerMonth: 20 }]);
    expect(months).toHaveLength(1);
    const perDay = hiveDay + 3576 + 720;
    expect((monthSoFar as number) / (((24 * perDay - 149 * 6) / 1000) * 0.11)).toBeCloseTo(1, 2);
    expect((monthExpected as number) / (((30 * perDay) / 1000) * 0.11)).toBeCloseTo(1, 2);
    expect([budget, currency]).toEqual([20, "EUR"]);
  });
  test("without a tariff there is none, and it is said", async () => {
    const { monthSoFar, monthExpected, lines, notes } = await ask({}, []);
    expect([monthSoFar, monthExpected, lines[0]?.cost]).toEqual([null, null, null]);
    expect(notes).toContain("No tariff is given yet: nothing has a price.");
  });
});

test("long windows are worked out of hours, and say the same", async () => {
  const window = { from: until - 45 * day, to: until };
  const one = await lineOf("hive", { window });
  expect(one.wattHours / (29 * hiveDay)).toBeCloseTo(1, 2);
  expect(one.missingShare).toBeCloseTo(16 / 45, 2);
});

test("a counter under a name of its own measures once somebody says so: a machine as a whole, or outlets by a tag", async () => {
  const [whole, one, two] = (await store.series.resolve([
    { counter: "rack_meter_kwh", tags: { machine: "rack" }, unit: "kW.h", kind: "total" },
    { counter: "strip_watts", tags: { machine: "strip", port: "1" }, unit: "W", kind: "level" },
    { counter: "strip_watts", tags: { machine: "strip", port: "2" }, unit: "W", kind: "level" },
  ])) as unknown as [number, number, number];
  const rows: [number, number, number][] = [];
  for (let at = until - day; at <= until; at += 60_000)
    rows.push([whole, at, 100 + (at - until + day) / day], [one, at, 20], [two, at, 5]);
  await store.write(batchOf(rows));
  const window = { from: until - 12 * hour, to: until - 6 * hour };
  const said: PlanningSettings = {
    ...none,
    meters: [{ counter: "rack_meter_kwh" }, { counter: "strip_watts", outlets: "port" }],
  };
  const outlets = async (settings: PlanningSettings) =>
    (await ask({ window, per: "outlet" }, [tariff], settings)).lines.map(({ of, wattHours }) => [of, wattHours]);
  expect((await ask({ window })).lines.map(({ of }) => of)).not.toContain("rack");
  expect(await outlets(none)).toEqual([]);
  const rack = await lineOf("rack", { window }, [tariff], said);
  expect(rack.wattHours).toBeCloseTo(250, 6);
  expect(rack.method).toBe("rack_meter_kwh, as somebody has said");
  expect(await outlets(said)).toEqual([
    ["strip 1", expect.closeTo(120, 6)],
    ["strip 2", expect.closeTo(30, 6)],
  ]);
  expect((await ask({ window }, [tariff], said)).lines.map(({ of }) => of)).not.toContain("strip");
});
