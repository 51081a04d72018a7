import { execFile } from "node:child_process";
import { join } from "node:path";
import { promisify } from "node:util";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { projectRoot } from "../project-root.ts";
import type { RunningServer } from "../running-server.ts";
import { HttpClient } from "../testing/http-client.ts";
import { type OwnedServer, ownedServer } from "../testing/owned-server.ts";
import type { TestDatabase } from "../testing/test-database.ts";

// People: invited, accepted, changed and gone; sessions and passwords of their own.

const password = "kestrel on the quay";
let owned: OwnedServer;
let db: TestDatabase;
let server: RunningServer;
let owner: HttpClient;

beforeAll(async () => {
  owned = await ownedServer();
  ({ db, owner, server } = owned);
});
afterAll(() => owned.close());

const invite = async (wish: object) => (await owner.ask("POST", "/api/people/invitations", wish)).body;
const accept = async (code: string, name: string) => {
  const person = new HttpClient(server.address);
  const answer = await person.ask("POST", `/api/invitations/${code}/accept`, { name, password });
  return { person, ...answer };
};
const signedIn = async (name: string, word = password) => {
  const person = new HttpClient(server.address);
  const { status } = await person.ask("POST", "/api/session", { name, password: word });
  return { person, status };
};
const idOf = async (name: string) =>
  (await owner.ask("GET", "/api/people")).body.find((one: { name: string }) => one.name === name).id;

test("an invitation is accepted once, by whoever has it, and signs in as what it is for", async () => {
  const made = await invite({ role: "keeper" });
  expect(made).toMatchObject({ role: "keeper", limits: null, by: "Ines", sent: null });
  expect(made.url).toBe(`${new URL(made.url).origin}/invitation/${made.code}`);
  expect(new Date(made.until).getTime() - Date.now()).toBeGreaterThan(71.9 * 3_600_000);
  const shown = await new HttpClient(server.address).ask("GET", `/api/invitations/${made.code}`);
  expect(shown.body).toEqual({ role: "keeper", by: "Ines", until: made.until });
  const { person, status, body } = await accept(made.code, "Tomas");
  expect([status, body]).toEqual([201, { name: "Tomas", role: "keeper" }]);
  expect((await person.ask("GET", "/api/me")).body.name).toBe("Tomas");
  expect((await accept(made.code, "Ruth")).status).toBe(404);
  const { rows } = await db.database.query("select code_hash, accepted_by from invitation");
  expect(JSON.stringify(rows)).not.toContain(made.code);
});

test("of two who accept at once, one gets in", async () => {
  const { code } = await invite({ role: "viewer" });
  const answers = await Promise.all([accept(code, "Anna"), accept(code, "Berta")]);
  expect(answers.map(({ status }) => status).sort()).toEqual([201, 404]);
});

test("one that was withdrawn, has ended or never was opens nothing", async () => {
  const withdrawn = await invite({ role: "viewer" });
  expect((await owner.ask("DELETE", `/api/people/invitations/${withdrawn.id}`)).status).toBe(204);
  const ended = await invite({ role: "viewer", hours: 1 });
  await db.database.query("update invitation set until_at = now() where id = $1", [ended.id]);
  for (const code of [withdrawn.code, ended.code, "x".repeat(43)])
    expect((await accept(code, "Nora")).status, code).toBe(404);
  expect((await owner.ask("GET", "/api/people/invitations")).body).toEqual([]);
});

test.each([
  [{ role: "captain" }, "role"],
  [{ role: "keeper", limits: { machines: ["vault"] } }, "limits"],
  [{ role: "viewer", limits: {} }, "limits"],
  [{ role: "viewer", limits: { tags: [{ tag: "site" }] } }, "limits.tags.0.is"],
  [{ role: "viewer", hours: 100_000 }, "hours"],
])("%j is refused by name of its field", async (wish, path) => {
  const { status, body } = await owner.ask("POST", "/api/people/invitations", wish);
  expect([status, body.errors[0].path]).toEqual([422, path]);
});

test("a name that somebody has is refused in words; of one who left it is free, and what they did keeps it", async () => {
  await owner.ask("POST", "/api/people", { name: "Greta", password, role: "keeper" });
  const { code } = await invite({ role: "viewer" });
  expect((await accept(code, "greta")).body.errors[0].path).toBe("name");
  const { person } = await signedIn("Greta");
  const event = await person.ask("POST", "/api/events", { text: "cable moved" });
  expect((await owner.ask("DELETE", `/api/people/${await idOf("Greta")}`)).status).toBe(204);
  expect((await person.ask("GET", "/api/me")).status).toBe(401);
  expect((await signedIn("Greta")).status).toBe(401);
  expect((await accept(code, "greta")).status).toBe(201);
  const { body: events } = await owner.ask("GET", `/api/events?from=${event.body.fromMs - 1}&to=${Date.now() + 1000}`);
  expect(events.find((one: { id: number }) => one.id === event.body.id).tags.by).toBe("Greta");
});

