import type { RunningServer } from "../running-server.ts";
import { createServer as createHttp, type RequestListener } from "node:http";
import { createServer as createHttps } from "node:https";
import { type AddressInfo, createServer as createTcp, type Server, type Socket } from "node:net";
import { gzipSync } from "node:zlib";
import { X509Certificate } from "node:crypto";
import pino from "pino";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { SourceView, TryAnswer } from "../../core/api/sources.ts";
import { readConfig } from "../config.ts";
import { diagnose } from "../transport/diagnose.ts";
import { startServer } from "../compose.ts";
import { HttpClient } from "../testing/http-client.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { issueCertificate, type KeyPair, makeAuthority } from "../transport/issue-certificate.ts";

const password = "kestrel on the quay";
const dayMs = 86_400_000;
let db: TestDatabase;
let server: RunningServer;
let owner: HttpClient;
let authority: KeyPair;
const opened: Server[] = [];

beforeAll(async () => {
  db = await testDatabase({ migrated: false });
  server = await startServer(
    readConfig({ NUBREL_DATABASE_URL: db.url, NUBREL_PORT: "0", NUBREL_MACHINE: "vault", NUBREL_GATHER_MS: "1000" }),
    { log: pino({ level: "silent" }) },
  );
  owner = new HttpClient(server.address);
  await owner.ask("POST", "/api/setup", { code: server.setupCode, name: "Ines", password });
  authority = await makeAuthority("Kestrel Quay", new Date(Date.now() - dayMs), new Date(Date.now() + dayMs));
});
afterAll(async () => {
  await server.close();
  for (const one of opened) one.close();
  await db.drop();
});

/** A server on loopback that behaves as it is told; answers its port. */
async function listening(one: Server): Promise<number> {
  opened.push(one);
  await new Promise<void>((resolve) => one.listen(0, "127.0.0.1", resolve));
  return (one.address() as AddressInfo).port;
}
const http = (handler: RequestListener) => listening(createHttp(handler));
const tcp = (handler: (socket: Socket) => void) =>
  listening(
    createTcp((socket) => {
      socket.on("error", () => {});
      handler(socket);
    }),
  );
async function https(
  names: readonly string[],
  from = -dayMs,
  until = dayMs,
  handler: RequestListener = (_request, response) => response.end(page),
) {
  const pair = await issueCertificate(authority, names, new Date(Date.now() + from), new Date(Date.now() + until));
  return {
    port: await listening(createHttps({ cert: pair.certificatePem, key: pair.keyPem }, handler)),
    sha256: new X509Certificate(pair.certificatePem).fingerprint256,
  };
}

const page =
  '# HELP lamp_lit Whether the lamp on the mast is lit.\n# TYPE lamp_lit gauge\nlamp_lit{mast="north"} 1\nlamp_lit{mast="south"} 0\nlamp_power_watts NaN\nrelay_sent_bytes_total{to="studio"} 4096\n';
const tryAt = async (
  port: number,
  more: { scheme?: string; host?: string; path?: string; timeoutMs?: number } = {},
  rest: object = {},
): Promise<TryAnswer> => {
  const answer = await owner.ask("POST", "/api/sources/try", {
    address: { host: "127.0.0.1", port, timeoutMs: 700, ...more },
    ...rest,
  });
  expect(answer.status).toBe(200);
  return answer.body;
};
const failure = async (answer: Promise<TryAnswer>) => {
  const one = await answer;
  if (one.kind !== "failed") throw new Error(`it did not fail: ${JSON.stringify(one)}`);
  return one.failure;
};

