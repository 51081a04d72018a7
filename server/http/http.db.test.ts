import type { RunningServer } from "../running-server.ts";
import pino from "pino";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { readConfig } from "../config.ts";
import { startServer } from "../compose.ts";
import { HttpClient } from "../testing/http-client.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";

const password = "kestrel on the quay";
let db: TestDatabase;
let server: RunningServer;
let owner: HttpClient;

beforeAll(async () => {
  db = await testDatabase({ migrated: false });
  server = await startServer(
    readConfig({ NUBREL_DATABASE_URL: db.url, NUBREL_PORT: "0", NUBREL_MACHINE: "playout", NUBREL_GATHER_MS: "1000" }),
    { log: pino({ level: "silent" }) },
  );
  owner = new HttpClient(server.address);
});
afterAll(async () => {
  await server.close();
  await db.drop();
});

describe("before there is an owner", () => {
  test.each([
    ["GET", "/api/me"],
    ["GET", "/api/machines"],
    ["POST", "/api/readings"],
    ["GET", "/api/rules"],
    ["POST", "/api/rules"],
    ["GET", "/api/live"],
    ["GET", "/api/incidents"],
    ["GET", "/api/density"],
    ["GET", "/api/counters"],
  ])("%s %s is refused as problem details (RFC 9457)", async (method, path) => {
    const answer = await new HttpClient(server.address).ask(method, path, method === "POST" ? {} : undefined);
    expect(answer.status).toBe(401);
    expect(answer.headers.get("content-type")).toContain("application/problem+json");
    expect(answer.body).toMatchObject({ type: "/api/problems/not-signed-in", title: "Not signed in", status: 401 });
  });
  test("health and the need for set-up are told", async () => {
    expect((await owner.ask("GET", "/api/health")).body).toMatchObject({
      status: "ok",
      database: "ok",
      version: "0.1.0",
      alerting: { lagMs: expect.any(Number), lines: expect.any(Number), failingRules: 0, failingRecipients: 0 },
    });
    expect((await owner.ask("GET", "/api/setup")).body).toMatchObject({ needed: true });
  });
  test.each([
    [{ code: "wrong-code", name: "Ines", password }, 403, "This is not the set-up code"],
    [{ code: "CODE", name: "Ines", password: "short" }, 422, "The password has 5 characters; it needs 12 or more"],
    [{ code: "CODE", name: "Ines", password: "password1234" }, 422, "among the most common ones"],
    [{ code: "CODE", name: "", password }, 422, "The name is empty"],
    [{ code: "CODE" }, 422, "The name is missing; The password is missing"],
  ])("set-up with %j is refused: %i %s", async (wish, status, detail) => {
    const body = { ...wish, code: wish.code === "CODE" ? server.setupCode : wish.code };
    const answer = await owner.ask("POST", "/api/setup", body);
    expect(answer.status).toBe(status);
    expect(answer.body.detail).toContain(detail);
  });
});

