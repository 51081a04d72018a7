import pino from "pino";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { entryWords } from "../../core/differences/words.ts";
import { batchOf } from "../../core/series/batch.ts";
import { gaussian, seeded } from "../../core/testing/random.ts";
import type { ReadingAnswer } from "../../core/reading/document.ts";
import { withUsual } from "../reading/usual-lines.ts";
import { answerReading } from "../reading/answer-reading.ts";
import type { KeptPast } from "../reading/kept-past.ts";
import { Store } from "../store/store.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { InlineExecutor } from "../work/executor.ts";
import { worked } from "../work/work-kind.ts";
import { departures, departuresKind } from "./departures.ts";
import { HourlyPast } from "./hourly-past.ts";
import { listsOf } from "./read-lines.ts";
import { findDifferences } from "./find-differences.ts";

// Twenty-four days of three machines, every five minutes, in the last three hours every half minute. On the last day, a
// Tuesday in Berlin, vault's disk is busy from 07:21 to 07:50 and hive's network follows at 07:25. Since five days ago
// the power of hive is twice what it was; only two days are known of attic.
const minute = 60_000;
const day = 86_400_000;
const until = Date.UTC(2026, 10, 24, 7, 30); // 08:30 in Berlin
const at = (hours: number, minutes: number) => Date.UTC(2026, 10, 24, hours - 1, minutes);
const span = { from: at(7, 20), to: at(7, 50) };
const zone = "Europe/Berlin";
let db: TestDatabase;
let store: Store;

const series = [
  { counter: "system.disk.io_time", tags: { machine: "vault", device: "sda" }, unit: "s", kind: "total" },
  { counter: "system.disk.io_time", tags: { machine: "hive", device: "sda" }, unit: "s", kind: "total" },
  { counter: "system.network.io", tags: { machine: "hive", direction: "transmit" }, unit: "By", kind: "total" },
  { counter: "system.network.io", tags: { machine: "vault", direction: "transmit" }, unit: "By", kind: "total" },
  { counter: "hw.power", tags: { machine: "hive" }, unit: "W", kind: "level" },
  { counter: "hw.power", tags: { machine: "vault" }, unit: "W", kind: "level" },
  { counter: "hw.power", tags: { machine: "attic" }, unit: "W", kind: "level" },
  { counter: "system.uptime", tags: { machine: "vault" }, unit: "s", kind: "level" },
] as const;

beforeAll(async () => {
  db = await testDatabase();
  const begin = until - 24 * day;
  let clock = begin;
  store = await Store.open(db.database, { now: () => clock });
  const ids = await store.series.resolve(series.map((one) => ({ ...one })));
  const random = seeded(7);
  const noisy = (base: number) => base * Math.exp(0.15 * gaussian(random));
  const totals = new Float64Array(4);
  for (let from = begin; from < until; from += 4 * day) {
    const rows: [number, number, number][] = [];
    for (let ms = from; ms < Math.min(from + 4 * day, until); ) {
      const everyMs = ms < until - 180 * minute ? 5 * minute : 30_000;
      const seconds = everyMs / 1000;
      const busy = ms >= at(7, 21) && ms < at(7, 50) ? 0.97 : noisy(0.12);
      const sent = ms >= at(7, 25) && ms < at(7, 50) ? 9e7 : noisy(2e6);
      [busy, noisy(0.1), sent, noisy(1e6)].forEach((rate, i) => {
        totals[i] = (totals[i] as number) + rate * seconds;
        rows.push([ids[i] as number, ms + everyMs, totals[i] as number]);
      });
      rows.push([ids[4] as number, ms, noisy(ms > until - 5 * day ? 120 : 60)]);
      rows.push([ids[5] as number, ms, noisy(80)]);
      if (ms > until - 2 * day) rows.push([ids[6] as number, ms, noisy(40)]);
      rows.push([ids[7] as number, ms, (ms - begin) / 1000]);
      ms += everyMs;
    }
    clock = Math.min(from + 4 * day, until);
    await store.write(batchOf(rows));
  }
  clock = until;
  await store.maintain();
}, 120_000);
afterAll(async () => {
  await store.close();
  await db.drop();
});

