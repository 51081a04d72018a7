import { afterAll, beforeAll, describe, expect, test, vi } from "vitest";
import { batchOf } from "../../../core/series/batch.ts";
import { MachineNames } from "../../machines/machine-names.ts";
import { Store } from "../../store/store.ts";
import { type TestDatabase, testDatabase } from "../../testing/test-database.ts";
import { energyView } from "./energy-view.ts";
import { blockMs } from "./kept-hours.ts";

// A lamp of 100 W for five blocks of thirty days, read every ten minutes; a heater whose meter counts 3.6 MJ an hour
// (1 kW) and was not read from the middle of the third block on.
const hour = 3_600_000;
const start = 600 * blockMs;
const until = start + 5 * blockMs;
const heaterUntil = start + 2.5 * blockMs;
let db: TestDatabase;
let store: Store;
let names: MachineNames;
let lamp: number;
let heater: number;

beforeAll(async () => {
  db = await testDatabase();
  let clock = start;
  store = await Store.open(db.database, { now: () => clock });
  await store.setRetention({ rawDays: 400, fiveMinuteDays: 400, hourDays: 1825 });
  names = await MachineNames.open(db.database);
  [lamp, heater] = (await store.series.resolve([
    { counter: "hw.host.power", tags: { machine: "lamp", sensor: "whole" }, unit: "W", kind: "level" },
    { counter: "hw.energy", tags: { machine: "heater", sensor: "whole" }, unit: "J", kind: "total" },
  ])) as unknown as [number, number];
  for (let from = start; from < until; from += blockMs / 3) {
    const rows: [number, number, number][] = [];
    for (let at = from; at < from + blockMs / 3; at += hour / 6) {
      rows.push([lamp, at, 100]);
      if (at <= heaterUntil) rows.push([heater, at, ((at - start) / hour) * 3.6e6]);
    }
    clock = from + blockMs / 3;
    await store.write(batchOf(rows));
    await store.maintain();
  }
}, 120_000);
afterAll(async () => {
  await store.close();
  await db.drop();
});

const settings = { guesses: {}, feeders: [], speeds: {}, fills: [], meters: [], diskOperations: {} };
const ask = async (of: string) => {
  const window = { from: start, to: until };
  const { lines } = await energyView({ store, names, tariffs: [], settings }, { window, per: "machine", zone: "UTC" });
  return lines.find((one) => one.of === of)?.wattHours ?? Number.NaN;
};

describe("hours that are long over", () => {
  test("are read once, and tell the same", async () => {
    const reduce = vi.spyOn(store, "reduce");
    const first = await ask("lamp");
    const reads = () =>
      reduce.mock.calls.reduce((sum, [[one]]) => sum + (one ? one.plan.toMs - one.plan.fromMs : 0), 0);
    const cold = reads();
    reduce.mockClear();
    expect(await ask("lamp")).toBe(first);
    // What the heater's meter will turn out to have grown is not known, and is read again.
    expect(reads()).toBeLessThan(cold * 0.6);
    reduce.mockRestore();
    expect(first / (((until - start) / hour) * 100)).toBeCloseTo(1, 3);
  });

  test("count a sample at once that comes for them later", async () => {
    const before = await ask("lamp");
    const at = start + 1.5 * blockMs + hour / 20;
    await store.write(batchOf([[lamp, at, 100 + 6000]]));
    const after = await ask("lamp");
    expect(after).not.toBe(before);
    await store.maintain();
    expect((await ask("lamp")) / after).toBeCloseTo(1, 4);
  });

  test("of a counter count what it turns out to have grown while it was not read", async () => {
    const before = await ask("heater");
    expect(before / ((heaterUntil - start) / hour)).toBeCloseTo(1000, 0);
    const later = until - 2 * hour;
    await store.write(batchOf([[heater, later, ((later - start) / hour) * 3.6e6]]));
    const after = await ask("heater");
    expect(after / ((later - start) / hour)).toBeCloseTo(1000, 0);
  });
});
