import { afterAll, beforeAll, expect, test } from "vitest";
import { slotMs } from "../store/slots.ts";
import { type OwnedServer, ownedServer } from "../testing/owned-server.ts";

let owned: OwnedServer;
beforeAll(async () => {
  owned = await ownedServer();
});
afterAll(() => owned.close());

const told = async () => (await owned.owner.ask("GET", "/api/condition")).body.upkeep;

test("tables are told with their size and what was left behind in them, parts of one as one", async () => {
  const { database } = owned.db;
  await database.query("alter table event set (autovacuum_enabled = false)");
  // of today: the server's own upkeep, every ten minutes, leaves what is older than its retention
  const nowMs = Date.now();
  await database.query(
    `insert into event (from_ms, to_ms, kind, machine, text, tags)
     select $1::bigint - i, $1::bigint - i, 'note', 'vault', repeat('x', 500), '{}' from generate_series(1, 20000) as i`,
    [nowMs],
  );
  await database.query("delete from event where from_ms < $1::bigint - 5000", [nowMs]);
  // PostgreSQL gathers these statistics by and by
  const event = async () => (await told()).tables.find(({ name }: { name: string }) => name === "event");
  await expect.poll(async () => (await event())?.rows, { timeout: 15_000 }).toBe(5000);
  const { sizeBytes, parts, deadRows } = await event();
  const { rows } = await database.query<{ bytes: number }>("select pg_total_relation_size('event')::float8 as bytes");
  expect(sizeBytes).toBe(rows[0]?.bytes);
  expect(parts).toBe(1);
  expect(deadRows).toBe(15_000);
  await database.query("vacuum event");
  await expect.poll(async () => (await event()).deadRows, { timeout: 15_000 }).toBe(0);
  expect(Math.abs((await event()).cleanedAtMs - Date.now())).toBeLessThan(60_000);
  const part = Math.floor(nowMs / (12 * slotMs));
  await database.query("select make_partition('chunk', $1::int, 12), make_partition('chunk', $1::int + 1, 12)", [part]);
  await database.query(
    `insert into chunk (series_id, slot, payload)
     select i, 12 * ($1::int + i % 2), 'x' from generate_series(1, 20000) as i`,
    [part],
  );
  expect((await told()).tables.find(({ name }: { name: string }) => name === "chunk")?.parts).toBe(2);
});

test("the log that is kept for a standby which takes none is told", async () => {
  const { database } = owned.db;
  expect(await told()).toMatchObject({ isAutovacuumOn: true, keptWalBytes: 0 });
  const slot = `upkeep_${process.pid}`;
  await database.query("select pg_create_physical_replication_slot($1, true)", [slot]);
  try {
    await database.query("create table filled as select repeat('x', 900) as x from generate_series(1, 2000)");
    const { keptWalBytes, mostWalBytes } = await told();
    expect(keptWalBytes).toBeGreaterThan(1_000_000);
    expect(mostWalBytes).toBeGreaterThan(16_000_000);
  } finally {
    await database.query("select pg_drop_replication_slot($1)", [slot]);
  }
});
