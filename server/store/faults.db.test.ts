import { type ChildProcess, fork } from "node:child_process";
import { chmodSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, test } from "vitest";
import { seeded } from "../../core/testing/random.ts";
import { startCluster } from "../../scripts/cluster.mjs";
import { migrate } from "../db/migrate.ts";
import { openDatabase } from "../db/pool.ts";
import { bundled } from "../testing/bundled.ts";
import {
  expectedOf,
  firstRawDay,
  knownBatch,
  makeKnownSeries,
  nowAt,
  openKnown,
  rolledUpOn,
  samplesPerBatch,
  startMs,
  storedIn,
} from "../testing/known-samples.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { Store } from "./store.ts";

// Faults that really happen here: processes are killed, PostgreSQL is stopped, connections are cut, the disk refuses.
// After each, what was
// acknowledged is there, once, by count and sum.

const dayMs = 86_400_000;
const random = seeded(51);

describe("the server killed with SIGKILL", () => {
  let db: TestDatabase;
  let script: string;
  beforeAll(async () => {
    db = await testDatabase();
    script = await bundled("writer-process");
    const store = await Store.open(db.database);
    await makeKnownSeries(store);
    await store.setRetention({ rawDays: 2, fiveMinuteDays: 14, hourDays: 14 });
    await store.close();
  });
  afterAll(() => db.drop());

  let acknowledged = -1;
  /**
   * Runs the writer on from what was acknowledged, and kills it in the middle of `phase`. A batch that was stored but
   * not acknowledged is written again.
   */
  async function killedIn(phase: string, after: number): Promise<void> {
    const child: ChildProcess = fork(script, [db.url, String(acknowledged + 1)], {
      stdio: ["ignore", "inherit", "inherit", "ipc"],
    });
    const least = acknowledged + after;
    let seen = 0;
    await new Promise<void>((resolve, reject) => {
      child.once("exit", (code) =>
        code === null ? resolve() : reject(new Error(`the writer ended by itself (${code})`)),
      );
      child.on("message", (message: { acknowledged?: number; phase?: string }) => {
        if (message.acknowledged !== undefined) acknowledged = message.acknowledged;
        if (phase === "ingest" ? acknowledged >= least : message.phase === phase && acknowledged >= least) {
          // Not at its very start: a little into it, another moment each time (seed 51).
          if (seen++ === 0) setTimeout(() => child.kill("SIGKILL"), random() * 25);
        }
      });
    });
    await new Promise((done) => child.once("close", done).connected || done(undefined));
  }

  test.each([
    ["ingest", 20],
    ["compact", 40],
    ["compact", 60],
    ["rollUp", 90],
    ["expire", 90],
    ["compact", 30],
    ["rollUp", 80],
    ["expire", 120],
    ["ingest", 10],
  ])("in %s: nothing acknowledged is lost, nothing is there twice", async (phase, after) => {
    await killedIn(phase, after);
    const store = await openKnown(db.database, acknowledged);
    try {
      const firstDay = await firstRawDay(db.database);
      const fromMs = Math.max(startMs, firstDay * dayMs);
      const ackedUntil = nowAt(acknowledged);
      expect(await storedIn(store, fromMs, ackedUntil)).toEqual(expectedOf(acknowledged + 1, fromMs));
      // What was under way may be there as well, but nothing that was never written.
      expect((await storedIn(store, ackedUntil)).count % samplesPerBatch).toBe(0);
      // Days whose samples retention has dropped are in rollups, whole.
      for (let day = startMs / dayMs; day < firstDay; day++)
        expect(await rolledUpOn(db.database, day), `day ${day}`).toEqual(
          expectedOf(acknowledged + 1, day * dayMs, (day + 1) * dayMs),
        );
    } finally {
      await store.close();
    }
  });

  test("and retention had days to drop", async () => {
    expect(await firstRawDay(db.database)).toBeGreaterThan(startMs / dayMs + 2);
  });
});

describe("PostgreSQL stopped and started while samples come", () => {
  let folder: string;
  let cluster: Awaited<ReturnType<typeof startCluster>>;
  beforeAll(async () => {
    folder = mkdtempSync(join(tmpdir(), "nubrel-faults-"));
    chmodSync(folder, 0o711);
    cluster = await startCluster(folder);
  });
  afterAll(async () => {
    await cluster.stop("immediate");
    rmSync(folder, { recursive: true, force: true });
  });

  test.each(["fast", "immediate"] as const)(
    "%s: gathering goes on, nothing is acknowledged meanwhile, all is stored afterwards",
    async (mode) => {
      const administrator = openDatabase(cluster.url);
      await administrator.query(`create database ${mode}`);
      await administrator.end();
      const url = new URL(cluster.url);
      url.pathname = `/${mode}`;
      const database = openDatabase(url.href);
      await migrate(database);
      let k = 0;
      const store = await Store.open(database, { now: () => nowAt(k) });
      try {
        await makeKnownSeries(store);
        const writes: Promise<unknown>[] = [];
        let acknowledged = 0;
        const write = () => {
          writes.push(store.write(knownBatch(k)).then(() => void acknowledged++));
          k++;
        };
        for (let i = 0; i < 10; i++) write();
        await cluster.stop(mode);
        const before = acknowledged;
        for (let i = 0; i < 20; i++) write();
        await expect.poll(() => store.health.failure?.message, { timeout: 10_000 }).toBeDefined();
        expect(store.health.waitingSamples).toBe((k - acknowledged) * samplesPerBatch);
        expect(acknowledged - before).toBeLessThanOrEqual(10); // only what had been committed before it stopped
        cluster = await startCluster(folder, { port: cluster.port });
        await Promise.all(writes);
        expect(acknowledged).toBe(30);
        expect(store.health).toMatchObject({ waitingSamples: 0, failure: undefined });
        await store.maintain();
        expect(await storedIn(store)).toEqual(expectedOf(30));
      } finally {
        await store.close();
        await database.end();
      }
      const again = openDatabase(url.href);
      const reopened = await openKnown(again, k);
      expect(await storedIn(reopened)).toEqual(expectedOf(30));
      await reopened.close();
      await again.end();
    },
  );
});

