import pino from "pino";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { SlownessView } from "../../core/api/slowness.ts";
import { batchOf } from "../../core/series/batch.ts";
import { openConnection } from "../db/pool.ts";
import { slotMs } from "../store/slots.ts";
import { type OwnedServer, ownedServer } from "../testing/owned-server.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { Slowness } from "./slowness.ts";

const silent = pino({ level: "silent" });

describe("a server whose database holds it up", () => {
  let owned: OwnedServer;
  beforeAll(async () => {
    owned = await ownedServer();
  });
  afterAll(() => owned.close());
  const told = async () => (await owned.owner.ask("GET", "/api/slowness")).body as SlownessView;
  /** Has another hold a table of the database for a while, as an upkeep by hand would. */
  const heldUp = async (table: string, forMs: number, work: () => Promise<unknown>) => {
    const other = await openConnection(owned.db.url, () => {});
    await other.query("begin");
    await other.query(`lock table ${table} in access exclusive mode`);
    const working = work();
    await new Promise((done) => setTimeout(done, forMs));
    await other.query("rollback");
    await other.end();
    await working;
  };

  test("has nothing to tell at first, and says from how long on it would", async () => {
    const { spells, limits } = await told();
    expect(spells).toEqual([]);
    expect(limits).toContainEqual({ kind: "request", words: "requests", limitMs: 1000 });
  });
  test("keeps slow commits, requests and readings as events, with what they were", async () => {
    const { server, owner } = owned;
    const now = Date.now();
    await heldUp("journal", 800, () => server.store.write(batchOf([[1, now, 1]])));
    await heldUp("dashboard", 1300, () => owner.ask("GET", "/api/dashboards"));
    const [id] = await server.store.series.resolve([
      { counter: "bench.load", tags: { machine: "vault" }, unit: "1", kind: "level" },
    ]);
    // so many slots that the oldest is not in memory any more
    await server.store.write(batchOf([6, 5, 4, 3, 0].map((slots) => [id as number, now - slots * slotMs, slots])));
    await server.store.maintain();
    const window = { from: now - 86_400_000, to: now };
    await heldUp("chunk", 1300, () =>
      owner.ask("POST", "/api/readings", { window, step: 60, sentences: { a: { counter: "bench.load" } } }),
    );
    await expect.poll(async () => (await told()).spells.length, { timeout: 15_000 }).toBe(3);
    const { spells } = await told();
    expect(spells).toEqual([
      expect.objectContaining({ kind: "reading", times: 1, what: "bench.load over 1 d" }),
      expect.objectContaining({ kind: "request", times: 1, what: "GET /api/dashboards" }),
      // what the machine itself gathered meanwhile may be in it
      expect.objectContaining({ kind: "flush", what: expect.stringMatching(/^\d+ samples?$/) }),
    ]);
    for (const { fromMs, toMs, mostMs } of spells) {
      expect(mostMs).toBeGreaterThan(500);
      expect(mostMs).toBeLessThan(10_000);
      expect(Math.abs(toMs - fromMs - mostMs)).toBeLessThan(2);
    }
    // they stand among no other events: what people noted would be hidden by them
    expect((await owner.ask("GET", `/api/events?from=${now - 1000}&to=${now + 60_000}`)).body).toEqual([]);
  });
  test("tells a request by its route, not by the secret in its address", async () => {
    const secret = "s3cr3t-of-a-calendar-0123456789";
    await heldUp("token", 1300, () => owned.owner.ask("GET", `/api/quiet-times.ics?token=${secret}`));
    await expect.poll(async () => (await told()).spells.length, { timeout: 15_000 }).toBeGreaterThan(3);
    expect(JSON.stringify(await told())).not.toContain("s3cr3t");
  });
});

describe("what took long", () => {
  let db: TestDatabase;
  beforeAll(async () => {
    db = await testDatabase();
  });
  afterAll(() => db.drop());
  const kept = async () =>
    (
      await db.database.query<{ text: string; times: string }>(
        "select text, tags->>'times' as times from event order by id",
      )
    ).rows;

  test("is written once and then told anew, also where the work failed; what is quick is not", async () => {
    const slowness = new Slowness({ database: db.database, machine: "vault", log: silent, keptEveryMs: 20 });
    const job = { kind: "job", key: "maintain", what: () => "maintain" } as const;
    slowness.note(job, 29_999);
    slowness.note(job, 31_000);
    await expect.poll(kept).toEqual([{ text: "A job took 31 s: maintain.", times: "1" }]);
    slowness.note(job, 45_000);
    await expect.poll(kept).toEqual([{ text: "Jobs took up to 45 s, 2 times: maintain.", times: "2" }]);
    const failing = slowness.watch({ kind: "flush", key: "", what: () => "5 samples" }, async () => {
      await new Promise((done) => setTimeout(done, 520));
      throw new Error("away");
    });
    await expect(failing).rejects.toThrow("away");
    await slowness.close();
    expect(await kept()).toHaveLength(2);
  });
  test("waits for a database that is away, and is there when it is back", async () => {
    const { database } = db;
    const name = new URL(db.url).pathname.slice(1);
    const administrator = await openConnection(process.env["NUBREL_TEST_DATABASE_URL"] as string, () => {});
    const slowness = new Slowness({ database, machine: "vault", log: silent, keptEveryMs: 20 });
    const before = (await kept()).length;
    await administrator.query(`alter database ${name} with allow_connections false`);
    await administrator.query("select pg_terminate_backend(pid) from pg_stat_activity where datname = $1", [name]);
    slowness.note({ kind: "request", key: "GET /x", what: () => "GET /x" }, 1500);
    await new Promise((done) => setTimeout(done, 100));
    await administrator.query(`alter database ${name} with allow_connections true`);
    await administrator.end();
    await expect.poll(async () => (await kept()).length, { timeout: 10_000 }).toBe(before + 1);
    await slowness.close();
  });
});
