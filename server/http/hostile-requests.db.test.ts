import type { RunningServer } from "../running-server.ts";
import { readdirSync, readFileSync } from "node:fs";
import { connect } from "node:net";
import { join } from "node:path";
import pino from "pino";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { everyRoute } from "../../core/api/every-route.ts";
import { readConfig } from "../config.ts";
import { LogBook } from "../log-book.ts";
import { projectRoot } from "../project-root.ts";
import { startServer } from "../compose.ts";
import { HttpClient } from "../testing/http-client.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";

// Values that are no values, sent to every route there is: a 4xx with the place, never a 500, and the server lives.

let db: TestDatabase;
let server: RunningServer;
let owner: HttpClient;
let writeToken: string;
const book = new LogBook();

beforeAll(async () => {
  db = await testDatabase({ migrated: false });
  server = await startServer(readConfig({ NUBREL_DATABASE_URL: db.url, NUBREL_PORT: "0", NUBREL_MACHINE: "playout" }), {
    log: pino({ level: "warn" }, book),
    book,
  });
  owner = new HttpClient(server.address);
  await owner.ask("POST", "/api/setup", { code: server.setupCode, name: "Ines", password: "kestrel on the quay" });
  const source = await owner.ask("POST", "/api/sources", {
    kind: "push",
    name: "lamp",
    machine: "lamp",
    intervalMs: 5000,
  });
  writeToken = (await owner.ask("POST", "/api/tokens", { name: "x", scope: "write", sourceId: source.body.id })).body
    .token;
});
afterAll(async () => {
  await server.close();
  await db.drop();
});

/** Every route: those that core/api names, and what the files answer besides. */
function allRoutes(): readonly { readonly method: string; readonly path: string }[] {
  const folder = join(projectRoot, "server");
  const files = readdirSync(folder, { recursive: true, encoding: "utf8" })
    .filter((name) => /(^|\/)(app|[^/]*-router)\.ts$/.test(name))
    .map((name) => join(folder, name));
  const others = files.flatMap((file) => [
    ...readFileSync(file, "utf8").matchAll(/\b(?:router|app)\.(get|post|put|patch|delete)\("(\/[^"*]*)"/g),
  ]);
  return [
    ...[...everyRoute.values()].map(({ method, path }) => ({ method, path: `/api${path}` })),
    ...others.map(([, method, path]) => ({
      method: (method as string).toUpperCase(),
      path: /^\/(api|v1|collector|house)/.test(path as string) ? (path as string) : `/api${path}`,
    })),
  ];
}

const wrongParts = [
  "0",
  "-1",
  "1.5",
  "99999999999999999999",
  "abc",
  "constructor",
  "__proto__",
  "%00",
  "a%00b",
  "%ED%A0%80",
  "%E0%A4%A",
  "%F0%9F%A6%85",
  "..%2f..",
  "x".repeat(5000),
];
const deep = (depth: number, open: string, close: string) => `${open.repeat(depth)}1${close.repeat(depth)}`;
const wrongBodies: readonly [name: string, body: string][] = [
  ["nothing", ""],
  ["null", "null"],
  ["a number", "5"],
  ["a list", "[]"],
  ["no JSON", "{"],
  [
    "zero bytes",
    '{"name":"a\\u0000b","text":"\\u0000","title":"\\u0000","reading":{"sentences":{"\\u0000":{"counter":"\\u0000"}}}}',
  ],
  ["half of a sign", '{"name":"\\ud83e","text":"\\ud83e","document":{"title":"\\ud83e"}}'],
  [
    "numbers too large",
    '{"id":99999999999999999999,"sourceId":99999999999,"from":1e308,"to":1e309,"untilMs":1e300,"intervalMs":1e20,"fromMs":1e300,"toMs":1e301,"rawDays":1e300,"bodyBytes":1e300,"window":{"from":-1e300,"to":1e300}}',
  ],
  ["names of every object", '{"__proto__":{"a":1},"constructor":{"prototype":1},"toString":"x"}'],
  ["5,000 deep", deep(5000, '{"a":', "}")],
  ["5,000 lists deep", deep(5000, "[", "]")],
  [
    "a reading of impossible times",
    '{"window":{"from":-8e15,"to":8e15},"sentences":{"a":{"counter":"constructor","where":[{"tag":"constructor","like":"*"},{"tag":"__proto__","is":["x"]}],"lines":{"per":["constructor","__proto__"]}}}}',
  ],
  [
    "a document of wrong types",
    '{"reading":{"sentences":{"a":{"counter":5}}},"watch":7,"notice":[],"tiles":{},"scope":[],"settings":"x","take":{},"tags":[1]}',
  ],
];

