import pino from "pino";
import { afterAll, beforeAll, beforeEach, describe, expect, test } from "vitest";
import type { RecordingDocument } from "../../core/recordings/recording.ts";
import { batchOf } from "../../core/series/batch.ts";
import { LiveHub } from "../live/live-hub.ts";
import { MachineNames } from "../machines/machine-names.ts";
import { Store } from "../store/store.ts";
import { storeWork } from "../store/tasks/store-work.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { InlineExecutor } from "../work/executor.ts";
import { worked } from "../work/work-kind.ts";
import { insertRecording, type RecordingRow } from "./recording-rows.ts";
import { Recordings, type RecordingsParts } from "./recordings.ts";
import { keptSeries, runOf, runsOf } from "./run-rows.ts";
import { readRunKind, workOutRun } from "./run-work.ts";

// A clock that the tests set, and no sources: what a run takes is written by hand.
/** A Monday, 07:00 in Berlin: another one in each test, as they share the store. */
let monday = Date.UTC(2026, 10, 30, 6, 0, 0);
let db: TestDatabase;
let store: Store;
let wallMs = monday;
let monotonicMs = 0;
let free = { free: 50e9, size: 100e9 };
let series: number;
const pass = (ms: number) => {
  wallMs += ms;
  monotonicMs += ms;
};

beforeAll(async () => {
  db = await testDatabase();
  store = await Store.open(db.database, { now: () => wallMs });
  const named = { counter: "system.cpu.utilization", tags: { machine: "hive" }, unit: "1", kind: "level" as const };
  series = (await store.series.resolve([named]))[0] as number;
}, 60_000);
beforeEach(async () => {
  wallMs = monday += 7 * 86_400_000;
  monotonicMs = 0;
  free = { free: 50e9, size: 100e9 };
  await db.database.query("truncate recording cascade");
});
afterAll(async () => {
  await store.close();
  await db.drop();
});

const parts = async (): Promise<RecordingsParts> => ({
  database: db.database,
  store,
  pool: new InlineExecutor(db.database, [...storeWork(), worked(readRunKind, (_place, given) => workOutRun(given))]),
  sources: { hasten: () => {}, find: () => undefined, hastyShareOf: () => undefined } as never,
  names: await MachineNames.open(db.database),
  live: new LiveHub(),
  clock: { actingMs: () => wallMs } as never,
  log: pino({ level: "silent" }),
  dataFolder: "/",
  freeOf: async () => free,
  now: () => ({ wallMs, monotonicMs }),
});
const open = async () => Recordings.open(await parts());
const recordingOf = async (more: Partial<RecordingDocument> = {}): Promise<RecordingRow> =>
  (await insertRecording(
    db.database,
    { name: "hive", everySeconds: 1, sentences: [{ counter: "system.cpu.utilization" }], ...more },
    "Ines",
  )) as RecordingRow;
const only = async ({ id }: RecordingRow) => {
  const runs = await runsOf(db.database, id);
  expect(runs).toHaveLength(1);
  return runs[0] as (typeof runs)[0];
};
/** Writes a sample a second for so long, from now on, and lets that time pass. */
async function write(seconds: number): Promise<void> {
  const from = wallMs;
  pass(seconds * 1000);
  await store.write(batchOf(Array.from({ length: seconds }, (_, i) => [series, from + i * 1000, i])));
}
/** A tick that also looks. */
async function ticks(recordings: Recordings): Promise<void> {
  for (let i = 0; i < 10; i++) await recordings.tick();
}

