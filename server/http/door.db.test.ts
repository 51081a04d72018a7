import type { RunningServer } from "../running-server.ts";
import { createServer, request as httpRequest, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import pino from "pino";
import { afterAll, beforeAll, beforeEach, describe, expect, test } from "vitest";
import { readConfig } from "../config.ts";
import { startServer } from "../compose.ts";
import { HttpClient } from "../testing/http-client.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";

// What the door promises (docs/security.md), asked of a server as a stranger, a reader, a sender and the owner would
// ask.

const password = "kestrel on the quay";
let db: TestDatabase;
let server: RunningServer;
let owner: HttpClient;
/** Somewhere else: what is sent there is noted. */
let elsewhere: Server;
/** By which the owner's browser is known. */
let mark = "";
let heard: {
  readonly authorization: string | undefined;
  readonly path: string;
  readonly headers: Record<string, unknown>;
}[] = [];

beforeAll(async () => {
  db = await testDatabase({ migrated: false });
  server = await startServer(
    readConfig({
      NUBREL_DATABASE_URL: db.url,
      NUBREL_PORT: "0",
      NUBREL_MACHINE: "playout",
      NUBREL_NAMES: "nubrel.quay",
      NUBREL_GATHER_MS: "1000",
    }),
    { log: pino({ level: "silent" }), demo: { owner: { name: "Ines", password }, progress: () => 1 } },
  );
  owner = new HttpClient(server.address);
  const { headers } = await owner.ask("POST", "/api/setup", { code: server.setupCode, name: "Ines", password });
  mark = headers
    .getSetCookie()
    .find((cookie) => cookie.startsWith("nubrel_browser="))
    ?.split(";")[0] as string;
  elsewhere = createServer((request, response) => {
    heard.push({ authorization: request.headers.authorization, path: request.url ?? "", headers: request.headers });
    request.resume();
    response.end("up 1\n");
  });
  await new Promise<void>((resolve) => elsewhere.listen(0, "127.0.0.1", resolve));
});
afterAll(async () => {
  await server.close();
  await db.drop();
  await new Promise((resolve) => elsewhere.close(resolve));
});
beforeEach(() => {
  heard = [];
});

const port = () => (elsewhere.address() as AddressInfo).port;
const token = async (scope: string, sourceId?: number) =>
  (await owner.ask("POST", "/api/tokens", { name: `a ${scope}`, scope, ...(sourceId !== undefined && { sourceId }) }))
    .body.token as string;
const bearer = (text: string) => ({ Authorization: `Bearer ${text}` });
/** Asks with a Host of one's own, which fetch does not send. */
const withHost = (host: string, path = "/api/health") =>
  new Promise<{ status: number; body: string }>((resolve, reject) => {
    const { hostname, port: at } = new URL(server.address);
    httpRequest({ host: hostname, port: at, path, headers: { Host: host } }, (response) => {
      let body = "";
      response.on("data", (part) => (body += part));
      response.on("end", () => resolve({ status: response.statusCode as number, body }));
    })
      .on("error", reject)
      .end();
  });

describe("wrong passwords", () => {
  test("eighty at once: five are looked at, the others are told to wait", async () => {
    const all = await Promise.all(
      Array.from({ length: 80 }, () =>
        new HttpClient(server.address).ask("POST", "/api/session", { name: "nobody", password: "wrong on purpose" }),
      ),
    );
    expect(all.filter(({ status }) => status === 401)).toHaveLength(5);
    expect(all.filter(({ status }) => status === 429)).toHaveLength(75);
    expect(all.find(({ status }) => status === 429)?.headers.get("retry-after")).toMatch(/^\d+$/);
  }, 60_000);
  test("the owner's own browser is let in while somebody at the same address guesses", async () => {
    for (let i = 0; i < 7; i++)
      await new HttpClient(server.address).ask("POST", "/api/session", { name: "Ines", password: "a wrong guess" });
    const signIn = (headers: Record<string, string>) =>
      new HttpClient(server.address).ask("POST", "/api/session", { name: "Ines", password }, headers);
    expect((await signIn({})).status).toBe(429);
    expect((await signIn({ Cookie: mark })).status).toBe(200);
  }, 30_000);
});

describe("kept secrets serve the destination for which they were entered", () => {
  test("a source's: tried or moved elsewhere they must be entered again, and nothing is asked there", async () => {
    const settings = {
      kind: "pull",
      name: "gate",
      machine: "gate",
      intervalMs: 60_000,
      address: { scheme: "http", host: "127.0.0.1", port: 1, path: "/metrics", timeoutMs: 1000 },
      credentials: { kind: "basic", user: "ines", password: "of the gate" },
    };
    const { body: source } = await owner.ask("POST", "/api/sources", settings);
    const moved = { ...settings.address, port: port() };
    const tried = await owner.ask("POST", "/api/sources/try", { id: source.id, address: moved });
    expect(tried).toMatchObject({
      status: 422,
      body: { title: "Another destination", errors: [{ path: "credentials" }] },
    });
    const { kind: _, credentials: __, ...change } = settings;
    expect((await owner.ask("PUT", `/api/sources/${source.id}`, { ...change, address: moved })).status).toBe(422);
    expect(
      (await owner.ask("PUT", `/api/sources/${source.id}`, { ...change, trust: { kind: "unchecked" } })).status,
    ).toBe(422);
    expect(heard).toEqual([]);
    expect(
      (
        await owner.ask("PUT", `/api/sources/${source.id}`, {
          ...change,
          address: moved,
          credentials: settings.credentials,
        })
      ).status,
    ).toBe(200);
    expect(
      (await owner.ask("POST", "/api/sources/try", { id: source.id, address: { ...moved, path: "/other" } })).body.kind,
    ).toBe("page");
    expect(heard.at(-1)?.authorization).toBe(`Basic ${Buffer.from("ines:of the gate").toString("base64")}`);
    await owner.ask("DELETE", `/api/sources/${source.id}`);
  });
  test("a device's, when it is walked or tried elsewhere", async () => {
    const device = { kind: "snmp", host: "10.255.255.1", port: 161, version: "2c", timeoutMs: 200 };
    const { body: source } = await owner.ask("POST", "/api/sources", {
      kind: "snmp",
      name: "switch",
      machine: "switch",
      intervalMs: 3_600_000,
      device,
      credentials: { kind: "community", community: "of the switch" },
    });
    for (const path of ["/api/sources/walk", "/api/sources/try"])
      expect(
        (await owner.ask("POST", path, { id: source.id, device: { ...device, host: "127.0.0.1", port: port() } })).body
          .title,
      ).toBe("Another destination");
    await owner.ask("DELETE", `/api/sources/${source.id}`);
  });
  test("a webhook's headers and secret", async () => {
    const webhook = {
      url: `http://127.0.0.1:${port()}/hook/TOKEN-IN-URL`,
      headers: [{ name: "Authorization", value: "Bearer VALUE-IN-HEADER" }],
      issuer: "",
    };
    const { body: made } = await owner.ask("POST", "/api/recipients", {
      name: "board",
      kind: "webhook",
      webhook,
      secret: "SIGNING-SECRET",
    });
    expect(made.webhook).toEqual({ ...webhook, headers: [{ name: "Authorization", value: "" }] });
    const kept = {
      name: "board",
      kind: "webhook",
      webhook: { ...webhook, headers: [{ name: "Authorization", value: "" }] },
    };
    const elsewhereToo = { ...kept, webhook: { ...kept.webhook, url: "http://localhost:9/hook" } };
    expect((await owner.ask("POST", "/api/recipients/try", { ...elsewhereToo, id: made.id })).status).toBe(422);
    expect((await owner.ask("PUT", `/api/recipients/${made.id}`, elsewhereToo)).status).toBe(422);
    expect((await owner.ask("POST", "/api/recipients/try", { ...kept, id: made.id })).body.worked).toBe(true);
    expect(heard.at(-1)).toMatchObject({
      authorization: "Bearer VALUE-IN-HEADER",
      path: "/hook/TOKEN-IN-URL",
      headers: { "nubrel-signature": expect.any(String) },
    });
    // Saved without them they stay; and nothing of them stands in the database in clear.
    expect((await owner.ask("PUT", `/api/recipients/${made.id}`, kept)).status).toBe(200);
    await owner.ask("POST", "/api/recipients/try", { ...kept, id: made.id });
    expect(heard.at(-1)?.authorization).toBe("Bearer VALUE-IN-HEADER");
    await owner.ask("PUT", "/api/alerting", { heartbeatUrl: `http://127.0.0.1:${port()}/beat/TOKEN-OF-BEAT` });
    const { rows } = await db.database.query<{ text: string }>(
      "select settings::text as text from recipient union all select value::text from setting",
    );
    expect(rows.map(({ text }) => text).join("\n")).not.toMatch(
      /TOKEN-IN-URL|VALUE-IN-HEADER|SIGNING-SECRET|TOKEN-OF-BEAT/,
    );
  });
});

describe("a token that may only read", () => {
  test.each(["/api/recipients", "/api/messages", "/api/tokens", "/api/condition", "/api/sources/1/raw"])(
    "does not see %s",
    async (path) => {
      expect(
        (await new HttpClient(server.address).ask("GET", path, undefined, bearer(await token("read")))).status,
      ).toBe(403);
      expect(
        (await new HttpClient(server.address).ask("GET", path, undefined, bearer(await token("manage")))).status,
      ).not.toBe(403);
    },
  );
  test("sees that a heartbeat is called, and not by which address", async () => {
    await owner.ask("PUT", "/api/alerting", { heartbeatUrl: `http://127.0.0.1:${port()}/beat/TOKEN-OF-BEAT` });
    const { body } = await new HttpClient(server.address).ask(
      "GET",
      "/api/alerting",
      undefined,
      bearer(await token("read")),
    );
    expect(body.heartbeat.url).toBe(`http://127.0.0.1:${port()}`);
    expect((await owner.ask("GET", "/api/alerting")).body.heartbeat.url).toContain("TOKEN-OF-BEAT");
  });
});

describe("before it is known who asks", () => {
  const many = JSON.stringify(Object.fromEntries(Array.from({ length: 60_000 }, (_, i) => [`k${i}`, 1])));
  test("no large body is read: 60,000 unknown names get a short answer", async () => {
    for (const path of [
      "/api/session",
      "/api/setup",
      "/api/rules",
      "/api/dashboards",
      "/api/readings",
      "/api/events",
    ]) {
      const answer = await fetch(server.address + path, {
        method: "POST",
        headers: { "Content-Type": "application/json", Origin: server.address },
        body: many,
      });
      expect([401, 413]).toContain(answer.status);
      expect((await answer.text()).length).toBeLessThan(1000);
    }
  });
  test("and to who is known, at most twenty faults are told", async () => {
    expect((await owner.ask("POST", "/api/rules", many)).body.detail).toContain("60000 members; 2000 are the most");
    const answer = await owner.ask(
      "POST",
      "/api/rules",
      JSON.stringify(Object.fromEntries(Array.from({ length: 1500 }, (_, i) => [`k${i}`, 1]))),
    );
    expect(answer.status).toBe(422);
    expect(answer.body.errors.length).toBe(21);
    expect(answer.body.errors.at(-1).message).toMatch(/^and \d+ more$/);
  });
});

describe("live streams", () => {
  /** Opens a stream; `ended` resolves when the server ends it. */
  async function open(headers: Record<string, string>) {
    const answer = await fetch(`${server.address}/api/live`, { headers });
    const reader = (answer.body as ReadableStream<Uint8Array>).getReader();
    await reader.read();
    const ended = (async () => {
      for (;;) if ((await reader.read()).done) return true;
    })();
    return { status: answer.status, ended };
  }
  test("end at once with the session that opened them, in every tab, and with no other", async () => {
    const here = new HttpClient(server.address);
    here.cookie = owner.cookie;
    const mine = await fetch(`${server.address}/api/session`, {
      method: "POST",
      headers: { "Content-Type": "application/json", Origin: server.address, Cookie: mark },
      body: JSON.stringify({ name: "Ines", password }),
    });
    const cookie = mine.headers.getSetCookie()[0]?.split(";")[0] as string;
    const tabs = await Promise.all([open({ Cookie: cookie }), open({ Cookie: cookie }), open({ Cookie: cookie })]);
    const other = await open({ Cookie: here.cookie });
    let otherEnded = false;
    void other.ended.then(
      () => (otherEnded = true),
      () => {},
    );
    await fetch(`${server.address}/api/session`, {
      method: "DELETE",
      headers: { Origin: server.address, Cookie: cookie },
    });
    expect(await Promise.all(tabs.map(({ ended }) => ended))).toEqual([true, true, true]);
    expect(otherEnded).toBe(false);
  });
  test("end at once with the token that is revoked; a caller has so many at the most", async () => {
    const text = await token("read");
    const streams = await Promise.all(Array.from({ length: 30 }, () => open(bearer(text))));
    expect((await fetch(`${server.address}/api/live`, { headers: bearer(text) })).status).toBe(429);
    const { id } = (await owner.ask("GET", "/api/tokens")).body.at(-1);
    await owner.ask("DELETE", `/api/tokens/${id}`);
    await Promise.all(streams.map(({ ended }) => ended));
  });
});

describe("names", () => {
  test.each(["localhost", "127.0.0.1", "[::1]", "nubrel.quay", "NUBREL.QUAY."])("%s is answered", async (name) => {
    const { port: at } = new URL(server.address);
    expect((await withHost(`${name}:${at}`)).status).toBe(200);
  });
  test.each(["evil.example", "nubrel.quay.evil.example", "localhost.evil.example", "10.9.8.7", "a b"])(
    "%j is not (DNS rebinding)",
    async (name) => {
      const { status, body } = await withHost(name);
      expect([400, 421]).toContain(status);
      expect(body).not.toContain("samplesPerSecond");
    },
  );
  test("the sample world's password is told to who sits at this machine and comes by its name", async () => {
    expect(JSON.parse((await withHost(new URL(server.address).host, "/api/demo")).body).password).toBe(password);
    expect((await withHost("evil.example", "/api/demo")).body).not.toContain(password);
  });
});

test("who did it is said by nobody but the server: a token cannot", async () => {
  const { body: source } = await owner.ask("POST", "/api/sources", {
    kind: "push",
    name: "lamp",
    machine: "lamp",
    intervalMs: 5000,
  });
  const event = { text: "moved the lamp", tags: { by: "Ines" } };
  for (const text of [await token("write", source.id), await token("manage")])
    expect((await new HttpClient(server.address).ask("POST", "/api/events", event, bearer(text))).body.errors).toEqual([
      { path: "tags.by", message: "is set by Nubrel" },
    ]);
  expect((await owner.ask("POST", "/api/events", { text: "x", tags: { by: "somebody" } })).body.tags).toEqual({
    by: "Ines",
  });
});

test("a device's name that is an option is none", async () => {
  const answer = await owner.ask("POST", "/api/sources/try", {
    device: { kind: "ups", host: "127.0.0.1", port: 3493, ups: "-h" },
  });
  expect(answer.body.detail).toContain("is the supply's name there");
});
