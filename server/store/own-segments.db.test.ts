import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import { batchOf } from "../../core/series/batch.ts";
import { leadingOn } from "../testing/other-writers.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { ForgottenSeriesError } from "./journal.ts";
import { insertFencedRows } from "./journal-rows.ts";
import { JournalFence } from "./journal-fence.ts";
import { listSetAside } from "./quarantine-rows.ts";
import { slotMs } from "./slots.ts";
import { Store } from "./store.ts";

// Several stores on one database, each of which writes segments of its own. What each has, and what one has that begins
// anew, is held against a map of what was acknowledged.

const start = 20_700 * 86_400_000;
let db: TestDatabase;
let nowMs: number;
let leader: Store;
let others: Store[];
let failures: Error[];
const now = () => nowMs;
const soon = { timeout: 10_000, interval: 30 };

const lead = async () => Store.open(db.database, { now, others: await leadingOn(db, failures) });
/** Hears nothing of what is committed, as it listens to another database: it finds what is new every five seconds. */
const leadDeaf = async () => {
  const url = new URL(db.url);
  url.pathname = "/postgres";
  return Store.open(db.database, { now, others: { ...(await leadingOn(db, failures)), url: url.href } });
};
const follow = () => Store.follow(db.database, db.url, { now, lookEveryMs: 300 }, (error) => void failures.push(error));

beforeEach(async () => {
  nowMs = start + slotMs / 2;
  failures = [];
  db = await testDatabase();
  leader = await lead();
  await leader.series.resolve(
    Array.from({ length: 5 }, (_, n) => ({
      counter: "known",
      tags: { machine: "vault", n: String(n) },
      unit: "1",
      kind: "level" as const,
    })),
  );
  others = [await follow(), await follow()];
});
afterEach(async () => {
  for (const store of [...others, leader]) await store.close();
  await db.drop();
});

/** What a store has of the five series, as lines of text. */
async function contentOf(store: Store): Promise<readonly string[]> {
  const columns = await store.read([1, 2, 3, 4, 5], start - 30 * slotMs, start + 400 * slotMs);
  return columns.flatMap(({ timeMs, value }, i) => [...timeMs].map((ms, j) => `${i + 1} ${ms - start} ${value[j]}`));
}
const one = (id: number, ms: number, value: number) => batchOf([[id, ms, value]]);
const newest = async (store: Store, id: number) =>
  (await contentOf(store)).filter((line) => line.startsWith(`${id} `)).at(-1);
const segments = async () =>
  (await db.database.query<{ segment: number }>("select distinct segment from journal order by segment")).rows.length;

test("what each writes is known to all, and whoever waits for commits hears of it at the one that leads", async () => {
  const heard: number[] = [];
  leader.onCommit((batch) => heard.push(...batch.value.subarray(0, batch.length)));
  await Promise.all([
    leader.write(one(1, start, 1)),
    others[0]?.write(one(2, start + 1, 2)),
    others[1]?.write(one(3, start + 2, 3)),
  ]);
  const all = ["1 0 1", "2 1 2", "3 2 3"];
  expect(await segments()).toBe(3);
  for (const store of [leader, ...others])
    await vi.waitFor(async () => expect(await contentOf(store)).toEqual(all), soon);
  expect(heard.sort()).toEqual([1, 2, 3]);
});

test("of equal series and time the last written is kept, also by one that begins anew: first there, then by the one that leads", async () => {
  await leader.write(one(1, start, 1)); // its segment is the older one
  await others[0]?.write(one(1, start + 1000, 2));
  await vi.waitFor(async () => expect(await newest(leader, 1)).toBe("1 1000 2"), soon);
  await leader.write(one(1, start + 1000, 3));
  for (const store of [leader, ...others])
    await vi.waitFor(async () => expect(await newest(store, 1)).toBe("1 1000 3"), soon);
  await leader.close();
  leader = await lead();
  expect(await newest(leader, 1)).toBe("1 1000 3");
});

test("the one that leads goes on in one segment as long as nobody begins another", async () => {
  const both = (i: number) =>
    Promise.all([others[i % 2]?.write(one(2, start + i, i)), leader.write(one(1, start + i, i))]);
  for (let i = 0; i < 4; i++) await both(i);
  await vi.waitFor(async () => expect(await contentOf(leader)).toHaveLength(8), soon);
  for (let i = 4; i < 12; i++) await both(i);
  expect(await segments()).toBeLessThanOrEqual(5);
});

