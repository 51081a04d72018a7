import pino from "pino";
import { expect, test, vi } from "vitest";
import { batchOf } from "../../core/series/batch.ts";
import { openConnection } from "../db/pool.ts";
import { testDatabase } from "../testing/test-database.ts";
import { startJobs } from "./jobs.ts";
import { slotMs, slotOf } from "../store/slots.ts";
import { Store } from "../store/store.ts";

test("the durable job compacts what has ended and leaves the slot of now", async () => {
  const db = await testDatabase();
  const store = await Store.open(db.database);
  const now = Date.now();
  await store.write(
    batchOf([
      [1, now - 3 * slotMs, 1],
      [1, now, 2],
    ]),
  );
  const jobs = await startJobs(db.database, { maintain: () => store.maintain() }, pino({ level: "silent" }));
  try {
    await jobs.maintainSoon();
    const left = async () =>
      (await db.database.query<{ slot: number }>("select slot from journal")).rows.map((row) => row.slot);
    await expect.poll(left, { timeout: 15_000 }).toEqual([slotOf(now)]);
    const [column] = await store.read([1], 0, 1e15);
    expect([...(column?.value ?? [])]).toEqual([1, 2]);
  } finally {
    await jobs.close();
    await store.close();
    await db.drop();
  }
});

test("a database that goes away in the middle of jobs ends nothing: they are done when it is back, and no failure is left to nobody", async () => {
  const db = await testDatabase();
  const administrator = await openConnection(process.env["NUBREL_TEST_DATABASE_URL"] as string, () => {});
  const name = new URL(db.url).pathname.slice(1);
  const rejected = vi.fn();
  process.on("unhandledRejection", rejected);
  const asked = vi.spyOn(db.database, "connect");
  let begun = 0;
  let go = () => {};
  const gate = new Promise<void>((resolve) => (go = resolve));
  const jobs = await startJobs(
    db.database,
    {
      maintain: async () => {
        begun++;
        if (begun > 1) return;
        await gate;
        throw new Error("Connection terminated unexpectedly");
      },
    },
    pino({ level: "silent" }),
  );
  try {
    await jobs.maintainSoon();
    await expect.poll(() => begun, { timeout: 10_000 }).toBe(1);
    await administrator.query(`alter database ${name} with allow_connections false`);
    await administrator.query("select pg_terminate_backend(pid) from pg_stat_activity where datname = $1", [name]);
    go();
    await expect
      .poll(() => asked.mock.settledResults.filter(({ type }) => type === "rejected").length, { timeout: 20_000 })
      .toBeGreaterThan(1);
    await administrator.query(`alter database ${name} with allow_connections true`);
    // Left as it was when it failed, the job would be locked for hours: a new try within moments shows that its failure
    // or its lock was made good.
    await expect
      .poll(
        async () =>
          (
            await db.database.query<{ n: number }>(
              "select count(*)::int as n from graphile_worker.jobs where locked_at is not null and task_identifier = 'maintain'",
            )
          ).rows[0]?.n,
        { timeout: 15_000 },
      )
      .toBe(0);
    expect(rejected).not.toHaveBeenCalled();
  } finally {
    process.off("unhandledRejection", rejected);
    await administrator.query(`alter database ${name} with allow_connections true`);
    await jobs.close();
    await administrator.end();
    await db.drop();
  }
}, 60_000);
