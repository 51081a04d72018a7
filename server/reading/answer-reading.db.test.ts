import type { OfEvery } from "../../core/series/of-every.ts";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { ReadingDocument } from "../../core/reading/document.ts";
import { batchOf } from "../../core/series/batch.ts";
import { seeded } from "../../core/testing/random.ts";
import { slotMs } from "../store/slots.ts";
import { Store } from "../store/store.ts";
import { CancelledError } from "../work/work-kind.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { answerReading } from "./answer-reading.ts";
import { answerSeveral } from "./answer-several.ts";

// SQL over plain rows of the same samples is the oracle (figures.md), for what lies in the head, in chunks, and in both
// tiers of rollups; seed 23.
const dayMs = 86_400_000;
const start = 20_000 * dayMs; // the first of ten days, so that two periods of hours are full
const days = 24;
const everyMs = 120_000;
const count = (days * dayMs) / everyMs;
const end = start + count * everyMs;
const disks = ["sda", "sdb", "sdc"];
let db: TestDatabase;
let store: Store;
let now = start;

beforeAll(async () => {
  db = await testDatabase();
  store = await Store.open(db.database, { now: () => now });
  const random = seeded(23);
  await db.database.query("create table plain (counter text, disk text, ts bigint, value float8)");
  const ids = await store.series.resolve(
    disks.flatMap((disk) => [
      { counter: "hw.temperature", tags: { machine: "vault", disk }, unit: "Cel", kind: "level" as const },
      { counter: "system.disk.io", tags: { machine: "vault", disk }, unit: "By", kind: "total" as const },
    ]),
  );
  const grown = disks.map(() => 0);
  for (let day = 0; day < days; day++) {
    const rows: [number, number, number][] = [];
    const plain: { counter: string[]; disk: string[]; ts: number[]; value: number[] } = {
      counter: [],
      disk: [],
      ts: [],
      value: [],
    };
    for (let i = (day * count) / days; i < ((day + 1) * count) / days; i++) {
      if (i > 4000 && i < 4050) continue; // silent for more than an hour and a half
      const ts = start + i * everyMs + Math.floor(random() * 1000);
      disks.forEach((disk, k) => {
        // restarts now and then
        grown[k] = random() < 0.0005 ? Math.round(random() * 1000) : (grown[k] as number) + Math.round(random() * 1e6);
        const level = Math.round(random() * 4000) / 100;
        for (const [counter, id, value] of [
          ["hw.temperature", ids[2 * k], level],
          ["system.disk.io", ids[2 * k + 1], grown[k]],
        ] as const) {
          rows.push([id as number, ts, value as number]);
          plain.counter.push(counter);
          plain.disk.push(disk);
          plain.ts.push(ts);
          plain.value.push(value as number);
        }
      });
    }
    now = start + (day + 1) * dayMs;
    await store.write(batchOf(rows));
    await db.database.query(
      "insert into plain select * from unnest($1::text[], $2::text[], $3::bigint[], $4::float8[])",
      [plain.counter, plain.disk, plain.ts, plain.value],
    );
  }
  await db.database.query("create index on plain (counter, disk, ts)");
  await db.database.query("analyze plain");
  await store.maintain();
});
afterAll(async () => {
  await store.close();
  await db.drop();
});

const aggregates: Readonly<Record<Exclude<OfEvery, "mean" | "sum">, string>> = {
  min: "min(value)",
  max: "max(value)",
  count: "count(value)",
  first: "(array_agg(value order by ts))[1]",
  last: "(array_agg(value order by ts desc))[1]",
  deviation: "coalesce(stddev_samp(value), 0)",
  p50: "percentile_cont(0.5) within group (order by value)",
  p90: "percentile_cont(0.9) within group (order by value)",
  p95: "percentile_cont(0.95) within group (order by value)",
  p99: "percentile_cont(0.99) within group (order by value)",
};
/**
 * The reach of a sample: three times the interval. The exact interval that is measured differs by ms, which the silence
 * alone shows.
 */
