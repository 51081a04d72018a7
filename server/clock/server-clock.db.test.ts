import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { batchOf } from "../../core/series/batch.ts";
import { createOwner } from "../people/account-rows.ts";
import { openSession, sessionAccount } from "../people/session-rows.ts";
import { slotMs } from "../store/slots.ts";
import { Store } from "../store/store.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { type ClockJump, ServerClock } from "./server-clock.ts";

const dayMs = 86_400_000;
const hourMs = 3_600_000;
const start = 20_000 * dayMs;
let db: TestDatabase;
let wall: number;
let monotonic: number;
let jumps: ClockJump[];
const clocks = { wallMs: () => wall, monotonicMs: () => monotonic };
const open = async () => {
  const clock = await ServerClock.open(db.database, clocks);
  clock.onJump((jump) => jumps.push(jump));
  return clock;
};
const pass = (clock: ServerClock, ms: number) => {
  wall += ms;
  monotonic += ms;
  clock.look();
};
beforeEach(async () => {
  db = await testDatabase();
  wall = start;
  monotonic = 5000;
  jumps = [];
});
afterEach(() => db.drop());

describe("jumps", () => {
  test("set ahead and back are told, by how much; what a clock is kept right by is not", async () => {
    const clock = await open();
    pass(clock, 60_000);
    wall += 500;
    pass(clock, 1000);
    wall -= hourMs;
    clock.look();
    wall += 2 * 60_000;
    pass(clock, 1000);
    expect(jumps.map(({ byMs }) => byMs)).toEqual([-hourMs, 120_000]);
    expect(clock.view()).toEqual({ jumps: [jumps[1], jumps[0]], actingMs: null });
  });
});

describe("a clock that is far ahead", () => {
  test("is not acted on while it runs; time goes on meanwhile, and it is believed again when it is set right", async () => {
    const clock = await open();
    wall += 40 * dayMs;
    pass(clock, 10_000);
    expect(clock.isBelieved).toBe(false);
    expect(clock.actingMs()).toBe(start + 10_000);
    pass(clock, 20_000);
    expect(clock.actingMs()).toBe(start + 30_000);
    wall -= 40 * dayMs;
    clock.look();
    expect([clock.isBelieved, clock.actingMs()]).toEqual([true, start + 30_000]);
  });
  test("an hour ahead at the most is believed; hour after hour does not add up unseen", async () => {
    const clock = await open();
    wall += hourMs - 1;
    clock.look();
    expect(clock.isBelieved).toBe(true);
    wall += hourMs + 1;
    clock.look();
    expect(clock.isBelieved).toBe(false);
  });
  test("at a start it is measured by the last run; another machine or a person makes it believed", async () => {
    const first = await open();
    await first.keep();
    wall += 40 * dayMs;
    monotonic = 100; // another boot
    const second = await open();
    expect([second.isBelieved, second.actingMs()]).toEqual([false, start]);
    await second.keep(); // what is not believed is not kept either
    expect((await open()).isBelieved).toBe(false);
    second.told(wall - 2 * hourMs);
    expect(second.isBelieved).toBe(false);
    second.told(wall - 20_000);
    expect(second.isBelieved).toBe(true);
    second.look();
    await second.keep();
    expect((await open()).isBelieved).toBe(true);

    wall += 100 * dayMs;
    const third = await open();
    expect(third.isBelieved).toBe(false);
    third.confirm();
    expect(third.isBelieved).toBe(true);
  });
  test("deletes no samples, refuses none that are of now, and signs nobody out", async () => {
    const clock = await open();
    const store = await Store.open(db.database, { now: () => wall, acting: clock.actingMs });
    await store.series.resolve([{ counter: "system.uptime", tags: { machine: "m" }, unit: "s", kind: "total" }]);
    await store.write(
      batchOf([
        [1, start - 3 * slotMs, 1],
        [1, start, 2],
      ]),
    );
    await store.maintain();
    const owner = await createOwner(db.database, "Ines", "-");
    const session = await openSession(db.database, owner?.id as number, undefined, clock.actingMs());

    wall += 400 * dayMs;
    pass(clock, 10_000);
    await store.maintain();
    expect(await store.write(batchOf([[1, start + 5000, 3]]))).toEqual({ taken: 1, refused: {} });
    expect([...((await store.read([1], 0, 1e15))[0]?.value ?? [])]).toEqual([1, 2, 3]);
    expect(await sessionAccount(db.database, session, clock.actingMs())).toMatchObject(owner as object);
    await openSession(db.database, owner?.id as number, undefined, clock.actingMs());
    expect((await db.database.query("select from session")).rowCount).toBe(2);
    await store.close();
  });
});