describe("the owner", () => {
  test("is made with the code, once, and is signed in by a cookie that scripts and other sites do not get", async () => {
    const made = await owner.ask("POST", "/api/setup", {
      code: ` ${server.setupCode?.toUpperCase()} `,
      name: "Ines",
      password,
    });
    expect(made).toMatchObject({ status: 201, body: { name: "Ines", role: "owner" } });
    expect(made.headers.get("set-cookie")).toMatch(
      /^nubrel_session=[\w-]{43}; Max-Age=\d+; Path=\/; HttpOnly; SameSite=Strict, nubrel_browser=1\.[\w.-]+; Max-Age=\d+; Path=\/; HttpOnly; SameSite=Strict$/,
    );
    expect((await owner.ask("GET", "/api/me")).body).toEqual({ name: "Ines", role: "owner" });
    expect((await owner.ask("POST", "/api/setup", { code: server.setupCode, name: "Mallory", password })).status).toBe(
      409,
    );
    expect((await owner.ask("GET", "/api/setup")).body).toMatchObject({ needed: false });
  });
  test("password and session are kept as hashes only", async () => {
    const { rows } = await db.database.query<{ password_hash: string }>("select password_hash from account");
    expect(rows[0]?.password_hash).toMatch(/^\$argon2id\$v=19\$m=65536,t=3,p=4\$/);
    const { rows: sessions } = await db.database.query<{ token_hash: Buffer }>("select token_hash from session");
    expect(sessions.some(({ token_hash }) => owner.cookie.includes(token_hash.toString("base64url")))).toBe(false);
  });
  test("signing in makes a new session and closes the one before; signing out closes it", async () => {
    const client = new HttpClient(server.address);
    expect((await client.ask("POST", "/api/session", { name: "ines", password })).status).toBe(200);
    const first = client.cookie;
    await client.ask("POST", "/api/session", { name: "Ines", password });
    expect(client.cookie).not.toBe(first);
    const old = new HttpClient(server.address);
    old.cookie = first;
    expect((await old.ask("GET", "/api/me")).status).toBe(401);
    const last = client.cookie;
    expect((await client.ask("DELETE", "/api/session")).status).toBe(204);
    old.cookie = last;
    expect((await old.ask("GET", "/api/me")).status).toBe(401);
  });
  test("what is asked at once by one sign-in is answered all of it; after it was closed none", async () => {
    const client = new HttpClient(server.address);
    await client.ask("POST", "/api/session", { name: "Ines", password });
    const many = async () =>
      (await Promise.all(Array.from({ length: 20 }, () => client.ask("GET", "/api/me")))).map(({ status }) => status);
    expect(new Set(await many())).toEqual(new Set([200]));
    const { cookie } = client;
    const onTheirWay = many();
    await client.ask("DELETE", "/api/session");
    client.cookie = cookie;
    expect(new Set(await many())).toEqual(new Set([401]));
    await onTheirWay;
  });
  test("five wrong passwords close the door for that account and address, with the time to wait; also to the right one", async () => {
    const client = new HttpClient(server.address);
    for (let i = 0; i < 5; i++)
      expect(await client.ask("POST", "/api/session", { name: "Mallory", password: `wrong ${i}` })).toMatchObject({
        status: 401,
        body: { title: "Name or password is wrong" },
      });
    const refused = await client.ask("POST", "/api/session", { name: "mallory", password: "wrong" });
    expect(refused.status).toBe(429);
    expect(refused.body.detail).toMatch(/The next is let through in (15 min|14 min \d+ s)/);
    expect(Number(refused.headers.get("retry-after"))).toBeGreaterThan(800);
    expect((await client.ask("POST", "/api/session", { name: "Ines", password })).status).toBe(200);
  });
  test.each([
    ["another site's page", { Origin: "https://evil.example" }],
    ["no origin", { Origin: "" }],
    ["an origin that is none", { Origin: "null" }],
  ])("a write from %s is refused though the cookie is right", async (_name, headers) => {
    const answer = await owner.ask("POST", "/api/rules", {}, headers);
    expect(answer).toMatchObject({ status: 403, body: { title: "Refused" } });
  });
});

test("pages carry a strict content security policy and no hint of what serves them", async () => {
  for (const path of ["/", "/machines/playout", "/api/health"]) {
    const { headers } = await owner.ask("GET", path);
    expect(headers.get("content-security-policy")).toBe(
      "default-src 'none';script-src 'self';style-src 'self';font-src 'self';img-src 'self' data:;connect-src 'self';worker-src 'self';manifest-src 'self';base-uri 'none';form-action 'none';frame-ancestors 'none'",
    );
    expect(headers.get("x-content-type-options")).toBe("nosniff");
    expect(headers.get("x-powered-by")).toBeNull();
  }
});

