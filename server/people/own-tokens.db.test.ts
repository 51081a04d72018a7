import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { emptyDashboard } from "../../core/dashboards/dashboard.ts";
import { HttpClient } from "../testing/http-client.ts";
import { type OwnedServer, ownedServer } from "../testing/owned-server.ts";

const password = "kestrel on the quay";
const inAMonth = () => new Date(Date.now() + 30 * 86_400_000).toISOString();
let owned: OwnedServer;
let owner: HttpClient;
const ids: Record<string, number> = {};
const people: Record<string, HttpClient> = {};

beforeAll(async () => {
  owned = await ownedServer();
  ({ owner } = owned);
  people["Ines"] = owner;
  for (const [name, wish] of [
    ["Tomas", { role: "keeper" }],
    ["Nora", { role: "viewer" }],
    ["Otto", { role: "viewer", limits: { machines: ["lamp"] } }],
  ] as const) {
    ids[name] = (await owner.ask("POST", "/api/people", { name, password, ...wish })).body.id;
    const client = new HttpClient(owned.server.address);
    await client.ask("POST", "/api/session", { name, password });
    people[name] = client;
  }
});
afterAll(() => owned.close());

const make = (of: string, wish: object) =>
  (people[of] as HttpClient).ask("POST", "/api/me/tokens", {
    ...{ name: "script", scope: "read", until: inAMonth() },
    ...wish,
  });

/** Asks with a token of somebody's and no cookie. */
async function by(of: string, scope: "read" | "manage") {
  const { body } = await make(of, { scope });
  const Authorization = `Bearer ${body.token}`;
  const script = new HttpClient(owned.server.address);
  return {
    id: body.id as number,
    Authorization,
    ask: (method: string, path: string, wish?: unknown) =>
      script.ask(method, path, wish, { Authorization, Origin: "" }),
  };
}

const dashboard = { document: emptyDashboard("Quay") };

describe("a token of one's own", () => {
  test("has an end within a year, a scope that its person has, and addresses", async () => {
    for (const until of [
      undefined,
      null,
      "2020-01-01T00:00:00Z",
      new Date(Date.now() + 400 * 86_400_000).toISOString(),
    ])
      expect((await make("Nora", { until })).status, `${until}`).toBe(422);
    expect((await make("Nora", { scope: "write" })).status).toBe(422);
    expect((await make("Nora", { scope: "manage" })).body.detail).toContain("looks, and changes nothing");
    const { body } = await make("Nora", { addresses: ["192.0.2.0/24"] });
    const elsewhere = { Authorization: `Bearer ${body.token}` };
    expect((await new HttpClient(owned.server.address).ask("GET", "/api/machines", undefined, elsewhere)).status).toBe(
      401,
    );
    await owned.db.database.query("update session set proven_at = now() - interval '11 minutes'");
    expect((await make("Nora", {})).body.asks).toBe("proof");
    await owned.db.database.query("update session set proven_at = now()");
  });

  test("of an owner does what tokens do, and neither lets anybody in nor is a person", async () => {
    const script = await by("Ines", "manage");
    const { body } = await script.ask("GET", "/api/retention");
    expect((await script.ask("PUT", "/api/retention", body)).status).toBe(200);
    for (const path of ["/api/people", "/api/audit", "/api/links", "/api/issuer"])
      expect((await script.ask("GET", path)).status, path).toBe(403);
    expect((await script.ask("GET", "/api/me")).status).toBe(401);
    expect((await script.ask("POST", "/api/me/tokens", {})).status).toBe(401);
  });

  test("of a keeper changes what keepers change, in their name, and no more", async () => {
    const script = await by("Tomas", "manage");
    const { status, body } = await script.ask("POST", "/api/dashboards", dashboard);
    expect([status, body.changedBy]).toEqual([201, "Tomas"]);
    expect((await script.ask("PUT", "/api/retention", {})).status).toBe(403);
    const looks = await by("Tomas", "read");
    expect((await looks.ask("GET", "/api/dashboards")).status).toBe(200);
    expect((await looks.ask("POST", "/api/dashboards", dashboard)).status).toBe(403);
    const deeds = (await owner.ask("GET", "/api/audit?who=Tomas")).body as readonly {
      words: string;
      knownBy: string;
    }[];
    const byToken = deeds.filter(({ knownBy }) => knownBy === "token").map(({ words }) => words);
    expect(byToken.filter((one) => one === "used a token of theirs")).toHaveLength(2);
    expect(byToken).toContain("made a dashboard");
  });

  test("of a viewer who is held to a machine sees that machine", async () => {
    const script = await by("Otto", "read");
    expect((await script.ask("GET", "/api/machines")).body).toEqual([]);
    expect((await (await by("Nora", "read")).ask("GET", "/api/machines")).body).toHaveLength(1);
    expect((await script.ask("GET", "/api/sources")).status).toBe(403);
  });

  test("is listed to them and to owners, and revoked by either", async () => {
    const script = await by("Nora", "read");
    const ofNora = (await people["Nora"]?.ask("GET", "/api/me/tokens"))?.body as readonly { id: number; of: string }[];
    expect(ofNora.at(-1)).toMatchObject({ id: script.id, of: "Nora" });
    expect((await people["Otto"]?.ask("DELETE", `/api/me/tokens/${script.id}`))?.status).toBe(404);
    expect((await owner.ask("GET", "/api/tokens")).body).toContainEqual(
      expect.objectContaining({ id: script.id, of: "Nora" }),
    );
    expect((await owner.ask("DELETE", `/api/tokens/${script.id}`)).status).toBe(204);
    expect((await script.ask("GET", "/api/machines")).status).toBe(401);
  });

  test("is less when its person is, and nothing when they leave, with what it has open", async () => {
    const script = await by("Tomas", "manage");
    const open = async () => {
      const stream = await fetch(`${owned.server.address}/api/live`, {
        headers: { Authorization: script.Authorization },
      });
      return stream.body?.pipeThrough(new TextDecoderStream()).getReader() as ReadableStreamDefaultReader<string>;
    };
    const ended = async (reader: ReadableStreamDefaultReader<string>) => {
      for (;;) if ((await reader.read()).done) return true;
    };
    const before = await open();
    await owner.ask("PATCH", `/api/people/${ids["Tomas"]}`, { role: "viewer", limits: { machines: ["lamp"] } });
    expect(await ended(before)).toBe(true);
    expect((await script.ask("POST", "/api/dashboards", dashboard)).status).toBe(403);
    expect((await script.ask("GET", "/api/machines")).body).toEqual([]);
    const after = await open();
    await owner.ask("DELETE", `/api/people/${ids["Tomas"]}`);
    expect(await ended(after)).toBe(true);
    expect((await script.ask("GET", "/api/machines")).status).toBe(401);
  });
});
