import { afterAll, beforeAll, expect, test } from "vitest";
import { batchOf } from "../../core/series/batch.ts";
import { insertEvents } from "../events/event-rows.ts";
import { Store } from "../store/store.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { disturbancesIn } from "./disturbances.ts";

// Ten days of two machines. hive started anew on the second day; on the sixth it did so in a quiet time. vault had an
// urgent incident of two hours on the fourth day, one that a quiet time hid, and the mains were away from it once.
const hour = 3_600_000;
const day = 24 * hour;
const start = Date.UTC(2026, 10, 1);
const until = start + 10 * day;
let db: TestDatabase;
let store: Store;

beforeAll(async () => {
  db = await testDatabase();
  let clock = start;
  store = await Store.open(db.database, { now: () => clock });
  const ids = await store.series.resolve(
    ["hive", "vault"].map((machine) => ({
      counter: "system.uptime",
      tags: { machine },
      unit: "s",
      kind: "level" as const,
    })),
  );
  const starts = [start - 5 * day, start + 1.5 * day, start + 5.25 * day];
  const rows: [number, number, number][] = [];
  for (let at = start; at < until; at += 300_000) {
    const began = starts.findLast((one) => one <= at) ?? start;
    rows.push([ids[0] as number, at, (at - began) / 1000], [ids[1] as number, at, (at - start + 9 * day) / 1000]);
  }
  const [drive] = await store.series.resolve([
    { counter: "drive.healthy", tags: { machine: "hive", device: "sdf" }, unit: "1", kind: "state" },
  ]);
  for (let at = start; at < until; at += 900_000)
    rows.push([drive as number, at, at >= start + 8 * day && at < start + 8.5 * day ? 0 : 1]);
  clock = until;
  await store.write(batchOf(rows));
  const incident = (name: string, from: number, to: number, quiet: number | null) =>
    db.database.query(
      `insert into incident (rule_name, severity, tags, compare, watch, limit_value, unit, raised_at_ms, cleared_at_ms, quiet_id)
       values ($1::text, 'urgent', '{"machine":"vault"}', 'above', 'value', 1, '1', $2::bigint, $3::bigint, $4::bigint)`,
      [name, from, to, quiet],
    );
  const { rows: quiet } = await db.database.query<{ id: number }>(
    `insert into quiet_time (title, scope, from_ms, to_ms)
     values ('both are moved', '{"machines":["hive","vault"],"tags":[]}', $1::bigint, $2::bigint) returning id::float8 as id`,
    [start + 5 * day, start + 5.5 * day],
  );
  await incident("disks busy", start + 3.25 * day, start + 3.25 * day + 2 * hour, null);
  await incident("hidden", start + 5.1 * day, start + 5.2 * day, quiet[0]?.id ?? null);
  await insertEvents(db.database, [
    {
      fromMs: start + 7 * day,
      toMs: start + 7 * day + hour / 2,
      kind: "power loss",
      machine: "vault",
      text: "The mains were away",
      tags: {},
    },
    { fromMs: start + 7 * day, toMs: start + 7 * day, kind: "note", machine: "vault", text: "a note", tags: {} },
  ]);
}, 60_000);
afterAll(async () => {
  await store.close();
  await db.drop();
});

test("what disturbed machines: restarts by the time since their start, incidents, times without mains; nothing planned", async () => {
  const window = { from: start, to: until };
  const found = await disturbancesIn(store, db.database, ["hive", "vault"], window, until);
  const told = found
    .map(({ machine, cause, words, fromMs }) => ({ machine, cause, words, day: (fromMs - start) / day }))
    .sort((a, b) => a.day - b.day);
  expect(told).toEqual([
    { machine: "hive", cause: "restart", words: "started anew", day: expect.closeTo(1.5, 1) },
    { machine: "vault", cause: "urgent", words: "disks busy", day: 3.25 },
    { machine: "vault", cause: "power loss", words: "The mains were away", day: 7 },
    { machine: "hive", cause: "drive", words: "the drive sdf is unwell", day: 8 },
  ]);
  expect(found.find(({ cause }) => cause === "drive")?.toMs).toBe(start + 8.5 * day);
});

test("of machines that are not among those asked for, nothing", async () => {
  expect(await disturbancesIn(store, db.database, ["hive"], { from: start, to: start + day }, until)).toEqual([]);
});