const reach = 3 * everyMs;
/** Until when each sample of a level holds. */
const holds = `select disk, ts as from_ts, least(lead(ts) over (partition by disk order by ts), ts + ${reach}) as to_ts, value from plain where counter = 'hw.temperature'`;
/** The increases of a total with the times between which they came; a fall is a restart at 0. */
const pairs = `select disk, before_ts, ts, case when value >= before then value - before else value end as grown
  from (select disk, ts, value, lag(value) over w as before, lag(ts) over w as before_ts from plain where counter = 'system.disk.io' window w as (partition by disk order by ts)) as neighbours
  where before is not null`;
/**
 * Cuts what lasts from `from_ts` to `to_ts` into steps ($2 ms from $1 on), each with how much of it lies in the step.
 */
const inSteps = (
  rows: string,
) => `select part.*, step::int, least(to_ts, $1::bigint + (step + 1) * $2::bigint) - greatest(from_ts, $1::bigint + step * $2::bigint) as overlap
  from (${rows}) as part, generate_series(greatest(from_ts - $1::bigint, 0) / $2::bigint, (least(to_ts, $3::bigint) - 1 - $1::bigint) / $2::bigint) as step
  where to_ts > $1::bigint and from_ts < $3::bigint`;
const spread = pairs.replace("disk, before_ts, ts,", "disk, before_ts as from_ts, ts as to_ts,");

interface Case {
  readonly window: readonly [from: number, to: number];
  readonly step: number;
  readonly tier: string;
}

const cases: Readonly<Record<string, Case>> = {
  "the last ten hours in steps of 4 min, from chunks and head": {
    window: [end - 10 * 3_600_000, end],
    step: 240,
    tier: "raw",
  },
  "a day with a silence in steps of 10 min, from rollups": {
    window: [start + 5 * dayMs, start + 6 * dayMs],
    step: 600,
    tier: "5m",
  },
  "all in steps of 15 min, from rollups of 5 min, chunks and head": { window: [start, end], step: 900, tier: "5m" },
  "all in steps of 2 h, from rollups of hours, of 5 min, chunks and head": {
    window: [start, end],
    step: 7200,
    tier: "1h",
  },
  "all in days": { window: [start, end], step: 86_400, tier: "1h" },
};

async function fromSql(sql: string, parameters: readonly unknown[]): Promise<Map<string, number>> {
  const { rows } = await db.database.query<{ line: string; step: number; value: number }>(sql, [...parameters]);
  return new Map(rows.map(({ line, step, value }) => [`${line} ${step}`, Number(value)]));
}

/**
 * `digits` that must agree; `holdsMore` where steps without a sample of their own hold the one before, which the oracle
 * does not say.
 */
async function expectSame(
  { window: [from, to], step, tier }: Case,
  sentence: ReadingDocument["sentences"][string],
  expected: ReadonlyMap<string, number>,
  digits = 9,
  holdsMore = false,
): Promise<void> {
  const answer = await answerReading(store, { window: { from, to }, step, sentences: { x: sentence } });
  const found = new Map<string, number>();
  for (const { tags, values } of answer.lines)
    for (const [i, value] of values.entries()) if (value !== null) found.set(`${tags["disk"] ?? "all"} ${i}`, value);
  expect(answer.notes).toEqual([]);
  expect([...found.keys()].filter((key) => !holdsMore || expected.has(key)).sort()).toEqual(
    [...expected.keys()].sort(),
  );
  expect(found.size - expected.size).toBeLessThanOrEqual(holdsMore ? 2 * disks.length : 0);
  // Where the silence begins, the last sample holds for three intervals as they are measured: a second more or less of
  // 360.
  const silenceStep = String(Math.floor((start + 4000 * everyMs + reach - answer.from) / answer.stepMs));
  const wrong = [...expected].filter(
    ([key, value]) =>
      !(
        Math.abs((found.get(key) as number) - value) <=
        (key.split(" ")[1] === silenceStep ? 0.02 : 10 ** -digits) * Math.max(1, Math.abs(value))
      ),
  );
  expect(wrong.map(([key, value]) => [key, value, found.get(key)])).toEqual([]);
  if (tier) expect(answer.tier).toBe(tier);
}

