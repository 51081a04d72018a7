import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { seeded } from "../../core/testing/random.ts";
import { batchOf } from "../../core/series/batch.ts";
import { Store } from "../store/store.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { MachineSeries } from "./machine-series.ts";

let db: TestDatabase;
let store: Store;
const now = Date.now();
beforeEach(async () => {
  db = await testDatabase();
  store = await Store.open(db.database);
});
afterEach(async () => {
  await store.close();
  await db.drop();
});

/** The same by walking all series, as it was done at every poll before. */
function walked(): object {
  const found: Record<string, { series: number; lastMs: number; first: number; counters: string[]; guests: string[] }> =
    {};
  for (const { id, counter, tags } of store.series.all()) {
    const name = tags["machine"];
    if (name === undefined) continue;
    found[name] ??= { series: 0, lastMs: -Infinity, first: Infinity, counters: [], guests: [] };
    const one = found[name];
    const last = store.lastTimeMs(id);
    one.series++;
    one.lastMs = Math.max(one.lastMs, last ?? -Infinity);
    one.first = Math.min(one.first, id);
    if (!one.counters.includes(counter)) one.counters.push(counter);
    const { guest } = tags;
    if (last !== undefined && guest !== undefined && !one.guests.includes(guest)) one.guests.push(guest);
  }
  return Object.fromEntries(
    Object.entries(found).map(([name, one]) => [
      name,
      { ...one, counters: one.counters.sort(), guests: one.guests.sort() },
    ]),
  );
}
const counted = (of: MachineSeries) =>
  Object.fromEntries(
    [...of.machines].map(([name, { series, lastMs, first, counters, guests }]) => [
      name,
      { series, lastMs, first, counters: [...counters].sort(), guests: [...guests].sort() },
    ]),
  );

test("what is counted as series come is what walking all of them gives, through new ones, samples, and ones that are forgotten (seed 41)", async () => {
  const random = seeded(41);
  await store.write(batchOf([[(await add("vault", "a"))[0] as number, now - 60_000, 1]]));
  const machines = new MachineSeries(store);
  expect(counted(machines)).toEqual(walked());
  for (let round = 0; round < 6; round++) {
    for (const name of ["vault", "hive", "gate"]) {
      const ids = await add(name, `c${round}`, random() < 0.6 ? `guest ${round}` : undefined);
      if (random() < 0.7)
        await store.write(batchOf(ids.map((id) => [id, now - 50_000 + round * 1000, random()] as const)));
      expect(counted(machines)).toEqual(walked());
    }
  }
  await store.series.remove(
    store.series
      .all()
      .filter(({ tags }) => tags["machine"] === "gate")
      .map(({ id }) => id),
  );
  expect(Object.keys(counted(machines)).sort()).toEqual(["hive", "vault"]);
  expect(counted(machines)).toEqual(walked());
  // some of a machine, some that were not counted yet, and some of no machine
  await add("loft", "a");
  const stray = await store.series.resolve([{ counter: "c1", tags: {}, unit: "1", kind: "level" }]);
  expect(counted(machines)).toEqual(walked());
  const unseen = await add("hive", "unseen");
  await store.series.remove([
    ...stray,
    ...unseen,
    ...store.series
      .all()
      .filter(({ counter, tags }) => tags["machine"] === "vault" && counter === "c1")
      .map(({ id }) => id),
  ]);
  expect(counted(machines)).toEqual(walked());
  await add("vault", "later");
  expect(counted(machines)).toEqual(walked());
  const [back] = await add("gate", "a");
  await store.write(batchOf([[back as number, now - 1000, 1]]));
  expect(counted(machines)).toEqual(walked());
});

test("asking looks at no series that was counted before", async () => {
  await add("vault", "a");
  const machines = new MachineSeries(store);
  const looked = vi.spyOn(store, "lastTimeMs");
  for (let i = 0; i < 100; i++) expect(machines.machines.get("vault")?.series).toBe(2);
  expect(looked).not.toHaveBeenCalled();
  await add("vault", "b");
  expect(machines.machines.get("vault")?.series).toBe(4);
  expect(looked).toHaveBeenCalledTimes(2);
});

/** Two series of a machine, one of which is its guest's. */
async function add(machine: string, counter: string, guest?: string): Promise<readonly number[]> {
  return [
    ...(await store.series.resolve([
      { counter, tags: { machine }, unit: "1", kind: "level" },
      {
        counter: `${counter}.more`,
        tags: { machine, ...(guest !== undefined && { guest }) },
        unit: "1",
        kind: "level",
      },
    ])),
  ];
}