describe("every route there is", () => {
  const routes = allRoutes();
  test("they are found", () => expect(routes.length).toBeGreaterThan(70));
  test.each(
    routes.filter(({ path }) => !["/api/live", "/api/session", "/api/setup", "/api/me/sessions"].includes(path)),
  )(
    "$method $path",
    async ({ method, path }) => {
      const tries: [string, string | undefined][] = [];
      const hasPart = path.includes(":");
      const parts = hasPart ? wrongParts : [""];
      for (const part of parts) {
        const filled = path.replace(/:\w+/g, part);
        tries.push([filled, method === "GET" || method === "DELETE" ? undefined : "{}"]);
      }
      const filled = path.replace(/:\w+/g, "1");
      if (method === "GET")
        for (const query of [
          "from=1e400&to=x",
          "from=%00&to=%00",
          "from[]=1&from[]=2&to=3",
          "from=-8e15&to=8e15",
          "tag=constructor&counter=__proto__",
          "tag=%ED%A0%80",
          "most=1e30",
          "__proto__[a]=1",
        ])
          tries.push([`${filled}?${query}`, undefined]);
      else if (method !== "DELETE") for (const [, body] of wrongBodies) tries.push([filled, body]);
      const headers: Record<string, string> = /^\/(v1|collector|api\/push)/.test(path)
        ? {
            Authorization: `Bearer ${writeToken}`,
            "Content-Type": path.startsWith("/v1") ? "application/json" : "text/plain",
          }
        : {};
      for (const [address, body] of tries) {
        const { status, headers: got } = await owner.ask(method, address, body, headers);
        expect(status, `${method} ${address.slice(0, 100)} ${body?.slice(0, 80)}`).toBeLessThan(500);
        if (status >= 400 && !path.startsWith("/v1"))
          expect(got.get("content-type"), `${method} ${address.slice(0, 100)}`).toContain("application/problem+json");
      }
    },
    60_000,
  );
  test("the server lives, and no request failed inside it", async () => {
    expect((await owner.ask("GET", "/api/health")).body.status).toBe("ok");
    expect(book.entries().filter(({ words }) => words === "a request failed")).toEqual([]);
  });
});

test("a page with a label that cannot be stored is told at its source; the rest of it is stored", async () => {
  const page = 'ok 1\nbad{a="x\0y"} 2\n{ok2} 1\n'.replace("{ok2} 1\n", 'fine{__proto__="kept",constructor="too"} 3\n');
  const answer = await owner.ask("POST", "/api/push/openmetrics", page, {
    Authorization: `Bearer ${writeToken}`,
    "Content-Type": "text/plain",
  });
  expect(answer).toMatchObject({
    status: 200,
    body: { found: 3, taken: 2, leftOut: { "a zero byte or half of a sign in its name or its tags": 1 } },
  });
  expect(
    (await owner.ask("GET", "/api/sources")).body.find(({ name }: { name: string }) => name === "lamp"),
  ).toMatchObject({ found: 3, taken: 2, leftOut: { "a zero byte or half of a sign in its name or its tags": 1 } });
  const { body } = await owner.ask("GET", "/api/counters/fine");
  expect(body.newest[0].tags).toEqual(JSON.parse('{"__proto__":"kept","constructor":"too","machine":"lamp"}'));
  expect(Object.keys(body.newest[0].tags)).toContain("__proto__");
});

test("OTLP with such an attribute is told to its sender as a partial success", async () => {
  const point = (text: string) => ({
    name: "otlp.lamp",
    gauge: {
      dataPoints: [
        { timeUnixNano: `${Date.now()}000000`, asDouble: 1, attributes: [{ key: "a", value: { stringValue: text } }] },
      ],
    },
  });
  const answer = await owner.ask(
    "POST",
    "/v1/metrics",
    JSON.stringify({ resourceMetrics: [{ scopeMetrics: [{ metrics: [point("fine"), point("\0")] }] }] }),
    { Authorization: `Bearer ${writeToken}`, "Content-Type": "application/json" },
  );
  expect(answer).toMatchObject({ status: 200, body: { partialSuccess: { rejectedDataPoints: "1" } } });
});

