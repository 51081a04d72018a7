import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { createOwner, findAccount, hasOwner } from "./account-rows.ts";
import { closeSession, openSession, sessionAccount } from "./session-rows.ts";
import { SecretBox } from "../sources/secret-box.ts";
import { HashQueue } from "./hash-queue.ts";
import { browserMark, knownBrowser } from "./known-browser.ts";
import { networkOf, SignInLimit } from "./sign-in-limit.ts";

let db: TestDatabase;
beforeEach(async () => {
  db = await testDatabase();
});
afterEach(() => db.drop());

test("of many who ask at once, one becomes the owner", async () => {
  const made = await Promise.all(Array.from({ length: 8 }, (_, i) => createOwner(db.database, `person ${i}`, "-")));
  expect(made.filter(Boolean)).toHaveLength(1);
  expect(await hasOwner(db.database)).toBe(true);
});

test("names are found whatever their case", async () => {
  await createOwner(db.database, "Ines", "hash");
  expect(await findAccount(db.database, "INES")).toMatchObject({ name: "Ines", passwordHash: "hash", role: "owner" });
  expect(await findAccount(db.database, "Ines ")).toBeUndefined();
});

describe("sessions (OWASP ASVS 4.0 §3.3)", () => {
  test.each([
    ["used lately", "6 days", "6 days", true],
    ["seven days without use", "10 days", "7 days 1 minute", false],
    ["thirty days old, however used", "30 days 1 minute", "0 days", false],
  ])("%s", async (_name, created, seen, open) => {
    const owner = await createOwner(db.database, "Ines", "-");
    const token = await openSession(db.database, owner?.id as number, undefined, Date.now());
    await db.database.query(
      "update session set created_at = now() - $1::interval, last_seen_at = now() - $2::interval",
      [created, seen],
    );
    expect(Boolean(await sessionAccount(db.database, token, Date.now()))).toBe(open);
    const { rows } = await db.database.query<{ fresh: boolean }>(
      "select last_seen_at > now() - interval '5 seconds' as fresh from session",
    );
    if (seen !== "0 days") expect(rows[0]?.fresh).toBe(open);
  });
  test("old ones are cleared away when somebody signs in; a closed or unknown one opens nothing", async () => {
    const owner = await createOwner(db.database, "Ines", "-");
    const id = owner?.id as number;
    await openSession(db.database, id, undefined, Date.now());
    await db.database.query("update session set last_seen_at = now() - interval '8 days'");
    const token = await openSession(db.database, id, undefined, Date.now());
    expect((await db.database.query("select 1 from session")).rowCount).toBe(1);
    expect(await sessionAccount(db.database, token, Date.now())).toMatchObject(owner as object);
    await closeSession(db.database, token);
    expect(await sessionAccount(db.database, token, Date.now())).toBeUndefined();
    expect(await sessionAccount(db.database, "x".repeat(43), Date.now())).toBeUndefined();
  });
});