describe("readings over HTTP", () => {
  const now = () => Date.now();
  const reading = (more: object = {}) => ({
    window: { from: now() - 60_000, to: now() },
    sentences: { x: { counter: "system.memory.usage" } },
    ...more,
  });

  test("this machine's own counters arrive", async () => {
    await expect
      .poll(
        async () =>
          (
            await owner.ask(
              "POST",
              "/api/readings",
              reading({ sentences: { x: { counter: "system.cpu.time", where: [{ tag: "mode", is: ["idle"] }] } } }),
            )
          ).body.lines[0]?.last,
        { timeout: 10_000 },
      )
      .toBeGreaterThan(0);
    expect((await owner.ask("GET", "/api/machines")).body).toMatchObject([
      { name: "playout", state: "reporting", intervalSeconds: 1 },
    ]);
    expect((await owner.ask("GET", "/api/machines/playout")).body.counters).toContain("system.memory.usage");
    expect((await owner.ask("GET", "/api/machines/none")).body.detail).toContain(
      'No machine named "none" has reported here.',
    );
    expect((await owner.ask("GET", "/api/counters")).body).toContainEqual(
      expect.objectContaining({ name: "system.uptime", unit: "s", kind: "level", series: 1 }),
    );
    expect((await owner.ask("GET", "/api/counters/system.uptime/series")).body).toMatchObject([
      { tags: { machine: "playout" } },
    ]);
  });
  test("the series of a counter come in parts, each saying where the next one is (RFC 8288)", async () => {
    const whole = (await owner.ask("GET", "/api/counters/system.cpu.time/series")).body as { id: number }[];
    expect(whole.length).toBeGreaterThan(4);
    const found: { id: number }[] = [];
    for (let path: string | undefined = "/api/counters/system.cpu.time/series?most=3"; path; ) {
      const { body, headers } = await owner.ask("GET", path);
      expect(body.length).toBeLessThanOrEqual(3);
      found.push(...body);
      path = /^<([^>]+)>; rel="next"$/.exec(headers.get("link") ?? "")?.[1];
    }
    expect(found).toEqual(whole);
    expect((await owner.ask("GET", "/api/counters/system.cpu.time/series?most=0")).status).toBe(422);
  });
  test.each([
    ["no sentences", { sentences: {} }, "The list of sentences must have 1 entry or more"],
    [
      "a window that ends before it begins",
      { window: { from: 2, to: 1 } },
      "The end (window.to) must be more than the beginning",
    ],
    [
      "an unknown word",
      { sentences: { x: { counter: "a", as: "speed" } } },
      '"as" (sentences.x.as) must be one of rate, increase, value',
    ],
    [
      "a condition that says nothing",
      { sentences: { x: { counter: "a", where: [{ tag: "machine" }] } } },
      "needs one of is, not, like",
    ],
    ["a span that is none", { sentences: { x: { counter: "a", earlier: "a week" } } }, 'must be a span such as "7d"'],
    [
      "a step too fine for the window",
      { step: 1, window: { from: 0, to: 86_400_000 } },
      "gives more than 5000 values a line; 18 s is the finest",
    ],
    ["a window of ten years", { window: { from: 0, to: 3.2e11 } }, "five years long at most"],
    ["arithmetic with an unknown name", { figure: "x + y" }, '"y" at character 5 is not the name of a sentence'],
    ["a name that is none", { sentences: { "1x": { counter: "a" } } }, '"1x" (sentences.1x) is not known here'],
  ])("%s: 422 and where it is wrong", async (_name, more, detail) => {
    const answer = await owner.ask("POST", "/api/readings", reading(more));
    expect(answer.status).toBe(422);
    expect(answer.body.detail).toContain(detail);
    expect(answer.body.errors[0]).toHaveProperty("path");
  });
  test("a body that is no JSON, one that is too large, a path that is none", async () => {
    expect(await owner.ask("POST", "/api/readings", "{nope", { "Content-Type": "application/json" })).toMatchObject({
      status: 400,
      body: { title: "The body is not JSON" },
    });
    expect(
      await owner.ask("POST", "/api/readings", `"${"x".repeat(1_100_000)}"`, { "Content-Type": "application/json" }),
    ).toMatchObject({ status: 413 });
    expect(await owner.ask("GET", "/api/nothing")).toMatchObject({
      status: 404,
      body: { detail: "Nothing answers GET /api/nothing." },
    });
  });
  test("the density of a window counts samples by minute", async () => {
    const { body } = await owner.ask("GET", `/api/density?from=${now() - 3_600_000}&to=${now() + 60_000}&parts=61`);
    expect(body.counts).toHaveLength(61);
    expect(Math.max(...body.counts)).toBeGreaterThan(50);
    expect((await owner.ask("GET", "/api/density?from=1")).status).toBe(422);
  });
});

