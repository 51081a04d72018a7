import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { ReadingDocument } from "../../core/reading/document.ts";
import { batchOf } from "../../core/series/batch.ts";
import { seeded } from "../../core/testing/random.ts";
import type { NewSeries } from "../store/series-registry.ts";
import { Store } from "../store/store.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { answerReading } from "./answer-reading.ts";

// What a check from outside found wrong, over stored samples: in the head, in chunks, and in both tiers of rollups.
const second = 1000;
const hour = 3_600_000;
const day = 24 * hour;
/** Ten days whole, the clock of Berlin is changed within (29 March 2026, 01:00 UTC). */
const start = Date.UTC(2026, 2, 20);
const days = 14;
const end = start + days * day;
let db: TestDatabase;
let store: Store;
let now = start;

const series = (counter: string, kind: NewSeries["kind"], unit: string, machine = "vault"): NewSeries => ({
  counter,
  tags: { machine },
  unit,
  kind,
});
/**
 * Readings of an hourly counter that grows by 100 an hour; silent for nine hours from the fourth day's third hour on.
 */
const hourly = Array.from({ length: days * 24 + 1 }, (_, h) => [start + h * hour + 120_000, h * 100] as const).filter(
  (_, h) => h < 75 || h > 84,
);
/** A counter every 20 s, with restarts and silences (seed 17). */
const restless: (readonly [number, number])[] = [];
/** 200 W for all the time, every minute. */
const watts: (readonly [number, number])[] = Array.from(
  { length: days * 1440 },
  (_, m) => [start + m * 60_000, 200] as const,
);

beforeAll(async () => {
  db = await testDatabase();
  store = await Store.open(db.database, { now: () => now });
  const random = seeded(17);
  let total = 5e6;
  for (let at = start + 3000; at < end; at += 20 * second) {
    if (random() < 0.0004) at += Math.floor((1 + 10 * random()) * hour);
    total = random() < 0.0005 ? Math.floor(random() * 100) : total + Math.floor(random() * 50);
    restless.push([at, total]);
  }
  const ids = await store.series.resolve([
    series("hourly", "total", "{visit}"),
    series("restless", "total", "By"),
    series("hw.power", "level", "W"),
  ]);
  for (let d = 0; d < days; d++) {
    const rows = [hourly, restless, watts].flatMap((list, k) =>
      list
        .filter(([at]) => at >= start + d * day && at < start + (d + 1) * day)
        .map(([at, value]) => [ids[k] as number, at, value] as const),
    );
    now = start + (d + 1) * day;
    await store.write(batchOf(rows));
    await store.compact();
  }
  now = end + 3 * hour;
  await store.maintain();
}, 120_000);
afterAll(async () => {
  await store.close();
  await db.drop();
});

const sum = (values: readonly (number | null)[]) => values.reduce<number>((a, b) => a + (b ?? 0), 0);
const ask = (
  from: number,
  to: number,
  step: ReadingDocument["step"],
  sentence: ReadingDocument["sentences"][string],
  more: Partial<ReadingDocument> = {},
) =>
  answerReading(store, {
    window: { from, to },
    ...(step !== undefined && { step }),
    sentences: { x: sentence },
    ...more,
  });
/** Growth between two moments, by hand: spread evenly between readings, a fall is a restart. */
function grown(list: readonly (readonly [number, number])[], from: number, to: number): number {
  let all = 0;
  for (let i = 1; i < list.length; i++) {
    const [a, before] = list[i - 1] as readonly [number, number];
    const [b, after] = list[i] as readonly [number, number];
    const overlap = Math.min(b, to) - Math.max(a, from);
    if (overlap > 0) all += ((after >= before ? after - before : after) * overlap) / (b - a);
  }
  return all;
}

