import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { MachineView } from "../../core/api/machines.ts";
import type { BriefingLine } from "../../core/briefing/briefing.ts";
import { batchOf } from "../../core/series/batch.ts";
import { insertEvents, removeEvent } from "../events/event-rows.ts";
import { Store } from "../store/store.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { BriefingDesk } from "./briefing-desk.ts";

// Five weeks of two machines. `hive` is 30 % busy at this hour of every week and 90 % now; `vault` is 30 % busy then
// and now. The disk of
// `vault` gains one per cent a day and stands at 80 %; that of `hive` does not change.
const minute = 60_000;
const day = 86_400_000;
const now = Math.floor(Date.UTC(2026, 10, 24, 14, 35) / minute) * minute;
let db: TestDatabase;
let store: Store;

beforeAll(async () => {
  db = await testDatabase();
  let clock = now - 36 * day;
  store = await Store.open(db.database, { now: () => clock });
  const machines = ["hive", "vault"] as const;
  const ids = await store.series.resolve(
    machines.flatMap((machine) => [
      { counter: "system.cpu.time", tags: { machine, mode: "user" }, unit: "s", kind: "total" as const },
      { counter: "system.cpu.time", tags: { machine, mode: "idle" }, unit: "s", kind: "total" as const },
      {
        counter: "system.filesystem.usage",
        tags: { machine, device: "sda1", mountpoint: "/srv", state: "free" },
        unit: "By",
        kind: "level" as const,
      },
      {
        counter: "system.filesystem.usage",
        tags: { machine, device: "sda1", mountpoint: "/srv", state: "used" },
        unit: "By",
        kind: "level" as const,
      },
    ]),
  );
  const busy = { hive: 0, vault: 0 };
  const idle = { hive: 0, vault: 0 };
  const everyMs = 5 * minute;
  for (let from = now - 36 * day; from < now; from += 4 * day) {
    const rows: [number, number, number][] = [];
    for (let at = from; at < Math.min(from + 4 * day, now + 1); at += everyMs) {
      machines.forEach((machine, m) => {
        const share = machine === "hive" && now - at <= 90 * minute ? 0.9 : 0.3;
        busy[machine] += (everyMs / 1000) * 4 * share;
        idle[machine] += (everyMs / 1000) * 4 * (1 - share);
        const free = machine === "vault" ? 20 + (now - at) / day : 50;
        [busy[machine], idle[machine], free, 100 - free].forEach((value, k) => {
          rows.push([ids[m * 4 + k] as number, at, value]);
        });
      });
    }
    clock = Math.min(from + 4 * day, now);
    await store.write(batchOf(rows));
  }
  clock = now;
  await store.maintain();
}, 120_000);
afterAll(async () => {
  await store.close();
  await db.drop();
});

const machine = (name: string, change: Partial<MachineView> = {}): MachineView => ({
  name,
  state: "reporting",
  lastSampleAtMs: now,
  intervalSeconds: 300,
  series: 4,
  friendlyName: "",
  tags: {},
  colour: 0,
  guests: [],
  containers: [],
  sources: [],
  ...change,
});
const said = ({ pieces }: BriefingLine) =>
  pieces.map((piece) => ("text" in piece ? piece.text : piece.kind === "weekdayAndHour" ? "this hour" : "…")).join("");
const all = [machine("hive"), machine("vault")];
const lines = async (machines = all, at = now) =>
  (await new BriefingDesk(store, db.database, () => machines).lines(at)).map(said);

describe("the briefing of what is stored", () => {
  test("what is three times its usual of this hour is told, what is as always is not; when the volume is full is told, with five weeks read from buckets", async () => {
    const told = await lines();
    expect(told).toContain("hive: processor use is three times its usual of this hour.");
    expect(told.filter((line) => line.startsWith("vault"))).toEqual([
      expect.stringMatching(/^vault: the filesystem \/srv is at 80 %, full in (19|20) days at this rate\.$/),
    ]);
    expect(told.some((line) => line.includes("hive: the filesystem"))).toBe(false);
  });
  test("a machine that is no longer here is not spoken of", async () => {
    expect((await lines([machine("vault")])).some((line) => line.includes("hive"))).toBe(false);
  });
  test("a silent one stands first", async () => {
    expect(
      (await lines([machine("hive", { state: "silent", lastSampleAtMs: now - 14 * minute }), machine("vault")]))[0],
    ).toBe("hive has been silent for 14 min, since ….");
  });
  test("works of the last day that overlapped are told as today's, older ones as this week's", async () => {
    const work = (kind: string, from: number, to: number) => ({
      fromMs: from,
      toMs: to,
      kind,
      machine: "vault",
      text: kind,
      tags: {},
    });
    const told = () => lines().then((found) => found.filter((line) => line.includes("overlapped")));
    await insertEvents(db.database, [
      work("backup", now - 3 * day, now - 3 * day + 3_600_000),
      work("scan", now - 3 * day + 60_000, now - 3 * day + 7_200_000),
    ]);
    const older = "Backup and scan on vault overlapped on ….";
    expect(await told()).toEqual([older]);
    await insertEvents(db.database, [
      work("backup", now - 9 * 3_600_000, now - 8 * 3_600_000),
      work("scan", now - 8.5 * 3_600_000, now - 7 * 3_600_000),
    ]);
    expect(await told()).toEqual(["Backup and scan on vault overlapped, ….", older]);
    const { rows } = await db.database.query<{ id: number }>("select id::float8 as id from event");
    for (const { id } of rows) await removeEvent(db.database, id);
    expect(await told()).toEqual([]);
  });
  test("the past is read at most once a minute, however many ask; a failure is not remembered", async () => {
    const desk = new BriefingDesk(store, db.database, () => all);
    const reads: number[] = [];
    const reduce = store.reduce.bind(store);
    store.reduce = (...given) => {
      reads.push(1);
      return reads.length === 1 ? Promise.reject(new Error("the database is away")) : reduce(...given);
    };
    try {
      await expect(desk.lines(now)).rejects.toThrow("the database is away");
      await Promise.all([desk.lines(now), desk.lines(now), desk.lines(now + 1000)]);
      const once = reads.length;
      await desk.lines(now + 59_000);
      expect(reads.length).toBe(once);
      await desk.lines(now + 61_001);
      expect(reads.length).toBeGreaterThan(once);
    } finally {
      store.reduce = reduce;
    }
  });
});