describe("rules over HTTP", () => {
  const rule = {
    name: "uptime",
    reading: { sentences: { up: { counter: "system.uptime", lines: { per: ["machine"] } } }, unit: "s" },
    compare: "above",
    notice: { high: 0 },
  };
  test("raised at once, told by the live stream, switched off and removed; the history stays", async () => {
    const events: string[] = [];
    const abort = new AbortController();
    const stream = await fetch(`${server.address}/api/live`, {
      headers: { Cookie: owner.cookie },
      signal: abort.signal,
    });
    void (async () => {
      for await (const part of stream.body as unknown as AsyncIterable<Uint8Array>)
        events.push(new TextDecoder().decode(part));
    })().catch(() => {});

    // Every open page hears that a rule was made, switched, removed: it may stand in a list there.
    const told = async (times: number) =>
      await expect.poll(() => events.join("").split("event: alerting").length - 1).toBeGreaterThanOrEqual(times);
    const made = await owner.ask("POST", "/api/rules", rule);
    await told(1);
    expect(made).toMatchObject({
      status: 201,
      body: {
        name: "uptime",
        notice: { high: 0 },
        urgent: null,
        watch: { kind: "value", of: "last", overSeconds: 0 },
        mustLastSeconds: 0,
        noData: "hold",
        on: true,
      },
    });
    await expect.poll(() => events.join(""), { timeout: 8000 }).toContain("event: raised");
    const window = `from=${now() - 60_000}&to=${now() + 60_000}`;
    expect((await owner.ask("GET", `/api/incidents?${window}`)).body).toMatchObject([
      { ruleId: made.body.id, ruleName: "uptime", tags: { machine: "playout" }, unit: "s", clearedAtMs: null },
    ]);
    expect((await owner.ask("GET", "/api/rules")).body).toMatchObject([{ id: made.body.id, mode: "raised" }]);

    expect((await owner.ask("PATCH", `/api/rules/${made.body.id}`, { on: false })).body).toMatchObject({
      on: false,
      mode: null,
    });
    await expect.poll(() => events.join("")).toContain("event: cleared");
    await told(2);
    expect((await owner.ask("DELETE", `/api/rules/${made.body.id}`)).status).toBe(204);
    await told(3);
    expect((await owner.ask("DELETE", `/api/rules/${made.body.id}`)).status).toBe(404);
    expect((await owner.ask("GET", `/api/incidents?${window}`)).body[0]).toMatchObject({
      ruleName: "uptime",
      clearedAtMs: expect.any(Number),
    });
    await expect.poll(() => events.join(""), { timeout: 5000 }).toContain("event: samples");
    abort.abort();
  });
  const now = () => Date.now();
  test.each([
    [{ ...rule, notice: { high: "much" } }, "The upper limit (notice.high) must be a number"],
    [{ ...rule, notice: null }, "has no limit: give notice or urgent one"],
    [{ ...rule, compare: "outside" }, "notice needs low and high, as it is outside"],
    [{ ...rule, compare: "inside", notice: { low: 2, high: 1 } }, "notice: low must be below high"],
    [
      { ...rule, notice: { high: 5, clearHigh: 6 } },
      "notice.clearHigh lies beyond the limit: it clears on the quiet side",
    ],
    [{ ...rule, watch: { kind: "guess" } }, "watches none of: value, change, silence, reach, usual"],
    [{ ...rule, watch: { kind: "reach", target: 1, pastSeconds: 3600 } }, 'compare must be "below"'],
    [{ ...rule, compare: "over" }, '"compare" must be one of above, below, outside, inside'],
    [{ ...rule, mustLastSeconds: -1 }, "How long it must last must be 0 or more"],
    [{ ...rule, reading: { ...rule.reading, figure: "up * down" } }, '"down" at character 6'],
    [{ ...rule, name: " " }, "The name is empty"],
  ])("%j is refused and nothing is kept", async (wish, detail) => {
    const answer = await owner.ask("POST", "/api/rules", wish);
    expect(answer.status).toBe(422);
    expect(answer.body.detail).toContain(detail);
    expect((await owner.ask("GET", "/api/rules")).body).toEqual([]);
  });
});