describe("taken into chunks", () => {
  test("what others wrote is too, their segments go, and they begin anew", async () => {
    await leader.write(one(1, start, 1));
    await others[0]?.write(one(2, start, 2));
    nowMs += 2 * slotMs;
    await leader.compact(nowMs);
    expect(await segments()).toBe(0);
    const written = await others[0]?.write(one(2, start + 1, 3)); // late, into the slot that is in chunks
    expect(written?.taken).toBe(1);
    for (const store of [leader, ...others])
      await vi.waitFor(async () => expect(await contentOf(store)).toEqual(["1 0 1", "2 0 2", "2 1 3"]), soon);
    await leader.compact(nowMs);
    expect(await segments()).toBe(0);
    for (const store of [leader, ...others])
      await vi.waitFor(async () => expect(await contentOf(store)).toEqual(["1 0 1", "2 0 2", "2 1 3"]), soon);
  });

  test("nothing is lost where others write into the slot all the while", async () => {
    nowMs += 2 * slotMs;
    const acknowledged: string[] = [];
    let isOver = false;
    const writing = others.map(async (store, n) => {
      for (let i = 0; !isOver; i++) {
        await store.write(one(n + 1, start + i, i));
        acknowledged.push(`${n + 1} ${i} ${i}`);
      }
    });
    for (let round = 0; round < 6; round++) {
      await vi.waitFor(() => expect(acknowledged.length).toBeGreaterThan(round * 4), soon);
      await leader.compact(nowMs);
    }
    isOver = true;
    await Promise.all(writing);
    for (const store of [leader, ...others])
      await vi.waitFor(
        async () => expect([...(await contentOf(store))].sort()).toEqual([...acknowledged].sort()),
        soon,
      );
    await leader.close();
    leader = await lead();
    expect([...(await contentOf(leader))].sort()).toEqual([...acknowledged].sort());
  });

  test("what the one that leads has not heard of yet is taken with the rest", async () => {
    await leader.close();
    leader = await leadDeaf();
    await others[0]?.write(one(2, start, 2));
    await vi.waitFor(async () => expect(await contentOf(leader)).toEqual(["2 0 2"]), soon);
    await others[0]?.write(one(2, start + 1, 3));
    nowMs += 2 * slotMs;
    await leader.compact(nowMs);
    expect(await segments()).toBe(0);
    expect(await contentOf(leader)).toEqual(["2 0 2", "2 1 3"]);
  });

  test("a segment that another begins meanwhile stays, and is gone on with", async () => {
    await leader.close();
    const leading = await leadingOn(db, failures);
    let between = async () => void (await others[0]?.write(one(3, start, 7)));
    const { fence } = leading;
    vi.spyOn(fence, "raise").mockImplementation(async () => {
      const pass = await JournalFence.prototype.raise.call(fence);
      await between();
      return pass;
    });
    leader = await Store.open(db.database, { now, others: leading });
    between = async () => void (await others[0]?.write(one(2, start, 2)));
    await leader.write(one(1, start, 1));
    nowMs = start + slotMs + 400_000;
    await leader.compact(nowMs);
    await others[0]?.write(one(2, start + 1, 3));
    between = async () => {};
    const all = ["1 0 1", "2 0 2", "2 1 3", "3 0 7"];
    await vi.waitFor(async () => expect(await contentOf(leader)).toEqual(all), soon);
    await leader.compact(nowMs);
    // Each was taken once: what is counted of a minute is what came.
    const counts = [...(await leader.samplesPerMinute(start, start + slotMs)).values()];
    expect(counts.reduce((sum, n) => sum + n, 0)).toBe(4);
    await leader.close();
    leader = await lead();
    expect(await contentOf(leader)).toEqual(all);
    expect((await listSetAside(db.database)).count).toBe(0);
  });
});

test("written at the same moment at two, what came last stays last for who begins anew", async () => {
  await others[0]?.write(one(2, start, 1)); // an older segment than those of the one that leads
  await vi.waitFor(async () => expect(await contentOf(leader)).toEqual(["2 0 1"]), soon);
  await leader.write(one(1, start + 5, 2));
  await others[0]?.write(one(1, start + 5, 3)); // as if it had not heard of that yet
  for (const store of [leader, ...others])
    await vi.waitFor(async () => expect(await newest(store, 1)).toBe("1 5 3"), soon);
  await leader.flush();
  await leader.close();
  leader = await lead();
  expect(await newest(leader, 1)).toBe("1 5 3");
});

test("at random: writes here and there, chunks, leads that move, servers that come and go", async () => {
  let seed = 7;
  const random = (below: number) => {
    seed = (seed * 48_271) % 2_147_483_647;
    return seed % below;
  };
  const expected = new Map<string, number>();
  const clock = [0, 0, 0, 0, 0, 0];
  const put = async (store: Store, id: number, ms: number, value: number) => {
    await store.write(one(id, start + ms, value));
    expected.set(`${id} ${ms}`, value);
  };
  for (let step = 0; step < 120; step++) {
    const id = 1 + random(5);
    const what = random(12);
    if (what < 7) {
      // each writes what is newer than all before
      const from = random(3);
      const ms = (clock[id] = (clock[id] as number) + 1 + random(slotMs / 8));
      nowMs = Math.max(nowMs, start + ms + 1);
      await put(([leader, ...others] as Store[])[from] as Store, id, ms, step);
    } else if (what < 9) {
      // the one that leads changes what was written before, once it is known there
      const before = [...expected.keys()].filter((key) => key.startsWith(`${id} `)).at(-1 - random(3));
      if (!before) continue;
      const ms = Number(before.split(" ")[1]);
      await vi.waitFor(
        async () => expect(await contentOf(leader)).toContain(`${before} ${expected.get(before)}`),
        soon,
      );
      await put(leader, id, ms, step + 0.5);
    } else if (what === 9) await leader.compact(nowMs);
    else if (what === 10) {
      await leader.close();
      leader = await lead();
    } else {
      const i = random(2);
      await (others[i] as Store).close();
      others[i] = await follow();
    }
  }
  const all = [...expected].map(([key, value]) => `${key} ${value}`).sort();
  for (const store of [leader, ...others])
    await vi.waitFor(async () => expect([...(await contentOf(store))].sort()).toEqual(all), soon);
  await leader.close();
  leader = await lead();
  expect([...(await contentOf(leader))].sort()).toEqual(all);
}, 120_000);

