import { afterAll, beforeAll, expect, test } from "vitest";
import type { MachineEvent } from "../../core/events/machine-event.ts";
import { batchOf } from "../../core/series/batch.ts";
import { Store } from "../store/store.ts";
import { storeWork } from "../store/tasks/store-work.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { InlineExecutor } from "../work/executor.ts";
import { findOverlaps } from "./find-overlaps.ts";

// Ten days of a storage box: every night a copy takes 40 % of its disks from 02:10 to 03:05, a scan 55 % from 02:20 to
// 03:40, of which scripts tell. On hive something takes half of the disks every night from 02:00 to 03:00, of which
// nobody tells; in the last night a mirror began beside it at 02:30.
const minute = 60_000;
const hour = 60 * minute;
const day = 24 * hour;
const start = Date.UTC(2026, 10, 18);
const days = 10;
const copy = { from: 130, to: 185, share: 0.4 };
const scan = { from: 140, to: 220, share: 0.55 };
const mirror = { from: 150, to: 240 };
const night = start + (days - 1) * day;
let db: TestDatabase;
let store: Store;

beforeAll(async () => {
  db = await testDatabase();
  let clock = start;
  store = await Store.open(db.database, {
    now: () => clock,
    executor: new InlineExecutor(db.database, storeWork()),
  });
  const ids = await store.series.resolve(
    ["vault", "hive"].map((machine) => ({
      counter: "system.disk.io_time",
      tags: { machine, device: "sda" },
      unit: "s",
      kind: "total" as const,
    })),
  );
  const rows: [number, number, number][] = [];
  const sums = [0, 0];
  for (let at = start; at < start + days * day; at += minute) {
    const now = ((at - start) / minute) % 1440;
    const busy = [copy, scan].reduce((sum, { from, to, share }) => sum + (now >= from && now < to ? share : 0), 0.02);
    sums[0] = (sums[0] as number) + Math.min(1, busy) * 60;
    const mirrors = at >= night + mirror.from * minute && at < night + mirror.to * minute;
    sums[1] = (sums[1] as number) + (0.02 + (now >= 120 && now < 180 ? 0.5 : 0) + (mirrors ? 0.42 : 0)) * 60;
    rows.push([ids[0] as number, at + minute, sums[0]], [ids[1] as number, at + minute, sums[1] as number]);
  }
  clock = start + days * day;
  await store.write(batchOf(rows));
}, 60_000);
afterAll(async () => {
  await store.close();
  await db.drop();
});

const span = { from: night + 2 * hour, to: night + 4 * hour };
const event = (id: number, { from, to }: { from: number; to: number }, more: Partial<MachineEvent>): MachineEvent => ({
  ...{
    id,
    fromMs: night + from * minute,
    toMs: night + to * minute,
    kind: "backup",
    machine: "vault",
    text: "",
    tags: {},
  },
  ...more,
});
const clock = (ms: number) => new Date(ms).toISOString().slice(11, 16);
const how = { zone: "UTC", clock };
const told = [event(1, copy, { text: "archive copy ran" }), event(2, scan, { text: "integrity scan ran" })];

test("two jobs that scripts have told of: what moving one would do", async () => {
  expect(await findOverlaps(store, span, told, how)).toEqual([
    {
      ...{ first: "archive copy", second: "integrity scan", machine: "vault" },
      ...{ fromMs: night + 140 * minute, toMs: night + 185 * minute },
      ...{ moves: "second", shiftMinutes: 45, highestNow: 97, highestThen: 57 },
      words:
        "vault: archive copy and integrity scan overlap from 02:20 to 03:05, with the disks at 97 %. Begun 45 min later, at 03:05, integrity scan would leave them at 57 % at the most.",
    },
  ]);
});

test("in another span, or on machines that are not at their limit, nothing", async () => {
  const later = { from: night + 8 * hour, to: night + 10 * hour };
  expect(
    await findOverlaps(store, later, [event(3, { from: 490, to: 560 }, {}), event(4, { from: 500, to: 590 }, {})], how),
  ).toEqual([]);
  expect(
    await findOverlaps(
      store,
      span,
      told.map((one) => ({ ...one, machine: "gate" })),
      how,
    ),
  ).toEqual([]);
});

test("a job that nobody tells of is found as a habit, and overlaps with one that is told", async () => {
  const mirrored = event(5, mirror, { machine: "hive", text: "mirror finished" });
  expect(await findOverlaps(store, span, [mirrored], how)).toMatchObject([
    {
      ...{ first: "what rises on its disks on most days", second: "mirror", machine: "hive" },
      ...{ fromMs: night + 150 * minute, toMs: night + 180 * minute, moves: "second", shiftMinutes: 30 },
      ...{ highestNow: 94, highestThen: 52 },
    },
  ]);
});

test("what rises every night where a script tells of it is that, and no second job", async () => {
  expect(await findOverlaps(store, span, told.slice(0, 1), how)).toEqual([]);
});
