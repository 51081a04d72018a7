import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { OfEvery } from "../../core/reading/document.ts";
import { batchOf } from "../../core/series/batch.ts";
import { seeded } from "../../core/testing/random.ts";
import { Store } from "../store/store.ts";
import { slotMs } from "../store/slots.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { answerReading } from "./answer-reading.ts";

// SQL over plain rows of the same samples is the oracle (figures.md); seed 23.
const start = 200_000 * slotMs;
const count = 1500;
const everyMs = 5000;
const disks = ["sda", "sdb", "sdc"];
let db: TestDatabase;
let store: Store;

beforeAll(async () => {
  db = await testDatabase();
  store = await Store.open(db.database);
  const random = seeded(23);
  await db.database.query("create table plain (counter text, disk text, ts bigint, value float8, primary key (counter, disk, ts))");
  for (const disk of disks) {
    const [level, total] = await store.series.resolve([
      { counter: "hw.temperature", tags: { machine: "vault", disk }, unit: "Cel", kind: "level" },
      { counter: "system.disk.io", tags: { machine: "vault", disk }, unit: "By", kind: "total" },
    ]);
    let grown = 0;
    const rows = Array.from({ length: count }, (_, i) => {
      grown = i === 700 ? Math.round(random() * 1000) : grown + Math.round(random() * 1e6); // restarted once
      return { ts: start + i * everyMs, level: Math.round(random() * 4000) / 100, total: grown };
    });
    await store.write(batchOf(rows.flatMap(({ ts, level: l, total: t }) => [[level as number, ts, l] as const, [total as number, ts, t] as const])));
    for (const counter of ["hw.temperature", "system.disk.io"]) {
      await db.database.query("insert into plain select $1::text, $2::text, * from unnest($3::bigint[], $4::float8[])", [counter, disk, rows.map(({ ts }) => ts), rows.map(({ level: l, total: t }) => (counter === "hw.temperature" ? l : t))]);
    }
  }
  // The first slot in chunks, the second in journal and head.
  await store.compact(start + slotMs + 600_000);
});
afterAll(async () => {
  await store.close();
  await db.drop();
});

const to = start + count * everyMs;
const aggregates: Record<Exclude<OfEvery, "p50" | "p90" | "p95" | "p99">, string> & Record<string, string> = {
  mean: "avg(value)",
  min: "min(value)",
  max: "max(value)",
  sum: "sum(value)",
  count: "count(value)",
  first: "(array_agg(value order by ts))[1]",
  last: "(array_agg(value order by ts desc))[1]",
  deviation: "coalesce(stddev_samp(value), 0)",
  p50: "percentile_cont(0.5) within group (order by value)",
  p90: "percentile_cont(0.9) within group (order by value)",
  p95: "percentile_cont(0.95) within group (order by value)",
  p99: "percentile_cont(0.99) within group (order by value)",
};

async function fromSql(sql: string, parameters: readonly unknown[]): Promise<Map<string, number>> {
  const { rows } = await db.database.query<{ line: string; step: number; value: number }>(sql, [...parameters]);
  return new Map(rows.map(({ line, step, value }) => [`${line} ${step}`, Number(value)]));
}

async function expectSame(document: Parameters<typeof answerReading>[1], lineOf: (tags: Readonly<Record<string, string>>) => string, expected: ReadonlyMap<string, number>, digits = 6): Promise<void> {
  const answer = await answerReading(store, document);
  const found = new Map<string, number>();
  for (const { tags, values } of answer.lines) for (const [i, value] of values.entries()) if (value !== null) found.set(`${lineOf(tags)} ${i}`, value);
  expect([...found.keys()].sort()).toEqual([...expected.keys()].sort());
  for (const [key, value] of expected) expect(found.get(key), key).toBeCloseTo(value, digits);
}

describe.each([15, 60, 900])("steps of %d s", (step) => {
  test.each(Object.entries(aggregates))("%s of every step of a level", async (ofEvery, sql) => {
    const expected = await fromSql(`select disk as line, ((ts - $1::bigint) / $2::bigint)::int as step, ${sql} as value from plain where counter = 'hw.temperature' group by 1, 2`, [start, step * 1000]);
    await expectSame({ window: { from: start, to }, step, sentences: { x: { counter: "hw.temperature", of_every: ofEvery as OfEvery } } }, (tags) => tags["disk"] as string, expected);
  });

  test("increase of a total, its restart counted from 0", async () => {
    const expected = await fromSql(
      `select disk as line, ((ts - $1::bigint) / $2::bigint)::int as step, sum(case when value >= before then value - before else value end) as value
       from (select *, lag(value) over (partition by disk order by ts) as before from plain where counter = 'system.disk.io') as pairs
       where before is not null
       group by 1, 2`,
      [start, step * 1000],
    );
    await expectSame({ window: { from: start, to }, step, sentences: { x: { counter: "system.disk.io", as: "increase" } } }, (tags) => tags["disk"] as string, expected, 3);
  });

  test.each([["sum", "sum"], ["mean", "avg"], ["min", "min"], ["max", "max"], ["count", "count"]])("the %s of the disks' means, together", async (combine, sql) => {
    const expected = await fromSql(
      `select 'all' as line, step, ${sql}(mean) as value
       from (select disk, ((ts - $1::bigint) / $2::bigint)::int as step, avg(value) as mean from plain where counter = 'hw.temperature' group by 1, 2) as means
       group by step`,
      [start, step * 1000],
    );
    await expectSame({ window: { from: start, to }, step, sentences: { x: { counter: "hw.temperature", lines: "together", combine: combine as "sum" } } }, () => "all", expected);
  });
});

test("a condition leaves only what meets it", async () => {
  const answer = await answerReading(store, { window: { from: start, to }, step: 900, sentences: { x: { counter: "hw.temperature", where: [{ tag: "disk", not: ["sda"] }, { tag: "disk", like: "sd*" }] } } });
  expect(answer.lines.map(({ tags }) => tags["disk"])).toEqual(["sdb", "sdc"]);
});