test("one that leads no more writes nothing, and takes nothing into chunks", async () => {
  await leader.write(one(1, start, 1));
  await others[0]?.write(one(2, start, 2));
  const next = await lead();
  const written = leader.write(one(1, start + 5, 9));
  await vi.waitFor(() => expect(leader.health.failure?.message).toContain("another does"), soon);
  nowMs += 2 * slotMs;
  await expect(leader.compact(nowMs)).rejects.toThrow("another does");
  await next.compact(nowMs);
  expect(await contentOf(next)).toEqual(["1 0 1", "2 0 2"]);
  await leader.close();
  leader = next;
  written.catch(() => {});
});

test("while no server has the lead, what is sent waits and is written once one has it", async () => {
  await db.database.query("update serving set fence = null");
  let isWritten = false;
  const written = others[0]?.write(one(2, start, 2)).then(() => (isWritten = true));
  await vi.waitFor(() => expect(others[0]?.health.failure?.message).toContain("no server leads"), soon);
  expect(isWritten).toBe(false);
  await leader.close();
  leader = await lead();
  await written;
  await vi.waitFor(async () => expect(await contentOf(leader)).toEqual(["2 0 2"]), soon);
});

test("series that are forgotten are not written to: who sends is told, and may name them anew", async () => {
  await leader.close();
  leader = await leadDeaf();
  await leader.write(one(1, nowMs - 1, 1));
  await others[0]?.write(one(2, nowMs - 1, 2)); // not known yet to the one that leads
  await db.database.query("update series set created_at = now() - interval '3 days'");
  await leader.expire(nowMs);
  expect(leader.series.all().map(({ id }) => id)).toEqual([1, 2]);
  const [gone, stays] = [others[0]?.write(one(3, nowMs, 3)), others[0]?.write(one(2, nowMs, 4))];
  await expect(gone).rejects.toThrow(ForgottenSeriesError);
  expect((await stays)?.taken).toBe(1);
  await vi.waitFor(async () => expect(await newest(leader, 2)).toBe(`2 ${nowMs - start} 4`), soon);
  expect(others[0]?.series.all().map(({ id }) => id)).toEqual([1, 2]);
});

test("a row of another that cannot be read is set aside, and is not lost with its segment", async () => {
  await others[0]?.write(one(2, start, 2));
  await db.database.query(
    "create function spoil() returns trigger language plpgsql as $$ begin new.payload = set_byte(new.payload, 3, get_byte(new.payload, 3) # 16); return new; end $$",
  );
  await db.database.query("create trigger spoiled before insert on journal for each row execute function spoil()");
  await others[0]?.write(one(2, start + 1, 3));
  await db.database.query("drop trigger spoiled on journal");
  await vi.waitFor(async () => expect((await listSetAside(db.database)).count).toBe(1), soon);
  nowMs += 2 * slotMs;
  await leader.compact(nowMs);
  expect(await contentOf(leader)).toEqual(["2 0 2"]);
  expect((await listSetAside(db.database)).count).toBe(1);
});

test("who raises the fence waits for rows that are being written, and none is let in by the one before", async () => {
  const { fence } = await leadingOn(db, failures);
  const { fence: number } = await fence.raise();
  const row = { segment: 1, seq: 0, slot: 5, samples: 1, payload: Buffer.of(1) };
  const connection = await db.database.connect();
  let isRaised = false;
  try {
    await connection.query("begin");
    expect(await insertFencedRows(connection, [row], number)).toBe(true);
    const raising = fence.raise().then(() => (isRaised = true));
    const late = insertFencedRows(db.database, [{ ...row, segment: 2 }], number); // waits behind who raises, or is before
    await vi.waitFor(async () => {
      const { rows } = await db.database.query("select from pg_locks where not granted");
      expect(rows.length).toBeGreaterThan(0);
    }, soon);
    expect(isRaised).toBe(false);
    await connection.query("commit");
    await raising;
    const isLateIn = await late;
    const there = await db.database.query<{ segment: number }>("select segment from journal order by segment");
    expect(there.rows.map(({ segment }) => segment)).toEqual(isLateIn ? [1, 2] : [1]);
    expect(await insertFencedRows(db.database, [{ ...row, segment: 3 }], number)).toBe(false);
  } finally {
    connection.release();
  }
});