describe.each(Object.entries(cases))("%s", (_name, one) => {
  const [from, to] = one.window;
  const stepMs = one.step * 1000;
  const bySteps = (sql: string) =>
    `select disk as line, ((ts - $1::bigint) / $2::bigint)::int as step, ${sql} as value from plain where counter = 'hw.temperature' and ts >= $1::bigint and ts < $3::bigint group by 1, 2`;

  test.each(Object.entries(aggregates))("%s of every step of a level", async (ofEvery, sql) => {
    const isRolled = ["min", "max", "count", "last"].includes(ofEvery);
    await expectSame(
      { ...one, tier: isRolled ? one.tier : "raw" },
      { counter: "hw.temperature", of_every: ofEvery as OfEvery },
      await fromSql(bySteps(sql), [from, stepMs, to]),
      9,
      true,
    );
  });

  test("mean of every step of a level, weighted by for how long each sample held", async () => {
    const expected = await fromSql(
      `select disk as line, step, sum(value * overlap) / sum(overlap) as value from (${inSteps(holds)}) as held where overlap > 0 group by 1, 2`,
      [from, stepMs, to],
    );
    await expectSame(one, { counter: "hw.temperature" }, expected, 5);
  });

  test("sum of every step of a level: its integral, in hours", async () => {
    const expected = await fromSql(
      `select disk as line, step, sum(value * overlap) / 3600000 as value from (${inSteps(holds)}) as held where overlap > 0 group by 1, 2`,
      [from, stepMs, to],
    );
    await expectSame(one, { counter: "hw.temperature", of_every: "sum" }, expected, 4);
  });

  test.each([
    ["increase", undefined],
    [undefined, "sum"],
  ] as const)(
    "%s %s of a total, its restarts counted from 0, spread between its samples and over silences",
    async (as, ofEvery) => {
      const expected = await fromSql(
        `select disk as line, step, sum(grown * overlap / (to_ts - from_ts)) as value from (${inSteps(spread)}) as held where overlap > 0 group by 1, 2`,
        [from, stepMs, to],
      );
      await expectSame(
        one,
        { counter: "system.disk.io", ...(as && { as }), ...(ofEvery && { of_every: ofEvery }) },
        expected,
      );
    },
  );

  test.each([
    ["mean", "sum(grown * overlap / (to_ts - from_ts)) / sum(overlap) * 1000"],
    ["min", "min(grown * 1000 / (to_ts - from_ts))"],
    ["max", "max(grown * 1000 / (to_ts - from_ts))"],
  ])("%s of a total's rate, spread between its samples, none over a silence", async (ofEvery, sql) => {
    const expected = await fromSql(
      `select disk as line, step, ${sql} as value from (${inSteps(spread)}) as held where to_ts - from_ts <= ${reach} and overlap > 0 group by 1, 2`,
      [from, stepMs, to],
    );
    await expectSame(
      one,
      { counter: "system.disk.io", of_every: ofEvery as OfEvery },
      expected,
      one.tier === "raw" ? 9 : 6,
    );
  });

  test.each(["hw.temperature", "system.disk.io"])(
    "each step's extremes stand beside the means of %s: no peak is lost to a coarse step",
    async (counter) => {
      const read = (sentence: object, extremes = false) =>
        answerReading(store, {
          window: { from, to },
          step: one.step,
          extremes,
          sentences: { x: { counter, ...sentence } },
        });
      const { lines } = await read({}, true);
      const lows = await read({ of_every: "min" });
      const highs = await read({ of_every: "max" });
      expect(lines.map((line) => line.lows)).toEqual(lows.lines.map(({ values }) => values));
      expect(lines.map((line) => line.highs)).toEqual(highs.lines.map(({ values }) => values));
      expect((await read({ lines: "together" }, true)).lines[0]?.highs).toBeUndefined();
    },
  );

  test.each([
    ["sum", "sum"],
    ["mean", "avg"],
    ["min", "min"],
    ["max", "max"],
    ["count", "count"],
    ["p95", "percentile_cont(0.95) within group"],
  ])("the %s of the disks' means, together", async (combine, sql) => {
    const means = `select disk as line, step, sum(value * overlap) / sum(overlap) as mean from (${inSteps(holds)}) as held where overlap > 0 group by 1, 2`;
    const value = combine === "p95" ? `${sql} (order by mean)` : `${sql}(mean)`;
    const expected = await fromSql(
      `select 'all' as line, step, ${value} as value from (${means}) as means group by step`,
      [from, stepMs, to],
    );
    await expectSame(one, { counter: "hw.temperature", lines: "together", combine: combine as "sum" }, expected, 5);
  });
});