describe("what it costs", () => {
  test("is told by tier, with what is kept", async () => {
    const { body } = await owner.ask("GET", "/api/costs");
    expect(body).toMatchObject({
      bytesPerSample: 2.5,
      isEstimated: true,
      diskFreeBytes: null,
      refused: {},
      tiers: [
        { tier: "raw", keptDays: 30, fromMs: null },
        { tier: "5m", keptDays: 180 },
        { tier: "1h", keptDays: 1825 },
      ],
    });
    expect(body.samplesPerSecond).toBeGreaterThan(1);
    expect(body.memoryBytes).toBeGreaterThan(20e6);
    expect(body.headSamples).toBeGreaterThan(20);
    expect(body.databaseBytes).toBeGreaterThan(body.journalBytes);
    expect(body.processorShare).toBeGreaterThan(0);
  });
  test.each([
    [{ rawDays: 1, fiveMinuteDays: 180, hourDays: 1825 }, "must be 2 or more"],
    [{ rawDays: 30, fiveMinuteDays: 20, hourDays: 1825 }, "5 min buckets must be kept as long as raw samples at least"],
    [{ rawDays: 30, fiveMinuteDays: 180, hourDays: 100 }, "1 h buckets must be kept as long as 5 min buckets at least"],
    [{ rawDays: 2.5, fiveMinuteDays: 180, hourDays: 1825 }, "must be a whole number"],
    [{ rawDays: 30 }, "is missing"],
  ])("%j is refused: %s", async (wish, detail) => {
    const answer = await owner.ask("PUT", "/api/retention", wish);
    expect(answer.status).toBe(422);
    expect(answer.body.detail).toContain(detail);
    expect((await owner.ask("GET", "/api/retention")).body).toEqual({
      rawDays: 30,
      fiveMinuteDays: 180,
      hourDays: 1825,
    });
  });
  test("days that are set are kept, and told", async () => {
    expect(
      (await owner.ask("PUT", "/api/retention", { rawDays: 10, fiveMinuteDays: 100, hourDays: 1000 })).body,
    ).toEqual({ rawDays: 10, fiveMinuteDays: 100, hourDays: 1000 });
    expect(
      (await owner.ask("GET", "/api/costs")).body.tiers.map(({ keptDays }: { keptDays: number }) => keptDays),
    ).toEqual([10, 100, 1000]);
  });
});

describe("imports", () => {
  test.each([[undefined], ["Bearer wrong"]])(
    "are taken with the start command's token only, not with %s",
    async (authorization) => {
      const response = await fetch(`${server.address}/api/import`, {
        method: "POST",
        body: "# EOF\n",
        headers: { ...(authorization && { Authorization: authorization }) },
      });
      expect(response.status).toBe(401);
      expect(response.headers.get("content-type")).toContain("application/problem+json");
    },
  );
});