const newPast = () => new HourlyPast(store, pino({ level: "silent" }), () => listsOf(store));
const find = (window: { from: number; to: number }, past = newPast()) => {
  const executor = new InlineExecutor(db.database, [worked(departuresKind, (_, given) => departures(given))]);
  return findDifferences({ store, executor, past }, window, zone);
};

test("the past that is kept gives the same answer as one that is read for the question", async () => {
  const read = { renew: async () => {}, of: () => undefined } as unknown as HourlyPast;
  const kept = newPast();
  const told = ({ entries, ...rest }: Awaited<ReturnType<typeof find>>) => ({
    ...rest,
    entries: entries.map(({ machine, subject, atMs, lines }) => [
      machine,
      subject,
      atMs,
      lines.map(({ counter, usual }) => [counter, Number(usual.toPrecision(5))]),
    ]),
  });
  const shares: number[] = [];
  await kept.renew((share) => shares.push(share));
  expect(shares.at(-1)).toBe(1);
  const expected = told(await find(span, read));
  expect(expected.entries.length).toBeGreaterThan(0);
  expect(told(await find(span, kept))).toEqual(expected);
  // A span that lies further back than what is kept is read.
  const before = { from: span.from - 12 * day, to: span.to - 12 * day };
  expect(told(await find(before, kept))).toEqual(told(await find(before, read)));
});

describe("what was different from 07:20 to 07:50", () => {
  test("is told by machine and subject, in the order in which it moved, with what is usual", async () => {
    const { calm, rested, looked, entries } = await find(span);
    expect({ calm, rested, looked }).toEqual({ calm: false, rested: { weeks: 3 }, looked: series.length - 1 });
    const inOrder = [...entries].sort((a, b) => a.atMs - b.atMs);
    expect(inOrder.map(({ machine, subject }) => `${machine} ${subject}`)).toEqual(["vault Disks", "hive Network"]);
    const [disk, network] = inOrder;
    expect(Math.abs((disk?.atMs ?? 0) - at(7, 21))).toBeLessThanOrEqual(minute);
    expect(Math.abs((network?.atMs ?? 0) - at(7, 25))).toBeLessThanOrEqual(minute);
    expect(disk?.lines[0]?.usual).toBeCloseTo(0.12, 1);
    expect(entryWords(disk as NonNullable<typeof disk>, () => "07:21")).toMatch(
      /^vault: .* \(sda\) 9\d(\.\d)? %, usually 12(\.\d)? %, from 07:21$/,
    );
  });
  test("does not tell what has been so for days, nor a clock that runs", async () => {
    const { entries } = await find(span);
    expect(entries.flatMap(({ lines }) => lines.map(({ counter }) => counter))).not.toContain("hw.power");
    expect(entries.flatMap(({ lines }) => lines.map(({ counter }) => counter))).not.toContain("system.uptime");
  });
  test("of whose past too little is known stands apart", async () => {
    expect((await find(span)).apart).toEqual([{ counter: "hw.power", machine: "attic", series: 1 }]);
  });
});

describe("a calm span", () => {
  test.each([
    ["the same half hour of the day before", { from: span.from - day, to: span.to - day }],
    ["an hour of the night", { from: at(3, 0), to: at(4, 0) }],
    ["a minute", { from: at(5, 30), to: at(5, 31) }],
  ])("%s: nothing is told", async (_, window) => {
    expect(await find(window)).toMatchObject({ calm: true, entries: [] });
  });
  test("before anything was known: nothing, and everything of which something is known apart", async () => {
    const { calm, rested, entries } = await find({ from: until - 60 * day, to: until - 60 * day + 30 * minute });
    expect({ calm, rested, entries }).toEqual({ calm: true, rested: { weeks: 0 }, entries: [] });
  });
});

test("two days are looked at as well: the hour that left its usual is found in them", async () => {
  const { entries } = await find({ from: until - 2 * day, to: until });
  expect(entries.map(({ machine }) => machine).sort()).toEqual(["hive", "vault"]);
});

