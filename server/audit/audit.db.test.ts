import { execFile } from "node:child_process";
import { join } from "node:path";
import { promisify } from "node:util";
import { projectRoot } from "../project-root.ts";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { Deed } from "../../core/api/audit.ts";
import { emptyDashboard } from "../../core/dashboards/dashboard.ts";
import { HttpClient } from "../testing/http-client.ts";
import { type OwnedServer, ownedServer } from "../testing/owned-server.ts";

const password = "kestrel on the quay";
let owned: OwnedServer;
let owner: HttpClient;

beforeAll(async () => {
  owned = await ownedServer();
  ({ owner } = owned);
});
afterAll(() => owned.close());

const deeds = async (query = ""): Promise<readonly Deed[]> => (await owner.ask("GET", `/api/audit${query}`)).body;
const newest = async (): Promise<Deed> => (await deeds("?most=1"))[0] as Deed;

describe("who did what", () => {
  test("a change is told with what was before and is after, and nothing of what stayed", async () => {
    const { body: made } = await owner.ask("POST", "/api/dashboards", { document: emptyDashboard("Quay") });
    expect(await newest()).toMatchObject({
      ...{ who: "Ines", knownBy: "person", place: "127.0.0.1", outcome: "done" },
      ...{ did: "POST /dashboards", words: "made a dashboard", subject: `${made.id} Quay`, before: null },
    });
    await owner.ask("PUT", `/api/dashboards/${made.id}`, {
      ...{ revision: 1, document: { ...emptyDashboard("Quay"), description: "by the lamp" } },
    });
    const { before, after, subject } = await newest();
    expect(subject).toBe(`${made.id} Quay`);
    expect(before).toMatchObject({ revision: 1, document: {} });
    expect(after).toMatchObject({ revision: 2, document: { description: "by the lamp" } });
    expect(JSON.stringify([before, after])).not.toContain("Quay");
    await owner.ask("DELETE", `/api/dashboards/${made.id}`);
    expect(await newest()).toMatchObject({ words: "removed a dashboard", after: null });
    expect(JSON.stringify((await newest()).before)).toContain("by the lamp");
  });

  test("what is one of a list is found there by its number; what is alone of its kind by its path", async () => {
    const { body } = await owner.ask("POST", "/api/people", { name: "Tomas", password, role: "viewer" });
    await owner.ask("PATCH", `/api/people/${body.id}`, { role: "keeper" });
    expect(await newest()).toMatchObject({
      ...{ words: "changed a person", subject: `${body.id} Tomas` },
      ...{ before: { role: "viewer" }, after: { role: "keeper" } },
    });
    const { body: retention } = await owner.ask("GET", "/api/retention");
    await owner.ask("PUT", "/api/retention", { ...retention, hourDays: retention.hourDays + 1 });
    expect(await newest()).toMatchObject({
      ...{ did: "PUT /retention", subject: "" },
      ...{ before: { hourDays: retention.hourDays }, after: { hourDays: retention.hourDays + 1 } },
    });
  });

  test("what is made below another was nothing before; what only stands beside it is not what it was", async () => {
    const { body: recording } = await owner.ask("POST", "/api/recordings", {
      ...{ name: "morning", everySeconds: 5, forSeconds: 60, sentences: [{ counter: "system.uptime" }] },
    });
    const { body: run } = await owner.ask("POST", `/api/recordings/${recording.id}/runs`, {});
    expect(await newest()).toMatchObject({ words: "made a run", before: null, after: { id: run.id } });
    const { rows } = await owned.db.database.query<{ id: number }>(
      `insert into incident (rule_name, severity, tags, compare, limit_value, unit, raised_at_ms, value, furthest)
       values ('light', 'notice', '{}', 'above', 1, 'lx', 1, 2, 2)
       returning id`,
    );
    await owner.ask("POST", `/api/incidents/${rows[0]?.id}/acknowledge`, {});
    expect(await newest()).toMatchObject({ words: "acknowledged an incident", before: null });
  });

  test("ways in, right and wrong, with the name that was given and no password", async () => {
    const person = new HttpClient(owned.server.address);
    await person.ask("POST", "/api/session", { name: "Tomas", password: "WRONG-PASSWORD" });
    expect(await newest()).toMatchObject({
      ...{ who: "Tomas", knownBy: "nothing", did: "POST /session", words: "would have signed in" },
      ...{ outcome: "refused: Name or password is wrong" },
    });
    await person.ask("POST", "/api/session", { name: "Tomas", password });
    expect(await newest()).toMatchObject({ who: "Tomas", knownBy: "person", words: "signed in", outcome: "done" });
    await person.ask("DELETE", "/api/session");
    expect(await newest()).toMatchObject({ words: "signed out", outcome: "done" });
    expect(JSON.stringify(await deeds("?most=1000"))).not.toMatch(/WRONG-PASSWORD|kestrel/);
  });

  test("who is refused is told once a minute", async () => {
    const person = new HttpClient(owned.server.address);
    await person.ask("POST", "/api/session", { name: "Tomas", password });
    for (let i = 0; i < 3; i++) await person.ask("GET", "/api/people");
    const found = (await deeds("?refused=true")).filter(({ did }) => did === "GET /people");
    expect(found.map(({ who, outcome }) => [who, outcome])).toEqual([["Tomas", "refused: You may not do this"]]);
  });

  test("a token does it under its own number; its text and other secrets are nowhere", async () => {
    const { body: token } = await owner.ask("POST", "/api/tokens", { name: "script", scope: "manage" });
    const bearer = { Authorization: `Bearer ${token.token}`, Origin: "" };
    await new HttpClient(owned.server.address).ask("POST", "/api/events", { text: "by a script" }, bearer);
    expect(await newest()).toMatchObject({ who: `token ${token.id}`, knownBy: "token", words: "noted an event" });
    await owner.ask("POST", "/api/people/invitations", { role: "viewer" });
    await owner.ask("PUT", "/api/alerting", { heartbeatUrl: "http://127.0.0.1:9/TOKEN-OF-BEAT" });
    const { rows } = await owned.db.database.query("select * from audit");
    expect(JSON.stringify(rows)).not.toContain(token.token);
    expect(JSON.stringify(rows)).not.toContain("TOKEN-OF-BEAT");
    const { rows: codes } = await owned.db.database.query("select after from audit where did like '%invitations'");
    expect(codes[0].after).toMatchObject({ role: "viewer", code: "(not kept)", url: "(not kept)" });
  });

  test("what did not fit was not done, and stands nowhere", async () => {
    const before = (await newest()).id;
    expect((await owner.ask("PUT", "/api/retention", { rawDays: -1 })).status).toBe(422);
    expect((await owner.ask("DELETE", "/api/dashboards/999999")).status).toBe(404);
    expect((await newest()).id).toBe(before);
  });

  test("a document that is large is told by its size", async () => {
    const tiles = [
      { id: "a", title: "", kind: "note", place: { x: 0, y: 0, width: 4, height: 4 }, text: "n".repeat(15_000) },
    ];
    await owner.ask("POST", "/api/dashboards", {
      document: { ...emptyDashboard("Long"), tiles: [...tiles, { ...tiles[0], id: "b" }] },
    });
    expect((await newest()).after).toMatch(/^\d+ characters: too many to be kept here$/);
  });
});