test("a condition leaves only what meets it", async () => {
  const answer = await answerReading(store, {
    window: { from: end - 3_600_000, to: end },
    step: 900,
    sentences: {
      x: {
        counter: "hw.temperature",
        where: [
          { tag: "disk", not: ["sda"] },
          { tag: "disk", like: "sd*" },
        ],
      },
    },
  });
  expect(answer.lines.map(({ tags }) => tags["disk"])).toEqual(["sdb", "sdc"]);
});

describe("what is not kept as samples any more", () => {
  let later: Store;
  beforeAll(async () => {
    later = await Store.open(db.database, { now: () => end + 20 * dayMs });
  });
  afterAll(() => later.close());
  const ask = (sentence: Partial<ReadingDocument["sentences"][string]>, step: number) =>
    answerReading(later, {
      window: { from: start, to: start + dayMs },
      step,
      sentences: { x: { counter: "hw.temperature", ...sentence } },
    });

  test("is read by five minutes, and the answer says so", async () => {
    const answer = await ask({}, 60);
    expect(answer).toMatchObject({
      stepMs: 300_000,
      tier: "5m",
      notes: ["Part of this window is kept in buckets of 5 min only. The step is 5 min."],
    });
    expect(answer.lines[0]?.values.filter((v) => v !== null).length).toBe(288);
  });
  test("percentiles are worked out over means of 5 min, and the answer says so", async () => {
    const answer = await ask({ of_every: "p95" }, 3600);
    expect(answer.notes).toEqual([
      "x: worked out over means of 5 min, for samples are not kept as long as this window reaches back.",
    ]);
    const expected = await fromSql(
      `select disk as line, step / 12 as step, percentile_cont(0.95) within group (order by mean) as value
       from (select disk, step, sum(value * overlap) / sum(overlap) as mean from (${inSteps(holds)}) as held where overlap > 0 group by 1, 2) as means
       group by 1, step / 12`,
      [start, 300_000, start + dayMs],
    );
    expect(answer.lines[0]?.values[7]).toBeCloseTo(expected.get("sda 7") as number, 3);
    expect(expected.size).toBe(72);
  });
});

test("slots before this one are in chunks, nothing is left in the journal but what has not ended", async () => {
  const { rows } = await db.database.query<{ n: number }>("select count(distinct slot)::int as n from chunk");
  expect(rows[0]?.n).toBe((end - start) / slotMs - 1);
  expect((await db.database.query("select distinct slot from journal")).rows).toHaveLength(1);
});