test("the last owner can neither leave nor be made less, also where two try at once", async () => {
  const { body: second } = await owner.ask("POST", "/api/people", { name: "Olga", password, role: "owner" });
  const both = [await idOf("Ines"), second.id];
  const answers = await Promise.all(both.map((id) => owner.ask("PATCH", `/api/people/${id}`, { role: "owner" })));
  expect(answers.map(({ status }) => status)).toEqual([200, 200]);
  expect((await owner.ask("DELETE", `/api/people/${second.id}`)).status).toBe(204);
  for (const [method, wish] of [["DELETE"], ["PATCH", { role: "viewer" }]] as const) {
    const { status, body } = await owner.ask(method, `/api/people/${both[0]}`, wish);
    expect([status, body.title]).toEqual([409, "The last owner"]);
  }
  expect((await owner.ask("GET", "/api/me")).body.role).toBe("owner");
});

test("a role is another at the next request; limits end with the role that had them", async () => {
  const { body: made } = await owner.ask("POST", "/api/people", {
    ...{ name: "Hanna", password, role: "viewer", limits: { machines: ["vault"] } },
  });
  const { person } = await signedIn("Hanna");
  expect((await person.ask("POST", "/api/rules", {})).status).toBe(403);
  const { body } = await owner.ask("PATCH", `/api/people/${made.id}`, { role: "keeper" });
  expect([body.role, body.limits]).toEqual(["keeper", null]);
  expect((await person.ask("POST", "/api/rules", {})).status).toBe(422);
});

test("sessions are told apart; one ends alone, then all, and its streams at once", async () => {
  await owner.ask("POST", "/api/people", { name: "Ida", password, role: "viewer" });
  const [first, second, third] = await Promise.all([signedIn("Ida"), signedIn("Ida"), signedIn("Ida")]);
  const { body: open } = await first.person.ask("GET", "/api/me/sessions");
  expect(open).toHaveLength(3);
  expect(open.filter((one: { isThis: boolean }) => one.isThis)).toHaveLength(1);
  expect(open[0]).toMatchObject({ place: "127.0.0.1", device: "node" });
  const stream = await fetch(`${server.address}/api/live`, { headers: { Cookie: second.person.cookie } });
  const other = (await second.person.ask("GET", "/api/me/sessions")).body.find(
    (one: { isThis: boolean }) => one.isThis,
  );
  expect((await first.person.ask("DELETE", `/api/me/sessions/${other.id}`)).status).toBe(204);
  await stream.text(); // it ends
  expect((await second.person.ask("GET", "/api/me")).status).toBe(401);
  expect((await owner.ask("DELETE", `/api/me/sessions/${open[0].id}`)).status).toBe(404);
  expect((await first.person.ask("DELETE", "/api/me/sessions?but=this")).status).toBe(204);
  expect((await third.person.ask("GET", "/api/me")).status).toBe(401);
  expect((await first.person.ask("GET", "/api/me")).status).toBe(200);
  expect((await first.person.ask("DELETE", "/api/me/sessions")).status).toBe(204);
  expect((await first.person.ask("GET", "/api/me")).status).toBe(401);
});

test("a change of password asks for the one before, wants a good one, and ends the other sessions", async () => {
  await owner.ask("POST", "/api/people", { name: "Jana", password, role: "viewer" });
  const [here, elsewhere] = await Promise.all([signedIn("Jana"), signedIn("Jana")]);
  const change = (now: string, next: string) => here.person.ask("PUT", "/api/me/password", { now, next });
  const wrong = await change("not the password", "heron over the lock");
  expect([wrong.status, wrong.body.errors[0].path]).toEqual([403, "now"]);
  const weak = await change(password, "short");
  expect([weak.status, weak.body.errors[0].path]).toEqual([422, "next"]);
  expect((await change(password, "heron over the lock")).status).toBe(204);
  expect((await here.person.ask("GET", "/api/me")).status).toBe(200);
  expect((await elsewhere.person.ask("GET", "/api/me")).status).toBe(401);
  expect((await signedIn("Jana")).status).toBe(401);
  expect((await signedIn("Jana", "heron over the lock")).status).toBe(200);
});

test("what lets somebody in asks again who one is after ten minutes (OWASP ASVS 4.0, 3.7.1)", async () => {
  const { person } = await signedIn("Ines");
  const [{ id }] = (await person.ask("GET", "/api/me/sessions")).body.filter((one: { isThis: boolean }) => one.isThis);
  await db.database.query("update session set proven_at = now() - interval '11 minutes' where id = $1", [id]);
  const asked = await person.ask("POST", "/api/people/invitations", { role: "viewer" });
  expect([asked.status, asked.body.asks]).toEqual([403, "proof"]);
  expect((await person.ask("GET", "/api/people")).status).toBe(200);
  expect((await person.ask("POST", "/api/me/proof", { password: "another one altogether" })).status).toBe(403);
  expect((await person.ask("POST", "/api/me/proof", { password })).status).toBe(204);
  expect((await person.ask("POST", "/api/people/invitations", { role: "viewer" })).status).toBe(201);
});

