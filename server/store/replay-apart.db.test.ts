import { afterEach, beforeEach, expect, test } from "vitest";
import { batchOfRuns, joinBatches, type Runs } from "../../core/series/batch.ts";
import { seeded } from "../../core/testing/random.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { type Executor, InlineExecutor } from "../work/executor.ts";
import { WorkerPool } from "../work/worker-pool.ts";
import { journalSegments, replayJournal } from "./journal-replay.ts";
import { slotMs, slotStart } from "./slots.ts";
import { Store } from "./store.ts";
import { replayApart } from "./tasks/replay.ts";
import { storeWork } from "./tasks/store-work.ts";

const beginMs = slotStart(240_000);
let db: TestDatabase;
beforeEach(async () => {
  db = await testDatabase();
});
afterEach(() => db.drop());

const slots = 5;

/** A journal of so many rows over five slots, of two sources, with values that lean on those before them (seed 31). */
async function fill(rows: number): Promise<void> {
  const store = await Store.open(db.database, { now: () => beginMs + slots * slotMs });
  const ids = await store.series.resolve(
    Array.from({ length: 20 }, (_, i) => ({
      counter: "load",
      tags: { of: `${i}` },
      unit: "1",
      kind: "level" as const,
    })),
  );
  const random = seeded(31);
  for (let row = 0; row < rows; row++) {
    const series = Uint32Array.from(ids.slice((row % 2) * 10, (row % 2) * 10 + 10));
    const timeMs = new Float64Array(10).fill(beginMs + row * ((slots * slotMs) / rows));
    const value = Float64Array.from(series, () => Math.round(random() * 1e5) / 100);
    const written = store.write({ series, timeMs, value, length: 10 });
    await store.flush();
    await written;
  }
  await store.close();
}

type Replay = (take: (runs: Runs) => void) => Promise<Map<number, Set<number>>>;
const here: Replay = async (take) => replayJournal(db.database, await journalSegments(db.database), take);
const on =
  (executor: Executor): Replay =>
  async (take) =>
    replayApart(executor, await journalSegments(db.database), Promise.resolve(take));
const nowhere = Promise.resolve(() => {});
const none = batchOfRuns({ series: [], timeMs: [], value: new Float64Array(0), length: 0 });
async function taken(replay: Replay) {
  const batches: ReturnType<typeof joinBatches>[] = [];
  // what is taken is given back for others: it is copied
  const known = await replay((runs) => batches.push(joinBatches([batchOfRuns(runs), none])));
  return { known, ...joinBatches(batches) };
}

test.each(["a thread of its own", "this thread"])(
  "what is unpacked on %s comes whole and in its order, rows that cannot be read set aside",
  async (where) => {
    await fill(130);
    const all = await taken(here);
    expect(all.length).toBe(1300);
    expect([...all.timeMs]).toEqual([...all.timeMs].sort((a, b) => a - b));
    expect([...all.known.values()].map(({ size }) => size)).toEqual(Array.from({ length: slots }, () => 1));
    const executor = where === "this thread" ? new InlineExecutor(db.database, storeWork()) : new WorkerPool(db.url);
    try {
      for (let round = 0; round < 5; round++) expect(await taken(on(executor))).toEqual(all);
      // A row in the middle of the last segment: it and what leans on it are set aside, the others are whole.
      const { rows } = await db.database.query<{ segment: string; seq: number }>(
        `update journal set payload = set_byte(payload, 3, get_byte(payload, 3) # 255)
         where segment = (select max(segment) from journal) and seq = 10 returning segment, seq`,
      );
      expect(rows).toHaveLength(1);
      const rest = await taken(on(executor));
      expect(rest.length).toBe(1300 - 160);
      expect([...rest.value]).toEqual([...all.value.subarray(0, rest.length)]);
      const aside = await db.database.query("select place->>'seq' as seq from quarantine order by 1");
      expect(aside.rows).toHaveLength(16);
      expect(await taken(here)).toEqual(rest);
    } finally {
      await executor.close();
    }
  },
);

async function withPool(work: (pool: WorkerPool) => Promise<void>): Promise<void> {
  const pool = new WorkerPool(db.url);
  try {
    await work(pool);
  } finally {
    await pool.close();
  }
}

test("what cannot be taken is told, and so is a database that went away in the middle", async () => {
  await fill(30);
  await withPool(async (pool) => {
    const segments = await journalSegments(db.database);
    const full = () => {
      throw new Error("there is no room for it");
    };
    const broken = replayApart(pool, segments, Promise.resolve(full));
    await expect(broken).rejects.toThrow("there is no room for it");
    await db.database.query("alter table journal rename to elsewhere");
    await expect(replayApart(pool, segments, nowhere)).rejects.toThrow('relation "journal" does not exist');
    await db.database.query("alter table elsewhere rename to journal");
    expect((await taken(on(pool))).length).toBe(300);
  });
});

test("of a thread that cannot go on the others are told, which wait for their turn", async () => {
  await fill(130);
  await withPool(async (pool) => {
    const segments = await journalSegments(db.database);
    const missing = [{ segment: Number.NaN, samples: 1 }, ...segments];
    await expect(replayApart(pool, missing, nowhere)).rejects.toThrow("NaN is not a whole number");
    expect((await taken(on(pool))).length).toBe(1300);
  });
});

test("threads begin before there is anything that takes: what they read waits for it, and they end where it never comes", async () => {
  await fill(130);
  await withPool(async (pool) => {
    const segments = await journalSegments(db.database);
    const straight = await taken(on(pool));
    let begin: (take: (runs: Runs) => void) => void = () => {};
    const late: Replay = (take) => {
      const replayed = replayApart(pool, segments, new Promise((resolve) => (begin = resolve)));
      setTimeout(() => begin(take), 500);
      return replayed;
    };
    expect(await taken(late)).toEqual(straight);
    const never = replayApart(pool, segments, Promise.reject(new Error("what was alive when cannot be read")));
    await expect(never).rejects.toThrow("what was alive when cannot be read");
    expect((await taken(on(pool))).length).toBe(1300);
  });
});