describe("found again", () => {
  test("by person, by words, refused or not, page by page; and as lines", async () => {
    expect((await deeds("?who=tomas")).every(({ who }) => who === "Tomas")).toBe(true);
    expect((await deeds("?text=signed%20in")).map(({ did }) => did)).toContain("POST /session");
    expect(new Set((await deeds("?text=signed%20in")).map(({ did }) => did))).toEqual(new Set(["POST /session"]));
    const all = await deeds("?most=1000");
    const pages = [
      ...(await deeds("?most=3")),
      ...(await deeds(`?most=1000&before=${(await deeds("?most=3"))[2]?.id}`)),
    ];
    expect(pages.map(({ id }) => id)).toEqual(all.map(({ id }) => id));
    const { body, headers } = await owner.ask("GET", "/api/audit/file");
    expect(headers.get("content-disposition")).toContain("who-did-what.jsonl");
    const lines = String(body)
      .trim()
      .split("\n")
      .map((line) => JSON.parse(line));
    expect(lines.map(({ id }: Deed) => id)).toEqual(all.map(({ id }) => id));
    // The last line has gone out before it is written down.
    await expect.poll(async () => (await newest()).words).toBe("took who did what away as a file");
  });
  test.each(["?most=0", "?before=x", "?refused=perhaps", `?text=${"x".repeat(300)}`])(
    "%s is refused",
    async (query) => {
      expect((await owner.ask("GET", `/api/audit${query}`)).status).toBe(422);
    },
  );
});

test("what is done in the shell is told, with what was taken away", async () => {
  const shell = (wish: object) =>
    promisify(execFile)(process.execPath, [join(projectRoot, "dist/server/command.js"), JSON.stringify(wish)], {
      env: { NUBREL_DATABASE_URL: owned.db.url },
    });
  await shell({ command: "export", format: "csv", counter: "system.*", machine: "vault" });
  await shell({ command: "note", did: "GET /backup", subject: "all.backup" });
  await shell({ command: "token", scope: "read", name: "wall" });
  const told = (await deeds("?who=the shell")).map(({ words, subject, knownBy }) => [words, subject, knownBy]);
  expect(told).toEqual([
    ["made a token", "wall", "command"],
    ["took a backup", "all.backup", "command"],
    ["took samples away", "system.* of vault", "command"],
  ]);
});