test("what changed inside a span of days and stayed so is told, for the day before the span was not so", async () => {
  const { entries } = await find({ from: until - 6.5 * day, to: until });
  const power = entries.find(({ machine, subject }) => machine === "hive" && subject === "Hardware and power");
  expect(power?.lines.map(({ counter }) => counter)).toEqual(["hw.power"]);
});

describe("a reading beside what is usual", () => {
  const reading = { sentences: { a: { counter: "system.disk.io_time", lines: "each" as const } }, zone, usual: true };
  test("has the usual of each line at its steps: an eighth, while one of them is busy", async () => {
    const { lines } = await answerReading(store, { ...reading, step: 60, window: span });
    expect(lines).toHaveLength(2);
    for (const { usual } of lines) {
      expect(usual?.mid).toHaveLength(30);
      for (const mid of usual?.mid ?? []) expect(Math.abs((mid ?? 0) - 0.12)).toBeLessThan(0.03);
      expect((usual?.low[7] ?? 0) < (usual?.mid[7] ?? 0) && (usual?.mid[7] ?? 0) < (usual?.high[7] ?? 0)).toBe(true);
    }
    expect(
      Math.max(...(lines.find(({ tags }) => tags["machine"] === "vault")?.values ?? []).map(Number)),
    ).toBeGreaterThan(0.9);
  });
  test("of a week it is told by the hour, and what stands beside it has none of its own", async () => {
    const week = { from: until - 7 * day, to: until };
    const { lines } = await answerReading(store, { ...reading, step: 3600, beside: "7d", window: week });
    const [present, earlier] = [lines.find((one) => !one.earlier), lines.find((one) => one.earlier)];
    expect(present?.usual?.mid.filter((mid) => mid !== null).length).toBeGreaterThan(160);
    expect(earlier).not.toHaveProperty("usual");
  });
  test("of a week is worked out of what is kept, and told as when it is read", async () => {
    const past = newPast();
    await past.renew();
    let asked = 0;
    const kept: KeptPast = {
      hours: (...window) => {
        asked++;
        return past.hours(...window);
      },
    };
    const week = { ...reading, step: 3600, window: { from: until - 7 * day, to: until } };
    const rounded = ({ lines }: ReadingAnswer) =>
      lines.map(({ tags, usual }) => [tags, usual?.mid.map((v) => v && Number(v.toPrecision(4)))]);
    const ofRead = rounded(await answerReading(store, week));
    expect(rounded(await answerReading(store, week, undefined, undefined, { past: kept }))).toEqual(ofRead);
    expect(asked).toBe(1);
    // A sum of lines is not kept: it is read.
    const sum = { ...week, sentences: { a: { counter: "system.disk.io_time", lines: "together" as const } } };
    const told = await answerReading(store, sum, undefined, undefined, { past: kept });
    expect(rounded(told)).toEqual(rounded(await answerReading(store, sum)));
    expect(asked).toBe(1);
  });
  test("of more lines than can be told apart there is none, which is said", async () => {
    const many: ReadingAnswer = {
      from: span.from,
      stepMs: minute,
      count: 1,
      tier: "raw",
      lines: Array.from({ length: 41 }, (_, n) => ({
        ...{ of: "a", tags: { n: String(n) }, unit: "1", values: [1] },
        ...{ last: 1, min: 1, mean: 1, max: 1 },
      })),
      notes: [],
    };
    const nobodyReads = () => Promise.reject(new Error("it was read"));
    const { lines, notes } = await withUsual(nobodyReads, { ...reading, window: span }, Promise.resolve(many), {
      grid: { fromMs: many.from, stepMs: many.stepMs, count: many.count },
      lineTags: { a: many.lines.map(({ tags }) => tags) },
    });
    expect(lines).toHaveLength(41);
    expect(notes).toEqual(["What is usual is told for 40 lines at most."]);
  });
  test("steps of a day have none, which is said", async () => {
    const { lines, notes } = await answerReading(store, {
      ...reading,
      step: "day",
      window: { from: until - 7 * day, to: until },
    });
    expect(lines.some((one) => one.usual)).toBe(false);
    expect(notes.join()).toContain("shorter than a day");
  });
});