describe("growth is conserved", () => {
  const windows: readonly (readonly [string, number, number])[] = [
    ["a day", start + 2 * day, start + 3 * day],
    ["the last hours, from the head", end - 5 * hour, end],
    ["an unaligned day", start + 4 * day + 7 * 60_000 + 13 * second, start + 5 * day + 7 * 60_000 + 13 * second],
    ["over the seam of hours, buckets and samples", start + 8 * day + 1234, end - 4321],
    ["all of it", start, end],
  ];
  test.each(
    windows.flatMap(([name, from, to]) =>
      [60, 300, 450, 3600, 7200, 86_400]
        .filter((step) => (to - from) / step / 1000 <= 5000)
        .map((step) => [name, step, from, to] as const),
    ),
  )("of %s in steps of %d s", async (_, step, from, to) => {
    const { lines } = await ask(from, to, step, { counter: "restless", as: "increase" });
    expect(sum(lines[0]?.values ?? [])).toBeCloseTo(grown(restless, from, to), 3);
    expect((await ask(from, to, step, { counter: "restless" }, { sums: true })).lines[0]?.sum?.value).toBeCloseTo(
      grown(restless, from, to),
      3,
    );
  });
  test("a counter that comes once an hour is there in steps of a minute, at its rate", async () => {
    const { lines, notes } = await ask(start + 30 * hour, start + 32 * hour, 60, { counter: "hourly" });
    expect(notes).toEqual([]);
    expect(lines[0]?.values.every((value) => Math.abs((value ?? 0) - 100 / 3600) < 1e-9)).toBe(true);
    expect(
      sum(
        (await ask(start + 30 * hour, start + 32 * hour, 60, { counter: "hourly", as: "increase" })).lines[0]?.values ??
          [],
      ),
    ).toBeCloseTo(200, 9);
  });
  test("a window that lies in a silence, or begins in one, has its part of what grew over it", async () => {
    const [from, to] = [start + 78 * hour, start + 80 * hour];
    expect(sum((await ask(from, to, 600, { counter: "hourly", as: "increase" })).lines[0]?.values ?? [])).toBeCloseTo(
      grown(hourly, from, to),
      6,
    );
    expect(
      sum((await ask(from, from + 20 * hour, 600, { counter: "hourly", as: "increase" })).lines[0]?.values ?? []),
    ).toBeCloseTo(grown(hourly, from, from + 20 * hour), 6);
    expect(grown(hourly, from, to)).toBeCloseTo(200, 6);
  });
});

describe("a level over time", () => {
  test("200 W for a day and seven minutes are 4.823 kWh, whatever the steps, and in one step", async () => {
    const [from, to] = [start + 3 * day + 12_345, start + 4 * day + 7 * 60_000 + 12_345];
    for (const step of [60, 300, 3600, 86_400, 7 * 86_400]) {
      const { lines } = await ask(from, to, step, { counter: "hw.power", of_every: "sum" }, { sums: true });
      expect(lines[0]?.unit).toBe("W.h");
      expect(sum(lines[0]?.values ?? [])).toBeCloseTo((200 * (to - from)) / hour, 4);
      expect(lines[0]?.sum).toEqual({ value: expect.closeTo((200 * (to - from)) / hour, 4), unit: "W.h" });
    }
  });
});

describe("the calendar of Berlin", () => {
  const zone = "Europe/Berlin";
  test("the day on which the clock is set forward has 23 hours", async () => {
    const answer = await ask(
      Date.UTC(2026, 2, 27, 23),
      Date.UTC(2026, 2, 30, 22),
      "day",
      { counter: "hw.power", of_every: "sum" },
      { zone },
    );
    expect(answer.edges?.map((edge, i, all) => (edge - (all[i - 1] ?? edge)) / hour)).toEqual([0, 24, 23, 24]);
    expect(answer.lines[0]?.values.map((value) => Math.round(value ?? 0))).toEqual([4800, 4600, 4800]);
    // Steps of a day are the zone's as well where they are said in seconds; without a zone they are UTC's.
    expect(
      (
        await ask(
          Date.UTC(2026, 2, 27, 23),
          Date.UTC(2026, 2, 30, 22),
          86_400,
          { counter: "hw.power", of_every: "sum" },
          { zone },
        )
      ).edges,
    ).toEqual(answer.edges);
  });
  test("weeks begin on Mondays, months on their firsts", async () => {
    const weeks = await ask(Date.UTC(2026, 2, 24), Date.UTC(2026, 2, 31), "week", { counter: "hw.power" }, { zone });
    expect(weeks.edges).toEqual([Date.UTC(2026, 2, 22, 23), Date.UTC(2026, 2, 29, 22), Date.UTC(2026, 3, 5, 22)]);
    expect(
      (await ask(Date.UTC(2026, 2, 24), Date.UTC(2026, 3, 2), "month", { counter: "hw.power" }, { zone })).edges,
    ).toEqual([Date.UTC(2026, 1, 28, 23), Date.UTC(2026, 2, 31, 22), Date.UTC(2026, 3, 30, 22)]);
  });
  test("a week earlier is the same clock time: noon of Monday after the change beside noon of Monday before it", async () => {
    const noon = Date.UTC(2026, 2, 30, 10);
    const { lines } = await ask(
      noon,
      noon + hour,
      3600,
      { counter: "restless", as: "increase", earlier: "7d" },
      { zone },
    );
    const before = Date.UTC(2026, 2, 23, 11);
    expect(lines[0]?.values[0]).toBeCloseTo(grown(restless, before, before + hour), 3);
  });
});

