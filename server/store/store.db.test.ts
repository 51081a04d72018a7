import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { type Batch, batchOf } from "../../core/series/batch.ts";
import { seeded } from "../../core/testing/random.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { Journal } from "./journal.ts";
import { SeriesRegistry } from "./series-registry.ts";
import { slotMs } from "./slots.ts";
import { Store } from "./store.ts";

const start = 100_000 * slotMs;
let db: TestDatabase;
let store: Store;

/** What the store takes for now; writes may be five slots late. */
let now = start + 12 * slotMs;
const open = () => Store.open(db.database, { now: () => now });

beforeEach(async () => {
  now = start + 12 * slotMs;
  db = await testDatabase();
  store = await open();
});
afterEach(async () => {
  await store.close();
  await db.drop();
});

const reopen = async () => {
  await store.close();
  store = await open();
};
const rowsOf = async (id: number, fromMs = 0, toMs = 1e15) => {
  const [column] = await store.read([id], fromMs, toMs);
  return [...(column?.timeMs ?? [])].map((time, i) => [time, column?.value[i]]);
};
const count = async (sql: string) =>
  (await db.database.query<{ n: number }>(`select count(*)::int as n from ${sql}`)).rows[0]?.n;

describe("writing and reading", () => {
  test("what is written is read, half-open, also after a restart and after compaction", async () => {
    await store.write(
      batchOf([
        [1, start, 1.5],
        [2, start, -0],
        [1, start + 5000, 2.5],
      ]),
    );
    const all = [
      [start, 1.5],
      [start + 5000, 2.5],
    ];
    expect(await rowsOf(1)).toEqual(all);
    expect(await rowsOf(1, start, start + 5000)).toEqual([[start, 1.5]]);
    await reopen();
    expect(await rowsOf(1)).toEqual(all);
    await store.compact(start + 10 * slotMs);
    expect(await count("journal")).toBe(0);
    expect(await count("chunk")).toBe(2);
    expect(await rowsOf(1)).toEqual(all);
    await reopen();
    expect(await rowsOf(1)).toEqual(all);
    expect(await rowsOf(2)).toEqual([[start, -0]]);
  });

  test("the same time twice: the last written stays, in head, journal and chunk", async () => {
    await store.write(
      batchOf([
        [1, start, 1],
        [1, start, 2],
      ]),
    );
    await store.write(batchOf([[1, start, 3]]));
    expect(await rowsOf(1)).toEqual([[start, 3]]);
    await reopen();
    expect(await rowsOf(1)).toEqual([[start, 3]]);
    await store.compact(start + 10 * slotMs);
    await store.write(batchOf([[1, start, 4]]));
    expect(await rowsOf(1)).toEqual([[start, 4]]);
    await store.compact(start + 10 * slotMs);
    await store.compact(start + 10 * slotMs);
    expect(await rowsOf(1)).toEqual([[start, 4]]);
    expect(await count("chunk")).toBe(1);
  });

  test("a slot that has not ended five minutes ago is not compacted yet", async () => {
    await store.write(batchOf([[1, start, 1]]));
    await store.compact(start + slotMs + 299_000);
    expect(await count("journal")).toBe(1);
    await store.compact(start + slotMs + 301_000);
    expect(await count("journal")).toBe(0);
  });

  test("batches written while another is being committed are neither lost nor acknowledged early", async () => {
    // Many writers at once, each waiting only for its own batch; what is acknowledged must be in the database at that
    // moment.
    let acknowledged = 0;
    await Promise.all(
      Array.from({ length: 120 }, async (_, i) => {
        await new Promise((done) => setTimeout(done, i * 5));
        await store.write(batchOf([[7, start + i * 1000, i]]));
        const told = ++acknowledged; // others are acknowledged while the count is asked for
        const stored =
          (await db.database.query<{ n: number }>("select coalesce(sum(samples), 0)::int as n from journal")).rows[0]
            ?.n ?? 0;
        expect(stored).toBeGreaterThanOrEqual(told);
      }),
    );
    expect(await rowsOf(7)).toEqual(Array.from({ length: 120 }, (_, i) => [start + i * 1000, i]));
  });

  test("samples per minute, before and after compaction", async () => {
    await store.write(
      batchOf([
        [1, start, 1],
        [2, start + 59_000, 1],
        [1, start + 61_000, 1],
      ]),
    );
    const expected = new Map([
      [start / 60_000, 2],
      [start / 60_000 + 1, 1],
    ]);
    expect(await store.samplesPerMinute(start, start + slotMs)).toEqual(expected);
    await store.compact(start + 10 * slotMs);
    expect(await store.samplesPerMinute(start, start + slotMs)).toEqual(expected);
  });
});