describe("trying an address", () => {
  test("shows what would be gathered, and why the rest would not: the sums add up", async () => {
    const port = await http((_request, response) => response.end(page));
    const tried = await tryAt(
      port,
      {},
      {
        take: [
          { do: "leave", counter: "lamp*", where: { mast: "south" } },
          { do: "rename", counter: "relay_*", to: "relay.*" },
        ],
        tags: { site: "quay" },
      },
    );
    expect(tried).toMatchObject({
      kind: "page",
      format: "text",
      found: 4,
      taken: 2,
      leftOut: { "left by a rule": 1, "no number (NaN)": 1 },
    });
    if (tried.kind !== "page") throw new Error("no page");
    expect(tried.series[0]).toEqual({
      sent: { counter: "lamp_lit", tags: { mast: "north" }, unit: "1", kind: "level" },
      made: { counter: "lamp_lit", tags: { mast: "north", site: "quay" }, unit: "1", kind: "level" },
      why: null,
      value: 1,
      help: "Whether the lamp on the mast is lit.",
    });
    expect(tried.series[1]).toMatchObject({ made: null, why: "left by a rule", value: 0 });
    expect(tried.series[3]?.made).toEqual({
      counter: "relay.sent_bytes",
      tags: { to: "studio", site: "quay" },
      unit: "By",
      kind: "total",
    });
  });

  test("counts the same as saving will", async () => {
    const port = await http((_request, response) => response.end(page));
    const take = [{ do: "leave", counter: "lamp*", where: { mast: "south" } }];
    const tried = await tryAt(port, {}, { take });
    const { body: source } = await owner.ask("POST", "/api/sources", {
      kind: "pull",
      name: "counted",
      machine: "counted",
      intervalMs: 1000,
      address: { scheme: "http", host: "127.0.0.1", port, path: "/metrics", timeoutMs: 700 },
      take,
    });
    await expect.poll(async () => (await view(source.id)).taken, { timeout: 10_000 }).not.toBeNull();
    const { found, taken, leftOut } = await view(source.id);
    expect({ found, taken, leftOut }).toEqual({
      found: (tried as { found: number }).found,
      taken: (tried as { taken: number }).taken,
      leftOut: (tried as { leftOut: object }).leftOut,
    });
    expect(leftOut).toHaveProperty("left by a rule", 1);
    await owner.ask("DELETE", `/api/sources/${source.id}`);
  });

  // Each against a real server that misbehaves in that way.
  const stall: RequestListener = () => {};
  const cases: readonly (readonly [kind: string, words: string, at: () => Promise<TryAnswer>])[] = [
    ["nothing listens", "Nothing listens at 127.0.0.1:1.", () => tryAt(1)],
    ["name unknown", "studio.invalid", () => tryAt(80, { host: "studio.invalid" })],
    ["no answer", "took the connection and did not answer within 0.7 s", async () => tryAt(await http(stall))],
    [
      "reset",
      "closed the connection instead of answering",
      async () => tryAt(await tcp((socket) => socket.once("data", () => socket.resetAndDestroy()))),
    ],
    [
      "reset",
      "closed the connection instead of answering",
      async () => tryAt(await tcp((socket) => socket.once("data", () => socket.end()))),
    ],
    [
      "wrong credentials",
      "(401)",
      async () =>
        tryAt(
          await http((_request, response) => response.writeHead(401).end()),
          {},
          { credentials: { kind: "bearer", token: "old" } },
        ),
    ],
    [
      "credentials wanted",
      "no name and password or token was given",
      async () => tryAt(await http((_request, response) => response.writeHead(401).end())),
    ],
    [
      "too large",
      "headers longer than",
      async () =>
        tryAt(await http((_request, response) => response.writeHead(200, { "x-long": "y".repeat(40_000) }).end(page))),
    ],
    [
      "not the format",
      "a web page",
      async () =>
        tryAt(
          await http((_request, response) =>
            response.writeHead(200, { "content-type": "text/plain" }).end("\n<!DOCTYPE html><p>"),
          ),
        ),
    ],
    ["not allowed", "(403)", async () => tryAt(await http((_request, response) => response.writeHead(403).end()))],
    [
      "wrong path",
      "nothing at /metrics (404)",
      async () => tryAt(await http((_request, response) => response.writeHead(404).end())),
    ],
    ["refused", "answered 500", async () => tryAt(await http((_request, response) => response.writeHead(500).end()))],
    [
      "redirect",
      "sends us on to https://elsewhere.invalid/ (302)",
      async () =>
        tryAt(
          await http((_request, response) => response.writeHead(302, { location: "https://elsewhere.invalid/" }).end()),
        ),
    ],
    [
      "not the format",
      "a web page",
      async () =>
        tryAt(await http((_request, response) => response.writeHead(200, { "content-type": "text/html" }).end("<p>"))),
    ],
    [
      "not the format",
      "line 1, column 1: a sample begins with a name",
      async () => tryAt(await http((_request, response) => response.end('{"a":1}'))),
    ],
    [
      "not the format",
      "is not HTTP",
      async () => tryAt(await tcp((socket) => socket.write("220 mail.studio ESMTP\r\n"))),
    ],
    [
      "truncated",
      "cut off before its end",
      async () =>
        tryAt(
          await http((_request, response) =>
            response.writeHead(200, { "content-length": "900" }).write(page, () => response.socket?.end()),
          ),
        ),
    ],
    [
      "truncated",
      "cut off before its end",
      async () =>
        tryAt(
          await tcp((socket) =>
            socket.once("data", () =>
              socket.end("HTTP/1.1 200 OK\r\ntransfer-encoding: chunked\r\n\r\n6\r\nlamp 1\r\n"),
            ),
          ),
        ),
    ],
    [
      "not the format",
      "without # EOF: it was cut off",
      async () =>
        tryAt(
          await http((_request, response) =>
            response.writeHead(200, { "content-type": "application/openmetrics-text" }).end("lamp 1\n"),
          ),
        ),
    ],
    [
      "truncated",
      "damaged or was cut off",
      async () =>
        tryAt(
          await http((_request, response) =>
            response.writeHead(200, { "content-encoding": "gzip" }).end(gzipSync(page).subarray(0, 40)),
          ),
        ),
    ],
    [
      "too slow",
      "had not ended after 0.7 s",
      async () =>
        tryAt(await http((_request, response) => void setInterval(() => response.write("a 1\n"), 50).unref())),
    ],
    [
      "too large",
      "longer than 32 MiB",
      async () => tryAt(await http((_request, response) => flood(response)), { timeoutMs: 20_000 }),
    ],
    [
      "bomb",
      "unpacks to more than 32 MiB",
      async () =>
        tryAt(
          await http((_request, response) =>
            response.writeHead(200, { "content-encoding": "gzip" }).end(gzipSync(Buffer.alloc(60_000_000, 0x61))),
          ),
          { timeoutMs: 20_000 },
        ),
    ],
    ["unknown issuer", "it comes from", async () => tryAt((await https(["127.0.0.1"])).port, { scheme: "https" })],
    [
      "wrong name",
      "does not cover 127.0.0.1. It covers gate.quay.",
      async () =>
        tryAt(
          (await https(["gate.quay"])).port,
          { scheme: "https" },
          { trust: { kind: "issuer", pem: authority.certificatePem } },
        ),
    ],
    [
      "expired",
      "has expired. It is valid from",
      async () =>
        tryAt(
          (await https(["127.0.0.1"], -dayMs, -dayMs / 2)).port,
          { scheme: "https" },
          { trust: { kind: "issuer", pem: authority.certificatePem } },
        ),
    ],
    [
      "not yet valid",
      "not valid yet",
      async () =>
        tryAt(
          (await https(["127.0.0.1"], dayMs / 2, dayMs)).port,
          { scheme: "https" },
          { trust: { kind: "issuer", pem: authority.certificatePem } },
        ),
    ],
    [
      "other fingerprint",
      "another than the one you pinned",
      async () =>
        tryAt(
          (await https(["127.0.0.1"])).port,
          { scheme: "https" },
          { trust: { kind: "fingerprint", sha256: "00".repeat(32) } },
        ),
    ],
    [
      "not TLS",
      "does not speak TLS",
      async () => tryAt(await http((_request, response) => response.end(page)), { scheme: "https" }),
    ],
    ["TLS wanted", "speaks TLS", async () => tryAt((await https(["127.0.0.1"])).port)],
  ];
  test.each(cases)("%s: %s", async (kind, words, at) => {
    const one = await failure(at());
    expect(one.words).toContain(words);
    expect(one.kind).toBe(kind);
    expect(one.remedy.length).toBeGreaterThan(10);
  });
  // What a network on loopback cannot do: the codes by which Node.js and the HTTP client tell it.
  test.each([
    ["UND_ERR_CONNECT_TIMEOUT", "no answer", "gate:80 did not answer within 5 s"],
    ["ETIMEDOUT", "no answer", "gate:80 did not answer"],
    ["EHOSTUNREACH", "no way there", "no way to gate"],
    ["ENETUNREACH", "no way there", "no way to gate"],
    ["EAI_AGAIN", "name unknown", "the name server does not answer"],
    ["EOTHER", "failed", "in a way that nobody has described yet: told"],
  ])("%s: %s", async (code, kind, words) => {
    const one = await diagnose(new TypeError("told", { cause: Object.assign(new Error("told"), { code }) }), {
      scheme: "http",
      host: "gate",
      port: 80,
      path: "/",
      timeoutMs: 5000,
    });
    expect([one.kind, one.message]).toEqual([kind, expect.stringContaining(words)]);
  });
  test("a certificate is believed by its issuer, by its fingerprint, or by nobody's word", async () => {
    const { port, sha256 } = await https(["127.0.0.1"]);
    for (const trust of [
      { kind: "issuer", pem: authority.certificatePem },
      { kind: "fingerprint", sha256 },
      { kind: "fingerprint", sha256: sha256.replaceAll(":", "").toLowerCase() },
      { kind: "unchecked" },
    ]) {
      expect((await tryAt(port, { scheme: "https" }, { trust })).kind).toBe("page");
    }
    const { certificate } = await failure(tryAt(port, { scheme: "https" }));
    expect(certificate).toMatchObject({ sha256, subject: "127.0.0.1", issuer: "Kestrel Quay", names: ["127.0.0.1"] });
  });
  test("credentials are sent as they should be", async () => {
    const seen: (string | undefined)[] = [];
    const port = await http((request, response) => {
      seen.push(request.headers.authorization);
      response.end(page);
    });
    await tryAt(port, {}, { credentials: { kind: "basic", user: "ines", password: "x:y" } });
    await tryAt(port, {}, { credentials: { kind: "bearer", token: "abc" } });
    expect(seen).toEqual(["Basic aW5lczp4Onk=", "Bearer abc"]);
  });
  test.each([
    [
      { host: "http://gate" },
      "The name or address (address.host) must be a name or an address in numbers, without http://",
    ],
    [{ path: "metrics" }, "The path (address.path) must begin with /"],
    [{ port: 70_000 }, "The port (address.port) must be 65535 or less"],
  ])("%j is refused: %s", async (more, detail) => {
    const answer = await owner.ask("POST", "/api/sources/try", { address: { host: "gate", port: 80, ...more } });
    expect([answer.status, answer.body.detail]).toEqual([422, expect.stringContaining(detail)]);
  });
});

