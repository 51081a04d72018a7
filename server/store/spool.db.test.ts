import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type pg from "pg";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { batchOf } from "../../core/series/batch.ts";
import { openConnection } from "../db/pool.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import type { Page } from "../../core/pages/page.ts";
import { defaultLimits } from "../sources/intake-limit-rows.ts";
import { SeriesBudget, SeriesTable } from "../sources/series-table.ts";
import { Spool } from "./spool.ts";
import { Store } from "./store.ts";

let db: TestDatabase;
let administrator: pg.Client;
let folder: string;
let file: string;
const now = Date.now();
beforeEach(async () => {
  db = await testDatabase();
  administrator = await openConnection(process.env["NUBREL_TEST_DATABASE_URL"] as string, () => {});
  folder = mkdtempSync(join(tmpdir(), "nubrel-spool-"));
  file = join(folder, "spool");
});
afterEach(async () => {
  await setAway(false);
  await administrator.end();
  await db.drop();
  rmSync(folder, { recursive: true });
});

async function setAway(isAway: boolean): Promise<void> {
  const name = new URL(db.url).pathname.slice(1);
  await administrator.query(`alter database ${name} with allow_connections ${!isAway}`);
  if (isAway)
    await administrator.query("select pg_terminate_backend(pid) from pg_stat_activity where datname = $1", [name]);
}
const series = (n: number) => ({
  counter: "system.uptime",
  tags: { machine: `m${n}` },
  unit: "s",
  kind: "total" as const,
});
/** Takes values of some of them at a moment, as the gathering of a source does. */
const take = (store: Store, values: readonly (readonly [n: number, value: number])[], timeMs: number) => {
  const table = new SeriesTable(
    store,
    { id: undefined, kind: "import", machine: "", tags: {}, take: [] },
    new SeriesBudget(),
    undefined,
  );
  const page: Page = {
    which: Uint32Array.from(values, (_, i) => i),
    timeMs: new Float64Array(values.length).fill(timeMs),
    value: Float64Array.from(values, ([, value]) => value),
    length: values.length,
    found: values.length,
    leftOut: new Map(),
  };
  return table
    .write(
      values.map(([n]) => series(n)),
      page,
      defaultLimits,
      { nowMs: now },
    )
    .catch(() => {});
};
const open = () => Store.open(db.database, { spool: new Spool(file) });
const valuesOf = async (store: Store, n: number) => [
  ...((await store.read([store.series.known([series(n)])[0] as number], 0, 1e15))[0]?.value ?? []),
];

test("what waits for a database that is away outlives the server, of known series and of new ones, and is stored once when it is back", async () => {
  let store = await open();
  const [id] = await store.series.resolve([series(1)]);
  await store.write(batchOf([[id as number, now - 9000, 1]]));
  await setAway(true);
  void store.write(batchOf([[id as number, now - 8000, 2]])).catch(() => {});
  void take(
    store,
    [
      [1, 3],
      [2, 30],
    ],
    now - 7000,
  );
  await vi.waitFor(() => expect(store.health).toMatchObject({ waitingSamples: 3, onDisk: true }), { timeout: 10_000 });
  // A little later more comes, just before the end.
  void take(
    store,
    [
      [1, 4],
      [3, 40],
    ],
    now - 6000,
  );
  await store.close();

  await setAway(false);
  store = await open();
  expect([await valuesOf(store, 1), await valuesOf(store, 2), await valuesOf(store, 3)]).toEqual([
    [1, 2, 3, 4],
    [30],
    [40],
  ]);
  expect(existsSync(file)).toBe(false);
  await store.close();
  store = await open();
  expect((await db.database.query<{ n: number }>("select sum(samples)::int as n from journal")).rows[0]?.n).toBe(6);
  await store.close();
}, 40_000);

test("when the database comes back to the same server, the spool is taken away with the commit", async () => {
  const store = await open();
  const [id] = await store.series.resolve([series(1)]);
  await setAway(true);
  const written = store.write(batchOf([[id as number, now, 2]]));
  await vi.waitFor(() => expect(existsSync(file)).toBe(true), { timeout: 10_000 });
  await setAway(false);
  await written;
  expect(existsSync(file)).toBe(false);
  expect(store.health.onDisk).toBe(false);
  await store.close();
}, 40_000);

test("a spool of another database is not stored into this one; it stands aside", async () => {
  const other = new Spool(file);
  other.database = "another";
  other.add([{ kind: "batch", batch: batchOf([[1, now, 1]]) }]);
  const store = await open();
  expect((await db.database.query("select from journal")).rowCount).toBe(0);
  expect(existsSync(`${file}.of-another-database`)).toBe(true);
  await store.close();
});

test("a record that a death cut off or a disk damaged is passed over; the spool is bounded", () => {
  const spool = new Spool(file, 200);
  expect(
    spool.add([
      {
        kind: "batch",
        batch: batchOf([
          [1, now, 1],
          [2, now, 2],
        ]),
      },
      { kind: "batch", batch: batchOf([[3, now, 3]]) },
    ]),
  ).toBe(true);
  expect(
    spool.add([
      { kind: "batch", batch: batchOf(Array.from({ length: 10 }, (_, i) => [i, now, i] as [number, number, number])) },
    ]),
  ).toBe(false);
  expect(spool.failure?.message).toMatch(/^the spool has \d+ bytes, and may have 200$/);
  expect(spool.read()).toHaveLength(2);
  const bytes = readFileSync(file);
  for (let length = 0; length < bytes.length; length++) {
    writeFileSync(file, bytes.subarray(0, length));
    expect(new Spool(file).read().length).toBeLessThan(2);
    writeFileSync(file, bytes);
  }
  const damaged = Buffer.from(bytes);
  damaged[60] = (damaged[60] as number) ^ 1;
  writeFileSync(file, damaged);
  expect(spool.read()).toEqual([{ kind: "batch", batch: batchOf([[3, now, 3]]) }]);
});