describe("a token", () => {
  const used = async (token: string) =>
    (
      await new HttpClient(server.address).ask("GET", "/api/machines", undefined, {
        ...{ Authorization: `Bearer ${token}`, Origin: "" },
      })
    ).status;
  const make = async (wish: object) =>
    (await owner.ask("POST", "/api/tokens", { name: "t", scope: "read", ...wish })).body;

  test("ends on its date", async () => {
    const until = new Date(Date.now() + 3_600_000).toISOString();
    const made = await make({ until });
    expect([made.until, made.by]).toEqual([`${until.slice(0, 19)}Z`, "Ines"]);
    expect(await used(made.token)).toBe(200);
    const ended = await make({ until });
    await db.database.query("update token set until_at = now() - interval '1 second' where id = $1", [ended.id]);
    expect(await used(ended.token)).toBe(401);
  });
  test("works from its addresses alone", async () => {
    expect(await used((await make({ addresses: ["127.0.0.0/8"] })).token)).toBe(200);
    expect(await used((await make({ addresses: ["192.0.2.0/24"] })).token)).toBe(401);
  });
  test.each([
    [{ until: "2020-01-01T00:00:00Z" }, "until"],
    [{ addresses: ["192.0.2.0/40"] }, "addresses.0"],
    [{ addresses: ["quay.example"] }, "addresses.0"],
  ])("%j is refused by name of its field", async (wish, path) => {
    expect((await make(wish)).errors[0].path).toBe(path);
  });
});

test("`nubrel person reset` gives a new password and ends every sign-in", async () => {
  await owner.ask("POST", "/api/people", { name: "Lotte", password, role: "viewer" });
  const { person } = await signedIn("Lotte");
  const until = new Date(Date.now() + 86_400_000).toISOString();
  const { body: own } = await person.ask("POST", "/api/me/tokens", { name: "t", scope: "read", until });
  const { rows } = await db.database.query("select id from account where name = 'Lotte'");
  await db.database.query(
    "insert into issued (account_id, issuer, subject, is_ruled) values ($1, 'https://a.example', '1', false), ($1, 'https://b.example', '1', true)",
    [rows[0]?.id],
  );
  const shell = (name: string) =>
    promisify(execFile)(
      process.execPath,
      [join(projectRoot, "dist/server/command.js"), JSON.stringify({ command: "person", name })],
      { env: { NUBREL_DATABASE_URL: db.url } },
    );
  const { stdout } = await shell("lotte");
  expect(stdout).toMatch(/^[a-z2-9]{5}(-[a-z2-9]{5}){3}\n$/);
  expect((await person.ask("GET", "/api/me")).status).toBe(401);
  expect((await signedIn("Lotte")).status).toBe(401);
  const left = await db.database.query(
    "select issuer from issued where account_id = $1 union all select name from token where account_id = $1 and revoked_at is null",
    [rows[0]?.id],
  );
  expect(left.rows).toEqual([{ issuer: "https://b.example" }]);
  expect(own.token).toMatch(/^nub_/);
  // It is for one sign-in, at which one of her own is chosen.
  const withNext = (given: string, next?: string) =>
    new HttpClient(owned.server.address).ask("POST", "/api/session", { name: "Lotte", password: given, next });
  const handed = stdout.trim();
  expect((await withNext(handed)).body).toMatchObject({ status: 401, asks: "next" });
  for (const poor of [handed, "password", "lotte1234567"])
    expect((await withNext(handed, poor)).body.errors[0].path, poor).toBe("next");
  expect((await withNext(handed, "heron over the lock")).status).toBe(200);
  expect((await withNext(handed, "heron over the lock")).status).toBe(401);
  expect((await withNext("heron over the lock")).status).toBe(200);
  const { body: deeds } = await owner.ask("GET", "/api/audit?text=lotte");
  expect(deeds[0]).toMatchObject({ who: "the shell", knownBy: "command", words: "gave a new password to" });
  await expect(shell("Nobody")).rejects.toThrow("Nobody here is called Nobody. There are ");
});

test("a keeper's tokens are those of sources, and no others", async () => {
  await owner.ask("POST", "/api/people", { name: "Karla", password, role: "keeper" });
  const { person } = await signedIn("Karla");
  const { body: source } = await person.ask("POST", "/api/sources", {
    ...{ kind: "push", name: "lamp", machine: "lamp", intervalMs: 5000 },
  });
  const make = (wish: object) => person.ask("POST", "/api/tokens", { name: "t", ...wish });
  expect((await make({ scope: "write", sourceId: source.id })).status).toBe(201);
  expect((await make({ scope: "manage" })).status).toBe(403);
  const { body: theirs } = await owner.ask("POST", "/api/tokens", { name: "all", scope: "manage" });
  const { body: seen } = await person.ask("GET", "/api/tokens");
  expect(seen.map(({ scope }: { scope: string }) => scope).filter((scope: string) => scope !== "write")).toEqual([]);
  expect((await person.ask("DELETE", `/api/tokens/${theirs.id}`)).status).toBe(404);
});