const pullOf = (name: string, port: number, more: object = {}) => ({
  kind: "pull",
  name,
  machine: name,
  intervalMs: 1000,
  address: { host: "127.0.0.1", port, timeoutMs: 700 },
  ...more,
});
const view = async (id: number): Promise<SourceView> => (await owner.ask("GET", `/api/sources/${id}`)).body;

describe("a source that is asked", () => {
  let value = 7;
  let wrong: RequestListener | undefined;
  let id = 0;
  test("is gathered every second under its machine, with its tags", async () => {
    const port = await http((request, response) =>
      wrong ? wrong(request, response) : response.end(`# TYPE lamp gauge\nlamp ${value}\n`),
    );
    const made = await owner.ask(
      "POST",
      "/api/sources",
      pullOf("gate", port, {
        tags: { site: "quay" },
        credentials: { kind: "basic", user: "ines", password: "very secret" },
      }),
    );
    expect(made).toMatchObject({ status: 201, body: { name: "gate", state: "waiting", credentials: "basic" } });
    expect(JSON.stringify(made.body)).not.toContain("very secret");
    id = made.body.id;
    await expect.poll(async () => (await view(id)).state, { timeout: 5000 }).toBe("reporting");
    await expect.poll(() => view(id)).toMatchObject({ found: 1, taken: 1, leftOut: {}, failure: null, hasRaw: true });
    const reading = await owner.ask("POST", "/api/readings", {
      window: { from: Date.now() - 60_000, to: Date.now() + 1000 },
      sentences: { lamp: { counter: "lamp", where: [{ tag: "site", is: ["quay"] }] } },
    });
    expect(reading.body.lines[0]).toMatchObject({ tags: { machine: "gate", site: "quay" }, last: 7 });
    expect((await owner.ask("GET", `/api/sources/${id}/raw`)).body).toBe("# TYPE lamp gauge\nlamp 7\n");
  });
  test("its secret is sealed in the database, and goes on being used", async () => {
    const { rows } = await db.database.query<{ secret: Buffer }>("select secret from source where id = $1", [id]);
    expect(rows[0]?.secret.toString("latin1")).not.toContain("secret");
    let seen: string | undefined;
    wrong = (request, response) => {
      seen = request.headers.authorization;
      response.end("lamp 8\n");
    };
    await expect.poll(() => seen, { timeout: 5000 }).toBe("Basic aW5lczp2ZXJ5IHNlY3JldA==");
  });
  test("a failure says what it is, stays in its history, and passes", async () => {
    wrong = (_request, response) => void response.writeHead(404).end();
    await expect.poll(async () => (await view(id)).failure?.kind, { timeout: 5000 }).toBe("wrong path");
    wrong = undefined;
    value = 9;
    await expect.poll(async () => (await view(id)).failure, { timeout: 5000 }).toBe(null);
    const spells = await owner.ask("GET", `/api/sources/${id}/spells?from=0&to=${Date.now() + 1000}`);
    expect(spells.body.map(({ outcome }: { outcome: string }) => outcome)).toEqual(
      expect.arrayContaining(["ok", "wrong path"]),
    );
  });
  test("rules are tried on the text received last, and hold from then on", async () => {
    const preview = await owner.ask("POST", `/api/sources/${id}/preview`, {
      take: [{ do: "scale", counter: "lamp", factor: 2, unit: "lm" }],
    });
    expect(preview.body.series[0]).toMatchObject({ made: { unit: "lm" } });
    const before = await view(id);
    const { name, machine, intervalMs, tellsSilence, address, trust, tags } = before;
    const changed = await owner.ask("PUT", `/api/sources/${id}`, {
      name,
      machine,
      intervalMs,
      tellsSilence,
      address,
      trust,
      tags,
      take: [{ do: "rename", counter: "lamp", to: "light" }],
    });
    expect(changed.body).toMatchObject({ credentials: "basic", take: [{ do: "rename" }] });
    await expect
      .poll(
        async () =>
          (await owner.ask("GET", "/api/counters")).body.some((one: { name: string }) => one.name === "light"),
        { timeout: 5000 },
      )
      .toBe(true);
  });
  test("its name is taken once; a rule that is none is told with its place", async () => {
    expect(await owner.ask("POST", "/api/sources", pullOf("GATE", 1))).toMatchObject({
      status: 409,
      body: { detail: "Another source is called GATE already." },
    });
    const bad = await owner.ask("POST", "/api/sources", pullOf("x", 1, { take: [{ do: "paint", counter: "*" }] }));
    expect([bad.status, bad.body.detail]).toEqual([422, expect.stringContaining("The list of rules (take[0])")]);
  });
  test("removed it is asked no more, and can be brought back", async () => {
    expect((await owner.ask("DELETE", `/api/sources/${id}`)).status).toBe(204);
    expect((await owner.ask("GET", `/api/sources/${id}`)).status).toBe(404);
    expect(await owner.ask("POST", `/api/sources/${id}/bring-back`)).toMatchObject({
      status: 200,
      body: { name: "gate" },
    });
    await expect.poll(async () => (await view(id)).state, { timeout: 5000 }).toBe("reporting");
  });
  test("answers that are slower than the interval never overlap", async () => {
    let now = 0;
    let most = 0;
    const port = await http((_request, response) => {
      most = Math.max(most, ++now);
      setTimeout(() => {
        now--;
        response.end("slow 1\n");
      }, 1500);
    });
    const made = await owner.ask(
      "POST",
      "/api/sources",
      pullOf("slow", port, { address: { host: "127.0.0.1", port, timeoutMs: 5000 } }),
    );
    await expect.poll(async () => (await view(made.body.id)).tookMs ?? 0, { timeout: 9000 }).toBeGreaterThan(1400);
    expect(most).toBe(1);
    await owner.ask("DELETE", `/api/sources/${made.body.id}`);
  });
  test("one that answers no more becomes silent: an incident, until it is heard again", async () => {
    let away = false;
    const port = await http((_request, response) => (away ? response.destroy() : response.end("beat 1\n")));
    const made = await owner.ask("POST", "/api/sources", pullOf("mast", port));
    await expect.poll(async () => (await view(made.body.id)).state, { timeout: 5000 }).toBe("reporting");
    away = true;
    const incidents = async () =>
      (await owner.ask("GET", `/api/incidents?from=${Date.now() - 60_000}&to=${Date.now() + 60_000}`)).body.filter(
        (one: { ruleName: string }) => one.ruleName === "mast is silent",
      );
    await expect
      .poll(async () => (await incidents())[0], { timeout: 20_000, interval: 500 })
      .toMatchObject({ compare: "silent", unit: "s", limit: 5, clearedAtMs: null, tags: { machine: "mast" } });
    expect((await view(made.body.id)).state).toBe("silent");
    away = false;
    await expect
      .poll(async () => (await incidents())[0]?.clearedAtMs, { timeout: 20_000, interval: 500 })
      .toBeGreaterThan(0);
    await owner.ask("DELETE", `/api/sources/${made.body.id}`);
  });
});

