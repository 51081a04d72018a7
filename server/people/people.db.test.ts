import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { createOwner, findAccount, hasOwner } from "./accounts.ts";
import { closeSession, openSession, sessionAccount } from "./sessions.ts";
import { SignInLimit } from "./sign-in-limit.ts";

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
    await db.database.query("update session set created_at = now() - $1::interval, last_seen_at = now() - $2::interval", [created, seen]);
    expect(Boolean(await sessionAccount(db.database, token, Date.now()))).toBe(open);
    const { rows } = await db.database.query<{ fresh: boolean }>("select last_seen_at > now() - interval '5 seconds' as fresh from session");
    if (seen !== "0 days") expect(rows[0]?.fresh).toBe(open);
  });
  test("old ones are cleared away when somebody signs in; a closed or unknown one opens nothing", async () => {
    const owner = await createOwner(db.database, "Ines", "-");
    const id = owner?.id as number;
    await openSession(db.database, id, undefined, Date.now());
    await db.database.query("update session set last_seen_at = now() - interval '8 days'");
    const token = await openSession(db.database, id, undefined, Date.now());
    expect((await db.database.query("select 1 from session")).rowCount).toBe(1);
    expect(await sessionAccount(db.database, token, Date.now())).toEqual(owner);
    await closeSession(db.database, token);
    expect(await sessionAccount(db.database, token, Date.now())).toBeUndefined();
    expect(await sessionAccount(db.database, "x".repeat(43), Date.now())).toBeUndefined();
  });
});

test("the limit counts by account and address: another address may still try, thirty wrong ones close an address for all", async () => {
  const limit = new SignInLimit();
  for (let i = 0; i < 5; i++) await limit.noteWrong("ines", "10.0.0.1");
  expect(await limit.waitSeconds("Ines", "10.0.0.1")).toBeGreaterThan(890);
  expect(await limit.waitSeconds("ines", "10.0.0.2")).toBe(0);
  expect(await limit.waitSeconds("other", "10.0.0.1")).toBe(0);
  await limit.noteRight("ines", "10.0.0.1");
  expect(await limit.waitSeconds("ines", "10.0.0.1")).toBe(0);
  for (let i = 0; i < 25; i++) await limit.noteWrong(`guess ${i}`, "10.0.0.1");
  expect(await limit.waitSeconds("anybody", "10.0.0.1")).toBeGreaterThan(890);
});