describe("a run ends", () => {
  test("at its length", async () => {
    const recording = await recordingOf({ forSeconds: 240 });
    const recordings = await open();
    await recordings.begin(recording, "person");
    pass(239_000);
    await recordings.tick();
    expect(recordings.running()).toHaveLength(1);
    pass(1500);
    await recordings.tick();
    expect(await only(recording)).toMatchObject({
      endedBecause: "length",
      endedAtMs: monday + 240_000,
      notes: expect.anything(),
    });
  });

  test("at its number of samples, and at its share of the disk", async () => {
    for (const [bound, because] of [
      [{ mostSamples: 30 }, "samples"],
      [{ mostBytes: 1000 }, "bytes"],
    ] as const) {
      const recording = await recordingOf({ name: because, ...bound });
      const recordings = await open();
      recordings.start();
      await recordings.begin(recording, "person");
      await write(20);
      await recordings.tick();
      expect(recordings.running()).toHaveLength(1);
      await write(500);
      await recordings.tick();
      await recordings.close();
      expect(await only(recording)).toMatchObject({ endedBecause: because });
    }
  });

  test("where the disk is nearly full", async () => {
    const recording = await recordingOf();
    const recordings = await open();
    await recordings.begin(recording, "person");
    await ticks(recordings);
    expect(recordings.running()).toHaveLength(1);
    free = { free: 400e6, size: 100e9 };
    await ticks(recordings);
    expect(await only(recording)).toMatchObject({ endedBecause: "disk nearly full" });
  });

  test("when it should have, although the server was killed in it and came back later", async () => {
    const recording = await recordingOf({ forSeconds: 600 });
    await (await open()).begin(recording, "person");
    pass(3_600_000);
    const after = await open();
    expect(after.running()).toEqual([]);
    const run = await only(recording);
    expect(run).toMatchObject({ endedBecause: "length", endedAtMs: monday + 600_000 });
    expect(run.notes).toContain("The server was away for 10 min while it ran.");
  });

  test("when it should, where the server came back in it: with what it had taken", async () => {
    const recording = await recordingOf({ forSeconds: 600 });
    const before = await open();
    before.start();
    await before.begin(recording, "person");
    await write(100);
    await before.close();
    pass(100_000);
    const after = await open();
    expect(after.running()).toMatchObject([{ samples: 100, leftMs: 400_000 }]);
    pass(401_000);
    await after.tick();
    expect(await only(recording)).toMatchObject({ endedBecause: "length", endedAtMs: monday + 600_000 });
  });

  test.each([
    ["ahead", 3_600_000],
    ["back", -3_600_000],
  ])("after its length, where the clock is set %s an hour in it", async (way, byMs) => {
    const recording = await recordingOf({ forSeconds: 600 });
    const recordings = await open();
    recordings.start();
    await recordings.begin(recording, "person");
    pass(300_000);
    wallMs += byMs;
    recordings.rebase(wallMs, byMs);
    await recordings.tick();
    expect(recordings.running()).toMatchObject([{ leftMs: 300_000 }]);
    pass(300_500);
    await recordings.tick();
    await recordings.close();
    const run = await only(recording);
    expect(run.endedBecause).toBe("length");
    const lasted = run.parts.reduce((sum, { fromMs, toMs }) => sum + toMs - fromMs, 0);
    expect(lasted).toBe(600_000);
    expect(run.parts).toEqual([
      { fromMs: monday, toMs: monday + 300_000 },
      { fromMs: monday + 300_000 + byMs, toMs: monday + 600_000 + byMs },
    ]);
    expect(run.notes).toContain(`The server's clock was set ${way} by 1 h while it ran.`);
  });

  test("when its recording is removed", async () => {
    const recording = await recordingOf();
    const recordings = await open();
    await recordings.begin(recording, "person");
    await db.database.query("update recording set removed_at = now()");
    await recordings.reread();
    expect(await only(recording)).toMatchObject({ endedBecause: "removed" });
  });
});

describe("by a schedule", () => {
  const schedule = { weekdays: [1, 2, 3, 4, 5], from: "07:20", to: "07:50", zone: "Europe/Berlin" };

  test("a run begins and ends by the clock, once each day, also where the server starts in the middle of it", async () => {
    const recording = await recordingOf({ schedule });
    const first = await open();
    await first.tick();
    expect(first.running()).toEqual([]);
    pass(25 * 60_000); // 07:25
    const second = await open();
    await second.tick();
    await second.tick();
    expect(second.running()).toHaveLength(1);
    const third = await open(); // as after a crash
    await third.tick();
    pass(26 * 60_000);
    await third.tick();
    const run = await only(recording);
    expect(run).toMatchObject({ origin: "schedule", endedBecause: "schedule", endedAtMs: monday + 50 * 60_000 });
    expect(run.notes[0]).toContain("It was to begin 5 min earlier");
    // The clock is set back into it: it has had its run.
    wallMs -= 10 * 60_000;
    third.rebase(wallMs, -600_000);
    await third.tick();
    await only(recording);
    pass(86_400_000);
    await third.tick();
    expect(await runsOf(db.database, recording.id)).toHaveLength(2);
  });
});

test("a run's samples are kept apart from the store's, one an interval, with the newest before it", async () => {
  const recording = await recordingOf({ everySeconds: 5, forSeconds: 60, keepDays: 2 });
  const recordings = await open();
  await write(10);
  await recordings.begin(recording, "person");
  await write(61);
  await recordings.tick();
  pass(30_000);
  await ticks(recordings);
  const run = await only(recording);
  expect(run).toMatchObject({ isKept: true, samples: 13 });
  const [kept] = await keptSeries(db.database, run.id);
  expect(kept).toMatchObject({ counter: "system.cpu.utilization", tags: { machine: "hive" }, of: ["a"] });
  const begins = monday + 10_000;
  expect([...(kept?.column.timeMs ?? [])]).toEqual([
    begins - 1000,
    ...Array.from({ length: 12 }, (_, i) => begins + i * 5000 + 4000),
  ]);
  expect(run.bytes).toBeLessThan(200);
  // As long as the recording says, and no longer.
  pass(3 * 86_400_000);
  const later = await open();
  await later.tick();
  expect(await runOf(db.database, recording.id, run.id)).toBeUndefined();
});