describe("in a database that lives on", () => {
  let db: TestDatabase;
  let store: Store;
  let k = 0;
  beforeEach(async () => {
    k = 0;
    db = await testDatabase();
    store = await Store.open(db.database, { now: () => nowAt(k) });
    await makeKnownSeries(store);
  });
  afterEach(async () => {
    await store.close();
    await db.drop();
  });
  const write = async () => {
    const written = store.write(knownBatch(k++));
    await store.flush();
    await written;
  };
  const expectAll = async () => {
    expect(await storedIn(store)).toEqual(expectedOf(k));
    await store.close();
    store = await openKnown(db.database, k);
    expect(await storedIn(store)).toEqual(expectedOf(k));
  };

  test("connections cut again and again", async () => {
    const cutter = await testDatabaseCutter(db);
    const cutting = setInterval(() => void cutter.cut(), 40);
    try {
      for (let i = 0; i < 25 || cutter.cuts() <= 5; i++) {
        await write();
        if (i % 8 === 7) await store.maintain().catch(() => {}); // may meet a cut; what it began is undone
      }
    } finally {
      clearInterval(cutting);
      await cutter.end();
    }
    expect(cutter.cuts()).toBeGreaterThan(5);
    await store.maintain();
    await expectAll();
  });

  test.each(["journal", "chunk", "rollup_5m"])(
    "the disk is full for %s: nothing is lost, and it goes on when there is room",
    async (table) => {
      for (let i = 0; i < 160; i++) await write();
      await db.database.query(`
      create function refuse() returns trigger language plpgsql as
      $$ begin raise exception 'could not extend file: No space left on device' using errcode = '53100'; end $$;
      create trigger refuse before insert on ${table} for each row execute function refuse()`);
      if (table === "journal") {
        const written = store.write(knownBatch(k++));
        await expect
          .poll(() => (store.health.failure as { code?: string } | undefined)?.code, { timeout: 5000 })
          .toBe("53100");
        expect(store.health.waitingSamples).toBe(samplesPerBatch);
        await db.database.query(`drop trigger refuse on ${table}`);
        await written;
      } else {
        await expect(store.maintain()).rejects.toMatchObject({ code: "53100" });
        expect(await storedIn(store)).toEqual(expectedOf(k));
        await write();
        await db.database.query(`drop trigger refuse on ${table}`);
        await store.maintain();
        expect(
          (await db.database.query<{ n: number }>(`select count(*)::int as n from ${table}`)).rows[0]?.n,
        ).toBeGreaterThan(0);
      }
      await expectAll();
    },
  );

  test("a sender that gets no acknowledgement repeats its batch: it is there once", async () => {
    await write();
    await store.write(knownBatch(0));
    await store.compact(nowAt(k) + 10 * dayMs);
    await store.write(knownBatch(0));
    await store.compact(nowAt(k) + 10 * dayMs);
    await expectAll();
    const { rows } = await db.database.query<{ n: number }>(
      "select sum((select sum(n) from unnest(per_minute) as n))::int as n from gathered",
    );
    expect(rows[0]?.n).toBe(samplesPerBatch);
  });

  test("more waits than may: the newest is refused, what waited is stored; a clock that jumps is refused with its reason", async () => {
    const { refused, taken } = await store.write({
      series: Uint32Array.of(1, 1, 1),
      timeMs: Float64Array.of(nowAt(0) + 700_000, nowAt(0) - 40 * dayMs, Number.NaN),
      value: Float64Array.of(1, 2, 3),
      length: 3,
    });
    expect({ refused, taken }).toEqual({
      taken: 0,
      refused: { "ahead of time": 1, "older than retention": 1, "no time": 1 },
    });
    expect(store.health.refused).toEqual(refused);
    await expectAll();
  });
});

/** Ends the connections of everybody else in a test's database. */
async function testDatabaseCutter(db: TestDatabase) {
  const own = openDatabase(db.url);
  let cuts = 0;
  return {
    cuts: () => cuts,
    async cut() {
      const { rows } = await own
        .query<{ n: number }>(
          "select count(pg_terminate_backend(pid))::int as n from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()",
        )
        .catch(() => ({ rows: [] }));
      cuts += rows[0]?.n ?? 0;
    },
    end: () => own.end(),
  };
}