describe("the readings of a page together", () => {
  const x = { counter: "hw.temperature" };
  const io = { counter: "system.disk.io", lines: "together" as const };
  const documents: readonly ReadingDocument[] = [
    { window: { from: end - 3_600_000, to: end }, step: 240, sentences: { x } },
    { window: { from: start, to: end }, step: 7200, sentences: { x: io } },
    { window: { from: start, to: end }, step: 86_400, sentences: { x: { ...x, of_every: "p95" } } },
    {
      window: { from: end - 7_200_000, to: end },
      points: 30,
      sentences: { x, y: io },
      figure: "x * 2 + y * 0",
      unit: "Cel",
    },
    { window: { from: end - 7_200_000, to: end }, step: 600, sentences: { x }, beside: "1d" },
    { window: { from: end - 7_200_000, to: end }, sentences: { x: { counter: "nothing.such" } } },
  ];
  test("give what each gives alone, whatever else is asked; one that is wrong takes none with it", async () => {
    const answers = new Map<number, unknown>();
    const faults: [number, string][] = [];
    const wrong: ReadingDocument = { window: { from: 0, to: 1 }, sentences: { x }, figure: "x +" };
    await answerSeveral(store, [...documents, wrong], {
      answered: (index, answer) => void answers.set(index, answer),
      failed: (index, error) => faults.push([index, (error as Error).message]),
    });
    expect(faults).toEqual([[documents.length, expect.stringContaining("cannot be read")]]);
    for (const [index, document] of documents.entries())
      expect(answers.get(index)).toEqual(await answerReading(store, document));
  });
  test("asked for by nobody any more they are given up; the store works on", async () => {
    const gone = new AbortController();
    gone.abort();
    const seen: number[] = [];
    await expect(
      answerSeveral(store, documents, { answered: (index) => void seen.push(index), failed: () => {} }, gone.signal),
    ).rejects.toThrow(CancelledError);
    expect(seen).toEqual([]);
    await answerSeveral(store, documents.slice(0, 1), { answered: (index) => void seen.push(index), failed: () => {} });
    expect(seen).toEqual([0]);
  });
  test("each is answered once, also where whoever takes one fails; the tags of machines are known in all", async () => {
    const seen: number[] = [];
    const faults: number[] = [];
    await answerSeveral(store, documents, {
      answered: (index) => {
        seen.push(index);
        if (index === 0) throw new Error("the page has gone");
      },
      failed: (index) => faults.push(index),
    });
    expect([...seen].sort()).toEqual(documents.map((_, i) => i));
    expect(faults).toEqual([0]);
    const { MachineNames } = await import("../machines/machine-names.ts");
    const names = await MachineNames.open(db.database);
    await names.set("vault", { friendlyName: "", tags: { site: "rack" } });
    const lines: number[] = [];
    const where = (value: string): ReadingDocument => ({
      window: { from: end - 3_600_000, to: end },
      step: 240,
      sentences: { x: { ...x, where: [{ tag: "site", is: [value] }] } },
    });
    await answerSeveral(
      store,
      [where("rack"), where("moon")],
      {
        answered: (index, answer) => void (lines[index] = answer.lines.length),
        failed: (_, error) => expect(error).toBeUndefined(),
      },
      undefined,
      names,
    );
    expect(lines).toEqual([disks.length, 0]);
  });
});

test("beside an earlier time: the same as reading that window, at this window's times, marked", async () => {
  const sentences = { x: { counter: "hw.temperature" } };
  const window = { from: end - 7_200_000, to: end };
  const beside = await answerReading(store, { window, step: 600, sentences, beside: "7d" });
  const before = await answerReading(store, {
    window: { from: window.from - 7 * dayMs, to: window.to - 7 * dayMs },
    step: 600,
    sentences,
  });
  const now = await answerReading(store, { window, step: 600, sentences });
  expect(beside.lines.filter(({ earlier }) => earlier === undefined)).toEqual(now.lines);
  expect(beside.lines.filter(({ earlier }) => earlier === "7d").map(({ tags, values }) => [tags, values])).toEqual(
    before.lines.map(({ tags, values }) => [tags, values]),
  );
});

test("what was gathered by slots is what was gathered by minutes, added up", async () => {
  const minutes = await store.samplesPerMinute(start, end);
  const expected = new Map<number, number>();
  for (const [minute, n] of minutes)
    expected.set(
      Math.floor((minute * 60_000) / slotMs),
      (expected.get(Math.floor((minute * 60_000) / slotMs)) ?? 0) + n,
    );
  expect([...(await store.samplesPerSlot(start, end))].sort(([a], [b]) => a - b)).toEqual(
    [...expected].sort(([a], [b]) => a - b),
  );
});
