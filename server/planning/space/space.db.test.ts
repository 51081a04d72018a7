import { afterAll, beforeAll, expect, test } from "vitest";
import type { CostsView } from "../../../core/api/costs.ts";
import type { SpaceView } from "../../../core/api/space.ts";
import { batchOf } from "../../../core/series/batch.ts";
import { Store } from "../../store/store.ts";
import { type TestDatabase, testDatabase } from "../../testing/test-database.ts";
import { spaceList } from "./space-list.ts";
import { level } from "../../testing/new-series.ts";

// Sixty days by the half hour: /srv of vault fills by 1 % a day and is at 90 %; its inodes stand at 40 %; the pool
// archive grows by 0.5 % a day and is at 70 %; web's disk stands; a queue has a limit that a person gave it; what was on
// an old disk has not been heard of for a week.
const hour = 3_600_000;
const day = 24 * hour;
const until = Date.UTC(2026, 10, 24);
const days = 60;
const start = until - days * day;

let db: TestDatabase;
let store: Store;
const costs = {
  tiers: [
    { tier: "raw", keptDays: 30, sizeBytes: 2e9, fromMs: until - 10 * day, bytesPerDay: 2e8 },
    { tier: "1h", keptDays: 1825, sizeBytes: 0, fromMs: null, bytesPerDay: null },
  ],
} as unknown as CostsView;
const settings = {
  guesses: {},
  feeders: [],
  speeds: {},
  diskOperations: {},
  meters: [],
  fills: [{ name: "letters waiting", counter: "mail.queue", limit: 500 }],
};

beforeAll(async () => {
  db = await testDatabase();
  let clock = start;
  store = await Store.open(db.database, { now: () => clock });
  const on = (mountpoint: string, state: string) => ({ machine: "vault", device: "sda1", mountpoint, state });
  const ids = (await store.series.resolve([
    level("system.filesystem.usage", on("/srv", "used")),
    level("system.filesystem.usage", on("/srv", "free")),
    level("system.filesystem.inodes", on("/srv", "used"), "{inode}"),
    level("system.filesystem.inodes", on("/srv", "free"), "{inode}"),
    level("storage.pool.usage", { machine: "vault", pool: "archive", state: "used" }),
    level("storage.pool.limit", { machine: "vault", pool: "archive" }),
    level("guest.disk.usage", { machine: "hive", guest: "web", device: "vda" }),
    level("guest.disk.limit", { machine: "hive", guest: "web", device: "vda" }),
    level("mail.queue", { machine: "mail" }, "{letter}"),
    level("system.filesystem.usage", on("/old", "used")),
    level("system.filesystem.usage", on("/old", "free")),
  ])) as unknown as number[];
  for (let from = start; from < until; from += 10 * day) {
    const rows: [number, number, number][] = [];
    for (let at = from; at < from + 10 * day; at += hour / 2) {
      const left = (until - at) / day;
      const values = [
        1000 * (0.9 - 0.01 * left),
        1000 * (0.1 + 0.01 * left),
        40,
        60,
        1e6 * (0.7 - 0.005 * left),
        1e6,
        5e9,
        2e10,
        200,
      ];
      values.forEach((value, i) => {
        rows.push([ids[i] as number, at, value]);
      });
      if (left > 7) rows.push([ids[9] as number, at, 1], [ids[10] as number, at, 1]);
    }
    clock = from + 10 * day;
    await store.write(batchOf(rows));
    await store.maintain();
  }
}, 120_000);
afterAll(async () => {
  await store.close();
  await db.drop();
});

test("everything that fills is one list, what is full first on top, each with its range, rate and how good forecasts were", async () => {
  const found = await spaceList(store, settings, costs, "vault");
  expect(found.map(({ machine, what }) => `${machine}: ${what}`)).toEqual([
    "vault: /srv",
    "vault: pool archive",
    "mail: letters waiting",
    "vault: inodes of /srv",
    "vault: Nubrel's samples, 30 days",
    "hive: vda of web",
  ]);
  const [srv, archive, queue, inodes, tier] = found as [SpaceView, SpaceView, SpaceView, SpaceView, SpaceView];
  expect(srv).toMatchObject({ kind: "filesystem", size: 1000, unit: "By", why: null });
  expect(srv.perDay).toBeCloseTo(10, 1);
  expect(srv.weekChange).toBeCloseTo(70, 0);
  const inDays = (ms: number | null) => ((ms ?? 0) - until) / day;
  expect(inDays(srv.fullFromMs)).toBeLessThanOrEqual(inDays(srv.fullLikelyMs));
  expect(inDays(srv.fullLikelyMs)).toBeCloseTo(10, 0);
  expect(inDays(srv.fullToMs)).toBeLessThan(11);
  for (const error of Object.values(srv.error)) expect(Math.abs(error ?? 1)).toBeLessThan(0.005);
  expect(inDays(archive.fullLikelyMs)).toBeCloseTo(60, 0);
  expect(queue).toMatchObject({ kind: "given", used: 200, size: 500, unit: "{letter}", why: "it does not fill" });
  expect(inodes).toMatchObject({ used: 40, size: 100, fullLikelyMs: null });
  expect(tier).toMatchObject({ kind: "tier", size: 6e9, perDay: 2e8, fullToMs: null });
  expect(srv.strip).toHaveLength(56);
  expect(srv.strip.at(-1)).toBeCloseTo(0.9, 2);
});