describe("a machine that sends", () => {
  let token = "";
  let id = 0;
  let tokenId = 0;
  const push = (body: string | Uint8Array<ArrayBuffer>, headers: Record<string, string> = {}) =>
    fetch(`${server.address}/api/push/openmetrics`, {
      method: "POST",
      body,
      headers: { authorization: `Bearer ${token}`, ...headers },
    });
  test("gets a token that is shown once and kept as a hash", async () => {
    const made = await owner.ask("POST", "/api/sources", {
      kind: "push",
      name: "desk",
      machine: "desk",
      intervalMs: 60_000,
    });
    id = made.body.id;
    const answer = await owner.ask("POST", "/api/tokens", { name: "desk", scope: "write", sourceId: id });
    ({ token, id: tokenId } = answer.body);
    expect(token).toMatch(/^nub_[\w-]{43}$/);
    const { rows } = await db.database.query("select * from token");
    expect(JSON.stringify(rows)).not.toContain(token);
    expect(JSON.stringify((await owner.ask("GET", "/api/tokens")).body)).not.toContain(token);
  });
  const inAnotherUnit =
    "before 1973: its times are in another unit than is read; text has milliseconds, and seconds with the Content-Type of OpenMetrics";
  test("is told how many samples were taken, and why the rest was not; what is acknowledged is stored", async () => {
    const now = Date.now();
    const answer = await push(
      `temperature_celsius{room="studio"} 21.5 ${now - 5000}\ntemperature_celsius{room="studio"} 22 ${now}\ntemperature_celsius{room="attic"} 9 ${now - 2 * 86_400_000}\ntemperature_celsius{room="attic"} 9 ${Math.floor(now / 1000)}\ntemperature_celsius{room="roof"} NaN\n`,
    );
    expect([answer.status, await answer.json()]).toEqual([
      200,
      {
        found: 5,
        taken: 2,
        leftOut: { "no number (NaN)": 1, "more than a day back, as its settings have it": 1, [inAnotherUnit]: 1 },
        notes: [],
      },
    ]);
    const reading = await owner.ask("POST", "/api/readings", {
      window: { from: now - 60_000, to: now + 1000 },
      step: 5,
      sentences: { t: { counter: "temperature_celsius" } },
    });
    expect(reading.body.lines[0]).toMatchObject({
      tags: { machine: "desk", room: "studio" },
      unit: "Cel",
      last: 22,
      min: 21.5,
    });
    expect(
      (await owner.ask("GET", "/api/tokens")).body.find((one: { id: number }) => one.id === tokenId).lastUsedAtMs,
    ).toBeGreaterThan(now - 5000);
  });
  test("gzip and OpenMetrics are read; what cannot be is told with line and column and nothing of it is taken", async () => {
    expect(
      await (await push(Uint8Array.from(gzipSync("beats_total 5\n")), { "content-encoding": "gzip" })).json(),
    ).toMatchObject({ taken: 1 });
    expect(
      await (
        await push('# TYPE beats counter\nbeats_total 6 # {t="x"} 1\n# EOF\n', {
          "content-type": "application/openmetrics-text; version=1.0.0",
        })
      ).json(),
    ).toMatchObject({ taken: 1, notes: ["1 exemplars were read and dropped."] });
    const cut = await push("beats 7\nbeats off\n");
    expect([cut.status, (await cut.json()).detail]).toEqual([
      422,
      'line 2, column 7: "off" is not a number. Nothing of it was taken.',
    ]);
    expect((await push(Uint8Array.from(Buffer.from("no gzip")), { "content-encoding": "gzip" })).status).toBe(400);
    expect((await push("x", { "content-encoding": "br" })).status).toBe(415);
    expect((await view(id)).failure?.words).toContain("packed as br");
  });
  test("limits hold: a body that is too large, a label that never repeats", async () => {
    const limits = (await owner.ask("GET", "/api/intake-limits")).body;
    expect(
      (await owner.ask("PUT", "/api/intake-limits", { ...limits, bodyBytes: 65_536, newSeriesPerMinute: 10 })).status,
    ).toBe(200);
    expect((await push("a".repeat(70_000))).status).toBe(413);
    const many = await (await push(Array.from({ length: 30 }, (_, i) => `churn{n="${i}"} 1\n`).join(""))).json();
    // what was new earlier in this minute counts as well
    const refused = many.leftOut["more than 10 new series in a minute"];
    expect([many.found, many.taken + refused, many.taken >= 1 && many.taken <= 10]).toEqual([30, 30, true]);
    expect((await owner.ask("PUT", "/api/intake-limits", limits)).status).toBe(200);
    expect((await owner.ask("PUT", "/api/intake-limits", { ...limits, tags: 0 })).body.detail).toContain(
      "The set of tags must be 1 or more",
    );
  });
  test("a paused source takes nothing, and says who paused it, why, and until when", async () => {
    const pause = (untilMs: number) => owner.ask("PUT", `/api/sources/${id}/pause`, { untilMs, why: "new switch" });
    const untilMs = Date.now() + 3_600_000;
    expect((await pause(untilMs)).status).toBe(200);
    expect([(await push("a 1\n")).status, await view(id)]).toEqual([
      409,
      expect.objectContaining({
        state: "paused",
        pause: { by: "Ines", why: "new switch", sinceMs: expect.any(Number), untilMs },
      }),
    ]);
    await owner.ask("DELETE", `/api/sources/${id}/pause`);
    expect([(await push("a 1\n")).status, (await view(id)).pause]).toEqual([200, null]);
    // It ends by itself, and cannot be for ever.
    await pause(Date.now() + 300);
    expect((await push("a 1\n")).status).toBe(409);
    await expect.poll(async () => (await view(id)).pause, { timeout: 5000 }).toBe(null);
    expect((await pause(Date.now() - 1)).body.detail).toBe("The end is over already");
    expect((await pause(Date.now() + 32 * 86_400_000)).body.detail).toContain("a pause ends by itself");
  });
  test("tokens do what their scope says and no more; a revoked one does nothing", async () => {
    const tokenFor = async (scope: string) =>
      (await owner.ask("POST", "/api/tokens", { name: scope, scope })).body.token as string;
    const ask = async (with_: string, method: string, path: string, body?: object) =>
      (
        await fetch(server.address + path, {
          method,
          headers: { authorization: `Bearer ${with_}`, ...(body && { "content-type": "application/json" }) },
          ...(body && { body: JSON.stringify(body) }),
        })
      ).status;
    const [read, manage] = [await tokenFor("read"), await tokenFor("manage")];
    expect(await ask(token, "GET", "/api/sources")).toBe(403);
    expect(await ask(read, "GET", "/api/sources")).toBe(200);
    expect(
      await ask(read, "POST", "/api/readings", { window: { from: 0, to: 1000 }, sentences: { a: { counter: "a" } } }),
    ).toBe(200);
    expect(await ask(read, "DELETE", `/api/sources/${id}`)).toBe(403);
    expect(await ask(read, "POST", "/api/push/openmetrics")).toBe(403);
    expect(
      await ask(manage, "PUT", "/api/machines/desk", { friendlyName: "The studio's PC", tags: { site: "studio" } }),
    ).toBe(200);
    expect(await ask("nub_nothing", "GET", "/api/sources")).toBe(401);
    expect(await ask(read, "GET", "/api/me")).toBe(401); // a token is no person
    expect((await owner.ask("DELETE", `/api/tokens/${tokenId}`)).status).toBe(204);
    expect((await push("a 1\n")).status).toBe(401);
  });
  test("a machine's tags can be asked for without being part of its series", async () => {
    const reading = await owner.ask("POST", "/api/readings", {
      window: { from: Date.now() - 600_000, to: Date.now() },
      sentences: {
        t: { counter: "temperature_celsius", where: [{ tag: "site", is: ["studio"] }], lines: { per: ["site"] } },
      },
    });
    expect(reading.body.lines.map(({ tags }: { tags: object }) => tags)).toEqual([
      expect.objectContaining({ site: "studio", machine: "desk" }),
    ]);
    expect((await owner.ask("GET", "/api/machines/desk")).body).toMatchObject({
      friendlyName: "The studio's PC",
      tags: { site: "studio" },
      sources: [{ name: "desk", kind: "push" }],
    });
  });
});