describe("bodies that are not read to their end", () => {
  const [host, port] = ["127.0.0.1", () => Number(new URL(server.address).port)];
  test("an early refusal is heard by a sender that goes on sending, and the connection ends cleanly", async () => {
    const socket = connect(port(), host);
    let heard = "";
    const errors: Error[] = [];
    socket.on("data", (data) => (heard += data));
    socket.on("error", (error) => errors.push(error));
    const size = 64_000_000;
    socket.write(
      `POST /api/push/openmetrics HTTP/1.1\r\nHost: ${new URL(server.address).host}\r\nAuthorization: Bearer ${writeToken}\r\nContent-Type: text/plain\r\nContent-Length: ${size}\r\n\r\nbroken{\n`,
    );
    const piece = Buffer.alloc(65_536, "a 1\n");
    const ended = new Promise<void>((resolve) => socket.once("close", () => resolve()));
    while (heard === "") {
      socket.write(piece);
      await new Promise((resolve) => setImmediate(resolve));
    }
    expect(heard).toMatch(/^HTTP\/1\.1 422 /);
    expect(heard.toLowerCase()).toContain("connection: close");
    await ended;
    expect(
      errors.filter(
        (error) => (error as { code?: string }).code !== "EPIPE" && (error as { code?: string }).code !== "ECONNRESET",
      ),
    ).toEqual([]);
  });
  test("an upload that is given up is no error in the log", async () => {
    const before = book.entries().length;
    for (const path of ["/api/push/openmetrics", "/api/push/csv", "/v1/metrics", "/api/events", "/api/readings"]) {
      const socket = connect(port(), host);
      socket.on("error", () => {});
      await new Promise<void>((resolve) =>
        socket.write(
          `POST ${path} HTTP/1.1\r\nHost: ${new URL(server.address).host}\r\nAuthorization: Bearer ${writeToken}\r\nContent-Type: application/json\r\nContent-Length: 5000\r\n\r\n{"a`,
          () => resolve(),
        ),
      );
      socket.destroy();
    }
    await expect.poll(async () => (await owner.ask("GET", "/api/health")).status).toBe(200);
    expect(book.entries().slice(0, book.entries().length - before)).toEqual([]);
  });
});

test("health is answered again and again beside large bodies of new series", async () => {
  const series = 60_000;
  const page = Array.from({ length: series }, (_, i) => `big{a="${i}",b="${"x".repeat(400)}"} ${i}\n`).join("");
  const otlp = JSON.stringify({
    resourceMetrics: [
      {
        scopeMetrics: [
          {
            metrics: Array.from({ length: 40_000 }, (_, i) => ({
              name: `m${i % 500}`,
              gauge: {
                dataPoints: [
                  {
                    timeUnixNano: `${Date.now()}000000`,
                    asDouble: i,
                    attributes: [{ key: "k", value: { stringValue: `${i} ${"x".repeat(200)}` } }],
                  },
                ],
              },
            })),
          },
        ],
      },
    ],
  });
  const send = (path: string, body: string, type: string) =>
    fetch(server.address + path, {
      method: "POST",
      body,
      headers: { Authorization: `Bearer ${writeToken}`, "Content-Type": type },
    });
  let busy = true;
  const sent = Promise.all([
    send("/api/push/openmetrics", page, "text/plain"),
    send("/v1/metrics", otlp, "application/json"),
    send("/api/push/openmetrics", page, "text/plain"),
  ]).finally(() => (busy = false));
  const waits: number[] = [];
  while (busy) {
    const began = performance.now();
    await owner.ask("GET", "/api/health");
    waits.push(performance.now() - began);
  }
  for (const answer of await sent) expect(answer.status).toBe(200);
  // A body that is read in one piece would be one wait of nearly the whole time. How many milliseconds it takes depends
  // on the machine and what else it does.
  const wholeMs = waits.reduce((sum, one) => sum + one, 0);
  waits.sort((a, b) => a - b);
  expect(waits.length).toBeGreaterThan(10);
  expect(
    (waits[Math.floor(waits.length * 0.75)] as number) / wholeMs,
    `of ${waits.length}: ${waits.slice(-5).map(Math.round)}`,
  ).toBeLessThan(0.05);
  expect((waits.at(-1) as number) / wholeMs).toBeLessThan(0.5);
}, 60_000);