test("random writes, restarts and compactions against a plain map (seed 11)", async () => {
  const random = seeded(11);
  const expected = new Map<string, number>();
  now = start + slotMs;
  for (let round = 0; round < 40; round++) {
    const rows = Array.from({ length: 1 + Math.floor(random() * 30) }, () => {
      // Mostly new, sometimes late by up to five slots, sometimes a time that was there before.
      const late = random() < 0.2 ? Math.floor(random() * 5) * slotMs : 0;
      return [
        1 + Math.floor(random() * 4),
        Math.floor((now - late - random() * 60_000) / 5000) * 5000,
        Math.round(random() * 1e6) / 100,
      ] as const;
    });
    await store.write(batchOf(rows));
    for (const [id, time, value] of rows) expected.set(`${id} ${time}`, value);
    if (random() < 0.3) await store.compact(now);
    if (random() < 0.15) await reopen();
    now += Math.floor(random() * slotMs * 0.7);
  }
  const found = new Map<string, number>();
  const columns = await store.read([1, 2, 3, 4], 0, 1e15);
  columns.forEach((column, i) => {
    column.timeMs.forEach((time, k) => {
      found.set(`${i + 1} ${time}`, column.value[k] as number);
    });
  });
  expect(found.size).toBe(columns.reduce((sum, column) => sum + column.timeMs.length, 0));
  expect(new Map([...found].sort())).toEqual(new Map([...expected].sort()));
});

describe("while the database is away", () => {
  test("what waits is kept, nothing is acknowledged, and it is stored when the database is back", async () => {
    await db.database.query("alter table journal rename to journal_away");
    let acknowledged = false;
    const written = store.write(batchOf([[1, start, 42]])).then(() => {
      acknowledged = true;
    });
    await expect.poll(() => store.health.failure?.message).toContain("journal");
    expect(store.health.waitingSamples).toBe(1);
    expect(acknowledged).toBe(false);
    expect(await rowsOf(1)).toEqual([]);
    await db.database.query("alter table journal_away rename to journal");
    await written;
    expect(store.health).toMatchObject({ failure: undefined, waitingSamples: 0 });
    expect(await rowsOf(1)).toEqual([[start, 42]]);
  });

  test("more waiting samples than it may keep are refused, saying so; what waited before is stored", async () => {
    await db.database.query("alter table journal rename to journal_away");
    const taken: Batch[] = [];
    const journal = new Journal(db.database, 1, new Map(), (batch) => void taken.push(batch), { most: 3 });
    const first = journal.write(
      batchOf([
        [1, start, 1],
        [2, start, 2],
      ]),
    );
    await expect(
      journal.write(
        batchOf([
          [1, start + 1, 1],
          [2, start + 1, 1],
        ]),
      ),
    ).rejects.toThrow("2 samples wait for the database; nothing more is taken until it is back.");
    await db.database.query("alter table journal_away rename to journal");
    await first;
    expect(taken.map(({ length }) => length)).toEqual([2]);
    await journal.close();
  });
});

test("a segment of the journal ends when it holds enough: a start reads several at a time", async () => {
  const journal = new Journal(db.database, 1, new Map(), () => {}, { mostInSegment: 3 });
  for (let i = 0; i < 5; i++) {
    const written = journal.write(
      batchOf([
        [1, 20_000 * i, i],
        [2, 20_000 * i, i],
      ]),
    );
    await journal.flush();
    await written;
  }
  await journal.close();
  const { rows } = await db.database.query(
    "select sum(samples)::int as samples from journal group by segment order by segment",
  );
  expect(rows.map(({ samples }) => samples)).toEqual([4, 4, 2]);
});

describe("series", () => {
  const cpu = {
    counter: "system.cpu.time",
    tags: { machine: "vault", mode: "user" },
    unit: "s",
    kind: "total",
  } as const;
  test("the same series gets the same id, in any order of its tags, in another process, and twice in one call", async () => {
    const [first, again] = await store.series.resolve([cpu, { ...cpu, tags: { mode: "user", machine: "vault" } }]);
    expect(again).toBe(first);
    const other = await SeriesRegistry.open(db.database);
    expect([...(await other.resolve([cpu]))]).toEqual([first]);
    expect(store.series.ofCounter("system.cpu.time")).toEqual([{ id: first, ...cpu, falls: "corrected" }]);
  });
  test("two processes that make the same series at once agree", async () => {
    const other = await SeriesRegistry.open(db.database);
    for (let round = 0; round < 10; round++) {
      const wanted = Array.from({ length: 1000 }, (_, i) => ({
        ...cpu,
        tags: { machine: `m${i}`, round: `${round}` },
      }));
      const [a, b] = await Promise.all([store.series.resolve(wanted), other.resolve([...wanted].reverse())]);
      expect([...a]).toEqual([...b].reverse());
    }
  });
});