function flood(response: Parameters<RequestListener>[1]): void {
  const piece = Buffer.alloc(1_000_000, 0x61);
  const more = () => {
    while (response.writable && response.write(piece));
  };
  response.on("drain", more);
  response.on("error", () => {});
  more();
}

describe("a machine that is done with", () => {
  const machines = async () =>
    (await owner.ask("GET", "/api/machines")).body as readonly { name: string; state: string }[];
  test("without its source it is neither silent nor urgent; removed it is off the lists with what gathers it, and can be put back", async () => {
    const { body: source } = await owner.ask("POST", "/api/sources", {
      kind: "push",
      name: "buoy",
      machine: "buoy",
      intervalMs: 1000,
    });
    const { token } = (await owner.ask("POST", "/api/tokens", { name: "buoy", scope: "write", sourceId: source.id }))
      .body;
    const push = () =>
      fetch(`${server.address}/api/push/openmetrics`, {
        method: "POST",
        body: "swell 1\n",
        headers: { authorization: `Bearer ${token}` },
      });
    expect((await machines()).find(({ name }) => name === "buoy")?.state).toBe("waiting");
    expect((await push()).status).toBe(200);
    await owner.ask("DELETE", `/api/sources/${source.id}`);
    expect((await machines()).find(({ name }) => name === "buoy")?.state).toBe("not gathered");
    const briefing = (await owner.ask("GET", "/api/briefing")).body as readonly { parts?: unknown }[];
    expect(JSON.stringify(briefing)).not.toContain("buoy");
    await owner.ask("POST", `/api/sources/${source.id}/bring-back`);
    expect((await owner.ask("DELETE", "/api/machines/buoy")).body).toEqual({ sources: [source.id] });
    expect((await machines()).map(({ name }) => name)).not.toContain("buoy");
    expect((await push()).status).toBe(403);
    expect((await owner.ask("GET", "/api/machines/buoy")).status).toBe(404);
    expect((await owner.ask("POST", "/api/machines/buoy/bring-back", { sources: [source.id] })).body).toMatchObject({
      name: "buoy",
      sources: [{ name: "buoy" }],
    });
    expect((await push()).status).toBe(200);
    expect((await owner.ask("DELETE", "/api/machines/nobody")).status).toBe(404);
    expect((await owner.ask("DELETE", "/api/machines/vault")).status).toBe(409); // the one that it runs on
  });
  test("what sends may come once in 31 days, and no more seldom", async () => {
    const make = (days: number) =>
      owner.ask("POST", "/api/sources", {
        kind: "push",
        name: `nightly ${days}`,
        machine: "nightly",
        intervalMs: days * dayMs,
      });
    expect([(await make(31)).status, (await make(32)).status]).toEqual([201, 422]);
  });
  test("where other machines reach the server is told, and that none can while it listens on loopback", async () => {
    const { isLoopbackOnly, reachedAt } = (await owner.ask("GET", "/api/transport")).body as {
      isLoopbackOnly: boolean;
      reachedAt: readonly string[];
    };
    expect(isLoopbackOnly).toBe(true);
    expect(reachedAt.length).toBeGreaterThan(0);
    for (const origin of reachedAt)
      expect(origin).toMatch(new RegExp(`^https://(?!127\\.|localhost|\\[::1).+:${new URL(server.address).port}$`));
  });
});