describe("calendar steps beside an earlier time", () => {
  test.each([
    ["month", Date.UTC(2026, 2, 1), Date.UTC(2026, 3, 1)],
    ["week", Date.UTC(2026, 2, 23), Date.UTC(2026, 2, 30)],
    ["day", Date.UTC(2026, 2, 25), Date.UTC(2026, 2, 26)],
  ] as const)("a %s is one step, and so is it a day earlier", async (step, from, to) => {
    const { edges, lines } = await ask(from, to, step, { counter: "restless", as: "increase" }, { beside: "1d" });
    expect(edges).toEqual([from, to]);
    expect(lines.map(({ values }) => values)).toEqual([
      [expect.closeTo(grown(restless, from, to), 3)],
      [expect.closeTo(grown(restless, from - day, to - day), 3)],
    ]);
  });
});

describe("a sum over the window", () => {
  test("of a level in watt-hours a second is in watt-hours: the unit decides, not how it is written", async () => {
    const [id] = await store.series.resolve([series("charge", "level", "W.h/s")]);
    await store.write(batchOf(Array.from({ length: 61 }, (_, s) => [id as number, end + s * 60_000, 2] as const)));
    const { lines } = await ask(end, end + hour, 600, { counter: "charge" }, { sums: true });
    expect(lines[0]?.sum).toEqual({ value: expect.closeTo(7200, 6), unit: "W.h" });
  });
});

describe("a counter of 32 bits", () => {
  test("wraps where its source says that it has 32, in samples and in rollups; one that says nothing has restarted", async () => {
    const base = end + 4 * hour;
    const beats = Array.from({ length: 3 * 1440 }, (_, m) => [base + m * 60_000, (4e9 + m * 1e6) % 2 ** 32] as const);
    const [narrow, wide] = await store.series.resolve([
      { ...series("narrow", "total", "By"), falls: 2 ** 32 },
      series("wide", "total", "By"),
    ]);
    now = base + 3 * day;
    await store.write(
      batchOf(
        beats.flatMap(([at, value]) => [[narrow as number, at, value] as const, [wide as number, at, value] as const]),
      ),
    );
    const wrapped = async (counter: string) =>
      sum((await ask(base, base + 3 * day, 3600, { counter, as: "increase" })).lines[0]?.values ?? []);
    const grownThere = (beats.length - 1) * 1e6;
    expect(await wrapped("narrow")).toBeCloseTo(grownThere, 0);
    expect(await wrapped("wide")).toBeLessThan(grownThere - 5e5); // what it had counted before the wrap is lost
    now = base + 4 * day;
    await store.maintain();
    expect(await wrapped("narrow")).toBeCloseTo(grownThere, 0);
    // What the source says outlives a restart of the server.
    const again = await Store.open(db.database, { now: () => now });
    expect(again.series.ofCounter("narrow")[0]?.falls).toBe(2 ** 32);
    expect(again.series.ofCounter("wide")[0]?.falls).toBeUndefined();
    await again.close();
  });
});

test("rollups of the first version are read as they are, and made anew of samples that are still there", async () => {
  const [id] = await store.series.resolve([series("hw.power", "level", "W")]);
  const period = start / day + 5;
  // the highest bit says that it is sealed
  const version = (row?: { readonly payload: Buffer }) => (row?.payload[0] ?? 0) & 0x7f;
  const { rows } = await db.database.query<{ payload: Buffer }>(
    "select payload from rollup_5m where series_id = $1::int and period = $2::int",
    [id, period],
  );
  expect(version(rows[0])).toBe(2);
  await db.database.query("update rollup_5m set payload = $3::bytea where series_id = $1::int and period = $2::int", [
    id,
    period,
    Buffer.from([1, 0, 0]),
  ]);
  const mean = async () =>
    (await ask(start + 5 * day, start + 6 * day, 900, { counter: "hw.power" })).lines[0]?.values.filter(
      (value) => value !== null,
    ).length;
  expect(await mean()).toBeLessThan(5); // a block of the first version that has no buckets
  await db.database.query("insert into rollup_due (tier, period) values ('5m', $1::int)", [period]);
  await store.rollUp(); // hears of what is due, as a start does
  await store.rollUp();
  expect(
    version(
      (
        await db.database.query<{ payload: Buffer }>(
          "select payload from rollup_5m where series_id = $1::int and period = $2::int",
          [id, period],
        )
      ).rows[0],
    ),
  ).toBe(2);
  expect(await mean()).toBe(96);
});