describe("the limit of wrong passwords (OWASP ASVS 4.0 §2.2.1)", () => {
  const at = (name: string, address: string, browser?: string) => ({ name, address, browser });
  const waits = async (limit: SignInLimit, trying: ReturnType<typeof at>) => (await limit.count(trying)).waitSeconds;
  test("counts by account and address: another address may still try, thirty wrong ones close an address for all", async () => {
    const limit = new SignInLimit();
    for (let i = 0; i < 5; i++) expect(await waits(limit, at("ines", "10.0.0.1"))).toBe(0);
    expect(await waits(limit, at("Ines", "10.0.0.1"))).toBeGreaterThan(890);
    expect(await waits(limit, at("ines", "10.0.0.2"))).toBe(0);
    await limit.noteRight(at("ines", "10.0.0.1"));
    expect(await waits(limit, at("ines", "10.0.0.1"))).toBe(0);
    for (let i = 0; i < 25; i++) await limit.count(at(`guess ${i}`, "10.0.0.1"));
    expect(await waits(limit, at("anybody", "10.0.0.1"))).toBeGreaterThan(890);
  });
  test("eighty at once are counted before any is looked at: five pass", async () => {
    const limit = new SignInLimit();
    const all = await Promise.all(Array.from({ length: 80 }, () => waits(limit, at("ines", "10.0.0.1"))));
    expect(all.filter((wait) => wait === 0)).toHaveLength(5);
  });
  test("a network of IPv6 is one address; other networks are others", async () => {
    expect([
      networkOf("2001:db8:1:2:3:4:5:6"),
      networkOf("2001:db8:1:2::9"),
      networkOf("2001:db8:1:3::9"),
      networkOf("::ffff:10.0.0.1"),
      networkOf("fe80::1%eth0"),
      networkOf("::1"),
    ]).toEqual([
      "2001:db8:1:2::/64",
      "2001:db8:1:2::/64",
      "2001:db8:1:3::/64",
      "10.0.0.1",
      "fe80:0:0:0::/64",
      "0:0:0:0::/64",
    ]);
    const limit = new SignInLimit();
    for (let i = 0; i < 5; i++) await limit.count(at("ines", `2001:db8:1:2::${i}`));
    expect(await waits(limit, at("ines", "2001:db8:1:2::77"))).toBeGreaterThan(890);
  });
  test("over many addresses an account is slowed down, more and more, and never locked", async () => {
    const limit = new SignInLimit();
    const pauses: number[] = [];
    for (let i = 0; i < 40; i++) {
      const { waitSeconds, pauseMs } = await limit.count(at("ines", `10.0.${i}.1`));
      expect(waitSeconds).toBe(0);
      pauses.push(pauseMs);
    }
    expect(pauses.slice(0, 10)).toEqual(Array(10).fill(0));
    expect(pauses.slice(10, 16)).toEqual([250, 500, 1000, 2000, 4000, 8000]);
    expect(pauses.at(-1)).toBe(8000);
  });
  test("a browser that has signed in before is not locked out, nor slowed, by others at its address; its own wrong tries count", async () => {
    const box = SecretBox.open(undefined);
    const browser = knownBrowser(box, browserMark(box, 1), 1);
    const limit = new SignInLimit();
    for (let i = 0; i < 60; i++) await limit.count(at("ines", "10.0.0.1"));
    expect(await limit.count(at("ines", "10.0.0.1", browser))).toEqual({ waitSeconds: 0, pauseMs: 0 });
    for (let i = 0; i < 4; i++) await limit.count(at("ines", "10.0.0.1", browser));
    expect(await waits(limit, at("ines", "10.0.0.1", browser))).toBeGreaterThan(890);
  });
  test("a mark of another account, of another server or made up is none", () => {
    const box = SecretBox.open(undefined);
    const mark = browserMark(box, 1);
    for (const [wrong, account] of [
      [mark, 2],
      [mark.replace("1.", "2."), 2],
      [`${mark}x`, 1],
      [browserMark(SecretBox.open(undefined), 1), 1],
      [undefined, 1],
      ["", 1],
      ["1.a", 1],
    ] as const)
      expect(knownBrowser(box, wrong, account)).toBeUndefined();
  });
});

test("hashes are worked out two at a time, thirty wait, and more are told so", async () => {
  const queue = new HashQueue();
  let running = 0;
  let most = 0;
  const ends: (() => void)[] = [];
  const work = async () => {
    running++;
    most = Math.max(most, running);
    await new Promise<void>((end) => ends.push(end));
    running--;
  };
  const all = Array.from({ length: 40 }, () =>
    queue.run(work).then(
      () => "done",
      (error: Error) => error.name,
    ),
  );
  for (let i = 0; i < 200; i++) {
    ends.shift()?.();
    await Promise.resolve();
  }
  const results = await Promise.all(all);
  expect(most).toBe(2);
  expect(results.filter((one) => one === "done")).toHaveLength(32);
  expect(results.filter((one) => one === "TooManyHashes")).toHaveLength(8);
});