describe("a logger that sends tables", () => {
  let token = "";
  let id = 0;
  const push = (body: string, query = "") =>
    fetch(`${server.address}/api/push/csv${query}`, {
      method: "POST",
      body,
      headers: { authorization: `Bearer ${token}`, "content-type": "text/csv" },
    });
  const day = new Date().toISOString().slice(0, 10);
  test("clear ones are taken at once; doubtful ones are refused until a person has confirmed how they are read", async () => {
    id = (
      await owner.ask("POST", "/api/sources", { kind: "push", name: "logger", machine: "logger", intervalMs: 300_000 })
    ).body.id;
    token = (await owner.ask("POST", "/api/tokens", { name: "logger", scope: "write", sourceId: id })).body.token;
    expect(await (await push(`time,heat [Cel]\n${day}T00:00:01Z,5\n${day}T00:00:02Z,\n`)).json()).toEqual({
      found: 2,
      taken: 1,
      leftOut: { "an empty cell": 1 },
      notes: [],
    });
    const [year, month, date] = day.split("-");
    const local = `time;heat\n${month}/${date}/${year} 00:00:05;1,5\n`;
    const refused = await push(local);
    expect([refused.status, (await refused.json()).detail]).toEqual([
      422,
      expect.stringContaining(
        "The times say no zone; they are taken as UTC. Confirm how tables of this source are read",
      ),
    ]);
    const found = (await owner.ask("POST", `/api/sources/${id}/table`, { text: local })).body;
    expect(found).toMatchObject({
      shape: { layout: "wide", delimiter: ";", decimal: "," },
      tried: { found: 1, taken: 1 },
    });
    const { name, machine, intervalMs, tellsSilence, address, trust, tags, take } = await view(id);
    await owner.ask("PUT", `/api/sources/${id}`, {
      name,
      machine,
      intervalMs,
      tellsSilence,
      address,
      trust,
      tags,
      take,
      csv: { ...found.shape, timeForm: "m/d/y" },
    });
    expect(await (await push(local)).json()).toMatchObject({ taken: 1 });
    const later = await push("time;heat\nnoon;1\n");
    expect([later.status, (await later.json()).detail]).toEqual([
      422,
      'line 2, column 1: "noon" is not a time written as m/d/y. Nothing of it was taken.',
    ]);
    expect((await owner.ask("POST", `/api/sources/${id}/table`, { text: "a,b\n1,2\n" })).body.detail).toContain(
      "No column of times was found",
    );
  });
  test("the address can say what a table leaves open; what a column was before, it is in a row alone too", async () => {
    const { body: source } = await owner.ask("POST", "/api/sources", {
      kind: "push",
      name: "rooms",
      machine: "rooms",
      intervalMs: 300_000,
    });
    ({ token } = (await owner.ask("POST", "/api/tokens", { name: "rooms", scope: "write", sourceId: source.id })).body);
    const mixed = `time,room,warmth\n${day}T00:00:01Z,attic,"1,234"\n`;
    const refused = await push(mixed);
    expect([refused.status, (await refused.json()).detail]).toEqual([
      422,
      expect.stringMatching(/1,234 could be a thousand.*\?decimal=, \?times=d\/m\/y \?zone=60 \?tags=room/),
    ]);
    expect(await (await push(mixed, "?decimal=,&tags=room")).json()).toEqual({
      found: 1,
      taken: 1,
      leftOut: {},
      notes: [],
    });
    expect(await (await push(`time,room,warmth\n${day}T00:00:02Z,101,error\n`)).json()).toEqual({
      found: 1,
      taken: 0,
      leftOut: { "not a number": 1 },
      notes: [],
    });
    expect(await (await push(`time,room,warmth\n${day}T00:00:02Z,101,7.5\n`)).json()).toMatchObject({ taken: 1 });
    const reading = await owner.ask("POST", "/api/readings", {
      window: { from: Date.parse(`${day}T00:00:00Z`), to: Date.parse(`${day}T00:00:04Z`) },
      step: 1,
      sentences: { warm: { counter: "warmth", lines: { per: ["room"] } } },
    });
    expect(
      reading.body.lines.map(({ tags, values }: { tags: object; values: readonly (number | null)[] }) => [
        tags,
        values.find((value) => value !== null),
      ]),
    ).toEqual(
      expect.arrayContaining([
        [{ machine: "rooms", room: "attic" }, 1.234],
        [{ machine: "rooms", room: "101" }, 7.5],
      ]),
    );
    const wrong = await push(mixed, "?decimal=;");
    expect([wrong.status, (await wrong.json()).detail]).toEqual([422, expect.stringContaining('"decimal"')]);
  });
});

describe("this machine is gathered as a device is", () => {
  const settingsOf = ({ name, machine, intervalMs, tellsSilence, address, device, trust, tags, take }: SourceView) => ({
    name,
    machine,
    intervalMs,
    tellsSilence,
    address,
    device,
    trust,
    tags,
    take,
  });
  const own = async (): Promise<SourceView> =>
    (await owner.ask("GET", "/api/sources")).body.find((one: SourceView) => one.kind === "this-machine");
  test("what was read is shown as received, the kernel's own text", async () => {
    await expect.poll(async () => (await own()).hasRaw, { timeout: 10_000 }).toBe(true);
    const { body: text } = await owner.ask("GET", `/api/sources/${(await own()).id}/raw`);
    expect(text).toMatch(/^\/proc\/stat\ncpu {2}\d+/);
    expect(text).toMatch(/\/proc\/meminfo\nMemTotal: +\d+ kB/);
    expect(text).not.toContain("/proc/1/");
  });
  test("rules are tried on what it said last, and hold from the next gathering on", async () => {
    const source = await own();
    const take = [
      { do: "leave", counter: "system.processes.*" },
      { do: "leave", counter: "system.memory.*" },
    ];
    const tried = (await owner.ask("POST", `/api/sources/${source.id}/preview`, { take, tags: {} })).body as TryAnswer;
    expect(tried).toMatchObject({ kind: "page", format: "device", leftOut: { "left by a rule": expect.any(Number) } });
    expect((await owner.ask("PUT", `/api/sources/${source.id}`, { ...settingsOf(source), take })).status).toBe(200);
    await expect.poll(async () => (await own()).leftOut["left by a rule"] ?? 0, { timeout: 10_000 }).toBeGreaterThan(5);
    const { found, taken, leftOut } = await own();
    expect((taken ?? 0) + Object.values(leftOut).reduce((sum, n) => sum + n, 0)).toBe(found);
    expect((await owner.ask("PUT", `/api/sources/${source.id}`, { ...settingsOf(source), take: [] })).status).toBe(200);
  });
  test("its series count toward the budget of a source", async () => {
    const limits = (await owner.ask("GET", "/api/intake-limits")).body;
    const source = await own();
    expect((await owner.ask("PUT", "/api/intake-limits", { ...limits, seriesPerSource: 10 })).status).toBe(200);
    expect(
      (await owner.ask("PUT", `/api/sources/${source.id}`, { ...settingsOf(source), tags: { room: "attic" } })).status,
    ).toBe(200); // all its series are others now
    await expect
      .poll(async () => (await own()).leftOut["more than 10 series of one source"] ?? 0, { timeout: 10_000 })
      .toBeGreaterThan(10);
    await owner.ask("PUT", `/api/sources/${source.id}`, { ...settingsOf(source), tags: {} });
    await owner.ask("PUT", "/api/intake-limits", limits);
  });
});
