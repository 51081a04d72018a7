import type { RunningServer } from "../running-server.ts";
import { createHmac, timingSafeEqual } from "node:crypto";
import { createServer, type IncomingHttpHeaders, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import pino from "pino";
import { SMTPServer, type SMTPServerOptions } from "smtp-server";
import { afterAll, beforeAll, beforeEach, describe, expect, test, vi } from "vitest";
import type { AlertingView } from "../../core/api/alerting.ts";
import type { IncidentDetail } from "../../core/api/incidents.ts";
import type { MessageView, RecipientView } from "../../core/api/messages.ts";
import type { QuietView } from "../../core/api/quiet.ts";
import type { IncidentView } from "../../core/rules/rule.ts";
import { batchOf } from "../../core/series/batch.ts";
import { selfSigned } from "../../standins/protocols/self-signed.ts";
import { readConfig } from "../config.ts";
import { startJobs } from "../jobs/jobs.ts";
import { startServer } from "../compose.ts";
import { HttpClient } from "../testing/http-client.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";

// From a value over a limit to what a real mail server and a real web server receive.
let db: TestDatabase;
let server: RunningServer;
let owner: HttpClient;
let receiver: Server;
let received: { headers: IncomingHttpHeaders; body: string }[];
let answers: number[];
let hookAddress: string;
let tls: Awaited<ReturnType<typeof selfSigned>>;

beforeAll(async () => {
  db = await testDatabase({ migrated: false });
  server = await startServer(
    readConfig({
      NUBREL_DATABASE_URL: db.url,
      NUBREL_PORT: "0",
      NUBREL_MACHINE: "playout",
      NUBREL_GATHER_MS: "3600000",
    }),
    { log: pino({ level: "silent" }) },
  );
  owner = new HttpClient(server.address);
  await owner.ask("POST", "/api/setup", { code: server.setupCode, name: "Ines", password: "kestrel on the quay" });
  tls = await selfSigned("localhost");
  receiver = createServer((request, response) => {
    let body = "";
    request.on("data", (part) => (body += part));
    request.on("end", () => {
      received.push({ headers: request.headers, body });
      response.statusCode = answers.shift() ?? 200;
      response.end("thank you");
    });
  });
  await new Promise<void>((done) => receiver.listen(0, "127.0.0.1", done));
  hookAddress = `http://127.0.0.1:${(receiver.address() as AddressInfo).port}/hook`;
});
afterAll(async () => {
  await server?.close();
  receiver?.close();
  await db?.drop();
});
beforeEach(async () => {
  received = [];
  answers = [];
  for (const { id } of (await owner.ask("GET", "/api/recipients")).body as RecipientView[])
    await owner.ask("DELETE", `/api/recipients/${id}`);
  for (const { id } of (await owner.ask("GET", "/api/rules")).body) await owner.ask("DELETE", `/api/rules/${id}`);
  for (const { id } of (await owner.ask("GET", "/api/quiet-times")).body as QuietView[])
    await owner.ask("DELETE", `/api/quiet-times/${id}`);
});

let count = 0;
/** A rule that is raised at once: its counter has a value over its limit. Returns its counter. */
async function raise(
  more: object = {},
  tags: Readonly<Record<string, string>> = { machine: "vault" },
): Promise<string> {
  const counter = `swell.${++count}`;
  const [id] = await server.store.series.resolve([{ counter, tags, unit: "%", kind: "level" }]);
  await server.store.write(batchOf([[id as number, Math.floor(Date.now() / 5000) * 5000, 91.5]]));
  expect(
    (
      await owner.ask("POST", "/api/rules", {
        name: counter,
        reading: { sentences: { a: { counter } }, unit: "%" },
        compare: "above",
        notice: { high: 75 },
        ...more,
      })
    ).status,
  ).toBe(201);
  return counter;
}
async function lower(counter: string): Promise<void> {
  const [id] = await server.store.series.resolve([{ counter, tags: { machine: "vault" }, unit: "%", kind: "level" }]);
  await server.store.write(batchOf([[id as number, (Math.floor(Date.now() / 5000) + 1) * 5000, 10]]));
}
const hook = (more: object = {}) => ({
  name: "the desk",
  kind: "webhook",
  webhook: { url: hookAddress, headers: [{ name: "x-desk", value: "studio" }] },
  ...more,
});
const addRecipient = async (settings: object) => {
  const answer = await owner.ask("POST", "/api/recipients", settings);
  expect(answer.status, JSON.stringify(answer.body)).toBe(201);
  return answer.body as RecipientView;
};
const openIncident = async (name: string): Promise<IncidentView> => {
  const all = () => owner.ask("GET", `/api/incidents?from=${Date.now() - 1}&to=${Date.now() + 1}`);
  await expect
    .poll(async () => (await all()).body.map((one: IncidentView) => one.ruleName), { timeout: 8000 })
    .toContain(name);
  return (await all()).body.find((one: IncidentView) => one.ruleName === name);
};
const messages = async () => (await owner.ask("GET", "/api/messages")).body as MessageView[];
const kinds = () => received.map(({ body }) => JSON.parse(body).kind);

describe("a webhook", () => {
  test("is told what, where, value, limit, since when and links to the hours of it; signed; again on recovery", async () => {
    await addRecipient(hook({ secret: "between us" }));
    const counter = await raise(
      { advice: "Order drives.", marginSeconds: 600, place: { dashboard: 3, tile: "tile-1" } },
      { machine: "vault", pool: "archive" },
    );
    await expect.poll(() => received.length, { timeout: 5000 }).toBe(1);
    const [{ headers, body } = { headers: {} as IncomingHttpHeaders, body: "{}" }] = received;
    const told = JSON.parse(body);
    const incident = await openIncident(counter);
    expect(told).toMatchObject({
      format: "nubrel message",
      version: 1,
      kind: "raised",
      id: headers["nubrel-message"],
      incidents: [
        {
          id: incident.id,
          rule: { name: counter },
          severity: "notice",
          tags: { machine: "vault", pool: "archive" },
          value: 91.5,
          limit: 75,
          unit: "%",
          advice: "Order drives.",
          clearedAt: null,
        },
      ],
    });
    expect(headers["x-desk"]).toBe("studio");
    const expected = createHmac("sha256", "between us").update(`${headers["nubrel-timestamp"]}.${body}`).digest("hex");
    expect(timingSafeEqual(Buffer.from(String(headers["nubrel-signature"])), Buffer.from(`v1=${expected}`))).toBe(true);
    const { links } = told.incidents[0];
    const window = new URL(links.tile).searchParams;
    expect(new URL(links.tile).pathname).toBe("/dashboards/3/tiles/tile-1");
    expect(links.incident.startsWith(`${server.address}/alerts/incidents/${incident.id}?`)).toBe(true);
    expect(Date.parse(window.get("from") ?? "")).toBe(incident.raisedAtMs - 600_000);
  });
  test("comes in under two seconds after the value was stored, and again when it is over", async () => {
    await addRecipient(hook());
    const began = performance.now();
    const counter = await raise();
    await expect.poll(kinds, { timeout: 5000, interval: 20 }).toEqual(["raised"]);
    expect(performance.now() - began).toBeLessThan(2000);
    await lower(counter);
    await expect.poll(kinds, { timeout: 20_000 }).toEqual(["raised", "cleared"]);
  });
  test("that answers badly is tried again with growing pauses; every attempt is written down as answered; that it is not reached is told", async () => {
    answers = [500, 503];
    const { id } = await addRecipient(hook({ name: "flaky" }));
    await raise();
    await expect.poll(() => received.length, { timeout: 20_000 }).toBe(2);
    await expect
      .poll(
        async () =>
          (
            await db.database.query(
              "select attempts, extract(epoch from run_at - now())::float8 as seconds from graphile_worker.jobs where task_identifier = 'deliver'",
            )
          ).rows[0]?.attempts,
        { timeout: 5000 },
      )
      .toBe(2);
    const { rows } = await db.database.query<{ seconds: number }>(
      "select extract(epoch from run_at - now())::float8 as seconds from graphile_worker.jobs where task_identifier = 'deliver'",
    );
    // graphile-worker: a pause of exp(attempts) seconds.
    expect(rows[0]?.seconds).toBeGreaterThan(4);
    expect(((await owner.ask("GET", "/api/alerting")).body as AlertingView).failingRecipients).toMatchObject([
      { id, name: "flaky", failure: "HTTP 503\nthank you" },
    ]);
    // An hour later the other side is well again.
    await db.database.query("update graphile_worker._private_jobs set run_at = now()");
    await db.database.query("select graphile_worker.add_job('deliver', '{}'::json)"); // wakes the runner
    await expect.poll(async () => (await messages())[0]?.state, { timeout: 15_000 }).toBe("sent");
    expect((await messages())[0]?.attempts.map(({ worked, answer }) => [worked, answer.split("\n")[0]])).toEqual([
      [false, "HTTP 500"],
      [false, "HTTP 503"],
      [true, "HTTP 200"],
    ]);
    // receivers drop repeats by it
    expect(new Set(received.map(({ headers }) => headers["nubrel-message"])).size).toBe(1);
    expect(((await owner.ask("GET", "/api/alerting")).body as AlertingView).failingRecipients).toEqual([]);
  });
  test("of one incident the order is kept: what waits is replaced by the newest state, never told after it", async () => {
    answers = Array.from({ length: 60 }, () => 503);
    const { id } = await addRecipient(hook());
    const counter = await raise();
    const own = async () => (await messages()).filter(({ recipientId }) => recipientId === id);
    await expect.poll(async () => (await own())[0]?.attempts.length ?? 0, { timeout: 10_000 }).toBeGreaterThan(0);
    await lower(counter);
    await expect.poll(async () => (await own()).length, { timeout: 15_000 }).toBe(2);
    answers = [];
    await db.database.query("update graphile_worker._private_jobs set run_at = now()");
    await db.database.query("select graphile_worker.add_job('deliver', '{}'::json)"); // wakes the runner
    await expect
      .poll(async () => (await own()).map(({ kind, state }) => `${kind} ${state}`), { timeout: 15_000 })
      .toEqual(["cleared sent", "raised replaced"]);
    const taken = received.slice(-1).map(({ body }) => JSON.parse(body));
    expect(taken.map(({ kind }) => kind)).toEqual(["cleared"]);
    expect(taken[0].text).toMatch(/cleared at .* with 10 %\nraised/);
    expect(taken[0].incidents[0]).toMatchObject({ clearedValue: 10, ended: null });
  }, 60_000);
  test("that nobody listens for is told why; one that redirects is not followed", async () => {
    const nowhere = await owner.ask("POST", "/api/recipients/try", hook({ webhook: { url: "http://127.0.0.1:9/" } }));
    expect(nowhere.body).toMatchObject({
      worked: false,
      answer: expect.stringMatching(/Nothing listens at 127\.0\.0\.1:9/),
    });
    answers = [302];
    expect((await owner.ask("POST", "/api/recipients/try", hook())).body).toMatchObject({
      worked: false,
      answer: "HTTP 302\nthank you",
    });
  });
});

describe("mail", () => {
  interface Got {
    readonly to: readonly string[];
    readonly raw: string;
    readonly secure: boolean;
  }
  async function withMailServer<T>(
    options: SMTPServerOptions,
    work: (port: number, got: Got[]) => Promise<T>,
    atPort = 0,
  ): Promise<T> {
    const got: Got[] = [];
    const mail = new SMTPServer({
      authOptional: true,
      key: tls.key,
      cert: tls.cert,
      logger: false,
      onData: (stream, session, done) => {
        let raw = "";
        stream.on("data", (part) => (raw += part));
        stream.on("end", () => {
          got.push({ to: session.envelope.rcptTo.map(({ address }) => address), raw, secure: session.secure });
          done(null, "250 kept as K-7" as never);
        });
      },
      ...options,
    });
    mail.on("error", () => {});
    await new Promise<void>((resolve) => mail.listen(atPort, "127.0.0.1", resolve));
    try {
      return await work((mail.server.address() as AddressInfo).port, got);
    } finally {
      await new Promise<void>((resolve) => mail.close(resolve));
    }
  }
  const mail = (port: number, more: object = {}, settings: object = {}) => ({
    name: "Ines",
    kind: "email",
    mail: {
      to: ["ines@kestrel.example"],
      from: "Nubrel <nubrel@kestrel.example>",
      host: "localhost",
      port,
      security: "starttls",
      issuer: tls.cert,
      ...more,
    },
    ...settings,
  });
  const attempt = async (settings: object) =>
    (await owner.ask("POST", "/api/recipients/try", settings)).body as { worked: boolean; answer: string };

  test("by STARTTLS with user and password: text, HTML and the chart as a picture; who may not sign in is told so", async () => {
    await withMailServer(
      {
        authOptional: false,
        onAuth: ({ username, password }, _session, done) =>
          username === "nubrel" && password === "quay"
            ? done(null, { user: "nubrel" })
            : done(new Error("Who are you?")),
      },
      async (port, got) => {
        expect(await attempt(mail(port, { user: "nubrel" }, { secret: "wrong" }))).toMatchObject({
          worked: false,
          answer: expect.stringContaining("Who are you?"),
        });
        await addRecipient(mail(port, { user: "nubrel" }, { secret: "quay" }));
        const counter = await raise();
        await expect.poll(() => got.length, { timeout: 10_000 }).toBe(1);
        const [{ raw, secure, to } = { raw: "", secure: false, to: [] }] = got;
        expect([secure, to]).toEqual([true, ["ines@kestrel.example"]]);
        expect(raw).toContain(`Subject: notice raised: ${counter}, vault`);
        expect(raw).toMatch(/Content-Type: text\/plain/);
        expect(raw).toMatch(/Content-Type: text\/html/);
        expect(raw).toMatch(/Auto-Submitted: auto-generated/);
        const png =
          /Content-Type: image\/png[\s\S]*?\r\n\r\n([A-Za-z0-9+/=\r\n]+)/.exec(raw)?.[1]?.replaceAll(/\s/g, "") ?? "";
        // PNG, ISO/IEC 15948 section 5.2
        expect(Buffer.from(png, "base64").subarray(0, 8).toString("hex")).toBe("89504e470d0a1a0a");
        expect((await messages())[0]).toMatchObject({
          state: "sent",
          attempts: [{ worked: true, answer: expect.stringContaining("250") }],
        });
      },
    );
  });
  test("by TLS from the first byte; an issuer that nobody knows is refused", async () => {
    await withMailServer({ secure: true }, async (port, got) => {
      expect(await attempt(mail(port, { security: "tls" }))).toMatchObject({ worked: true });
      expect(got[0]?.secure).toBe(true);
      // A certificate that is not trusted is told as such, not as a wrong port.
      const refused = await attempt(mail(port, { security: "tls", issuer: "" }));
      expect(refused).toMatchObject({
        worked: false,
        answer: expect.stringContaining(
          "The certificate is signed by itself: nobody vouches for it. Have the mail server show a certificate that is trusted here",
        ),
      });
      expect(refused.answer).not.toContain("Look at host and port");
      expect(got).toHaveLength(1);
    });
  });
  test("a server without STARTTLS gets nothing, unless clear text was said out loud", async () => {
    await withMailServer({ disabledCommands: ["STARTTLS", "AUTH"] }, async (port, got) => {
      const refused = await attempt(mail(port));
      expect(refused.worked).toBe(false);
      expect(got).toEqual([]);
      expect(await attempt(mail(port, { security: "none" }))).toMatchObject({ worked: true });
      expect(got[0]?.secure).toBe(false);
    });
  });
  test("an address that is refused is told with the server's own words", async () => {
    await withMailServer(
      {
        onRcptTo: (_address, _session, done) =>
          done(Object.assign(new Error("no such box here"), { responseCode: 550 })),
      },
      async (port) =>
        expect(await attempt(mail(port))).toMatchObject({
          worked: false,
          answer: expect.stringContaining("550 no such box here"),
        }),
    );
  });
  test("what a server refuses for good (5yz, RFC 5321 §4.2.1) is not tried again; what it cannot take now is", async () => {
    for (const [responseCode, state] of [
      [550, "given up"],
      [451, "waiting"],
    ] as const) {
      await withMailServer(
        {
          onRcptTo: (_address, _session, done) => done(Object.assign(new Error("no such box here"), { responseCode })),
        },
        async (port) => {
          const { id } = await addRecipient(mail(port));
          await raise();
          await expect
            .poll(async () => (await messages()).find(({ recipientId }) => recipientId === id), { timeout: 10_000 })
            .toMatchObject({
              state,
              attempts: [{ worked: false, answer: expect.stringContaining(`${responseCode} no such box here`) }],
            });
          await expect
            .poll(
              async () =>
                (
                  await db.database.query(
                    "select from graphile_worker.jobs where task_identifier = 'deliver' and queue_name = $1",
                    [`recipient ${id}`],
                  )
                ).rowCount,
              { timeout: 5000 },
            )
            .toBe(state === "waiting" ? 1 : 0);
          await owner.ask("DELETE", `/api/recipients/${id}`);
          await db.database.query(
            "select graphile_worker.complete_jobs(array_agg(id)) from graphile_worker.jobs where queue_name = $1 having count(*) > 0",
            [`recipient ${id}`],
          );
        },
      );
    }
  });
  test("of several addresses one is refused: the others have it once, and that somebody is not reached is told", async () => {
    await withMailServer(
      {
        onRcptTo: ({ address }, _session, done) =>
          done(address.startsWith("gone") ? Object.assign(new Error("no such box here"), { responseCode: 550 }) : null),
      },
      async (port, got) => {
        await addRecipient(mail(port, { to: ["ines@kestrel.example", "gone@kestrel.example"] }));
        await raise();
        await expect
          .poll(async () => (await messages())[0], { timeout: 10_000 })
          .toMatchObject({
            state: "sent",
            attempts: [{ answer: expect.stringContaining("refused: gone@kestrel.example") }],
          });
        expect(got.map(({ to }) => to)).toEqual([["ines@kestrel.example"]]);
        expect(((await owner.ask("GET", "/api/alerting")).body as AlertingView).failingRecipients).toMatchObject([
          { name: "Ines", failure: expect.stringContaining("gone@") },
        ]);
      },
    );
  });
  test("a slow server is waited for; one that never says a word is given up on after a while", async () => {
    await withMailServer({ onMailFrom: (_address, _session, done) => void setTimeout(done, 2000) }, async (port) =>
      expect(await attempt(mail(port))).toMatchObject({ worked: true }),
    );
    const silent = createServer(() => {});
    await new Promise<void>((resolve) => silent.listen(0, "127.0.0.1", resolve));
    expect(await attempt(mail((silent.address() as AddressInfo).port))).toMatchObject({
      worked: false,
      answer: expect.stringMatching(/(Greeting never received|Timeout).*Look at host and port/),
    });
    silent.close();
  }, 40_000);
  test("a server that is down for an hour has the message wait: tried again and again, then it comes, once", async () => {
    const port = await withMailServer({}, (free) => Promise.resolve(free));
    await addRecipient(mail(port));
    await raise();
    const tries = async () => (await messages())[0]?.attempts.length ?? 0;
    const again = async () => {
      await db.database.query("update graphile_worker._private_jobs set run_at = now()");
      await db.database.query("select graphile_worker.add_job('deliver', '{}'::json)"); // wakes the runner
    };
    // One that is being tried has its next time yet to be written.
    const waits = async () =>
      (
        await db.database.query<{ seconds: number; attempts: number }>(
          "select attempts, extract(epoch from run_at - now())::float8 as seconds from graphile_worker.jobs where task_identifier = 'deliver' and max_attempts = 30 and locked_at is null",
        )
      ).rows[0];
    let seconds = 0;
    for (let n = 1; seconds < 3600; n++) {
      await expect.poll(async () => [await tries(), (await waits())?.attempts], { timeout: 25_000 }).toEqual([n, n]);
      seconds += (await waits())?.seconds ?? 0;
      if (seconds < 3600) await again();
    }
    expect((await messages())[0]).toMatchObject({
      state: "waiting",
      attempts: expect.arrayContaining([
        { worked: false, answer: expect.stringContaining("Look at host and port"), atMs: expect.any(Number) },
      ]),
    });
    // exp(1) + … + exp(8) seconds are more than an hour, exp(1) + … + exp(7) are not; on a busy machine one may have
    // been woken twice.
    expect([8, 9]).toContain(await tries());
    const got: Got[] = [];
    await withMailServer(
      {},
      async (_port, those) => {
        await again();
        await expect.poll(() => those.length, { timeout: 10_000 }).toBe(1);
        await expect.poll(async () => (await messages())[0]?.state, { timeout: 5000 }).toBe("sent");
        got.push(...those);
      },
      port,
    );
    expect(got).toHaveLength(1);
  }, 40_000);
});

describe("what becomes of an incident", () => {
  test("acknowledged, snoozed, noted, closed: each by whom, in its page; acknowledged ones are not told again", async () => {
    await addRecipient(hook());
    const { id } = await openIncident(await raise());
    await expect.poll(() => received.length, { timeout: 5000 }).toBe(1);
    expect((await owner.ask("POST", `/api/incidents/${id}/acknowledge`, {})).body).toMatchObject({
      acknowledgedBy: "Ines",
    });
    expect((await owner.ask("POST", `/api/incidents/${id}/snooze`, { untilMs: Date.now() + 3_600_000 })).status).toBe(
      200,
    );
    expect(
      (await owner.ask("POST", `/api/incidents/${id}/snooze`, { untilMs: Date.now() + 40 * 86_400_000 })).status,
    ).toBe(422);
    expect((await owner.ask("POST", `/api/incidents/${id}/notes`, { text: "Bo looks at it" })).status).toBe(201);
    expect((await owner.ask("POST", `/api/incidents/${id}/close`)).body).toMatchObject({
      closedBy: "Ines",
      clearedAtMs: expect.any(Number),
    });
    const detail = (await owner.ask("GET", `/api/incidents/${id}`)).body as IncidentDetail;
    expect(detail.entries.map(({ kind, by }) => `${kind} ${by}`.trim())).toEqual([
      "raised",
      "told",
      "acknowledged Ines",
      "snoozed Ines",
      "note Ines",
      "closed Ines",
    ]);
    expect(detail.messages).toHaveLength(1);
    expect((await owner.ask("POST", `/api/incidents/${id}/acknowledge`, {})).status).toBe(409);
    expect((await owner.ask("GET", "/api/incidents/999999")).status).toBe(404);
  });
  test("in a quiet time nobody is told, and it says so; when it ends, what is still raised is told", async () => {
    await addRecipient(hook());
    const heard = vi.spyOn(server.live, "publish");
    const { id: quietId } = (
      await owner.ask("POST", "/api/quiet-times", {
        title: "new drives",
        why: "vault is open",
        scope: { machines: ["vault"] },
        fromMs: Date.now() - 1000,
        toMs: Date.now() + 3_600_000,
      })
    ).body;
    const counter = await raise();
    await expect.poll(async () => (await openIncident(counter)).quietId, { timeout: 5000 }).toBe(quietId);
    // the end of an earlier test's incident may still be on its way
    expect(received.filter(({ body }) => body.includes(counter))).toEqual([]);
    expect(heard.mock.calls.map(([event]) => event).filter(({ kind }) => kind === "raised")).toMatchObject([
      { isQuiet: true },
    ]); // open pages hear of it, and are told to say nothing
    heard.mockRestore();
    expect(((await owner.ask("GET", "/api/quiet-times")).body as QuietView[])[0]).toMatchObject({
      title: "new drives",
      by: "Ines",
      hides: 1,
      now: { toMs: expect.any(Number) },
    });
    expect((await owner.ask("DELETE", `/api/quiet-times/${quietId}`)).status).toBe(204);
    await expect
      .poll(() => received.filter(({ body }) => body.includes(counter)).map(({ body }) => JSON.parse(body).kind), {
        timeout: 10_000,
      })
      .toEqual(["raised"]);
  });
  test("while all sources of a machine are paused nobody is told of it; what is still raised afterwards is told", async () => {
    const source = (name: string) =>
      owner.ask("POST", "/api/sources", {
        kind: "push",
        name,
        machine: "vault",
        intervalMs: 5000,
        tellsSilence: false,
      });
    const [first, second] = [(await source("pools")).body.id, (await source("drives")).body.id];
    for (const id of [first, second])
      await owner.ask("PUT", `/api/sources/${id}/pause`, { untilMs: Date.now() + 3_600_000, why: "new drives" });
    await addRecipient(hook());
    const counter = await raise();
    await openIncident(counter);
    const kindsOf = (name: string) =>
      received.filter(({ body }) => body.includes(name)).map(({ body }) => JSON.parse(body).kind);
    // What is raised after it on a machine that is not paused is told: then this one was looked at as well.
    const other = await raise({}, { machine: "hive" });
    await expect.poll(() => kindsOf(other), { timeout: 10_000 }).toEqual(["raised"]);
    expect(kindsOf(counter)).toEqual([]);
    await owner.ask("DELETE", `/api/sources/${first}/pause`);
    await expect.poll(() => kindsOf(counter), { timeout: 10_000 }).toEqual(["raised"]);
    for (const id of [first, second]) await owner.ask("DELETE", `/api/sources/${id}`);
  });
  test("the switch for everything is told on every page, and ends by itself", async () => {
    await owner.ask("POST", "/api/quiet-times", {
      title: "Everything is quiet",
      fromMs: Date.now() - 1000,
      toMs: Date.now() + 2000,
    });
    expect(((await owner.ask("GET", "/api/alerting")).body as AlertingView).allQuiet).toMatchObject({
      title: "Everything is quiet",
      by: "Ines",
    });
    await expect
      .poll(async () => ((await owner.ask("GET", "/api/alerting")).body as AlertingView).allQuiet, { timeout: 5000 })
      .toBeNull();
    expect(
      (await owner.ask("POST", "/api/quiet-times", { title: "for ever", fromMs: 0, toMs: 40 * 86_400_000 })).body
        .detail,
    ).toContain("ends by itself");
  });
  test("the calendar feed needs a token made for calendars, and has every time by itself (RFC 5545)", async () => {
    await owner.ask("POST", "/api/quiet-times", {
      title: "copy of the archive",
      fromMs: Date.now(),
      toMs: Date.now() + 3_600_000,
      repeat: { weekdays: [1, 2, 3, 4, 5, 6, 7], zone: "Europe/Berlin" },
    });
    const plain = new HttpClient(server.address);
    expect((await plain.ask("GET", "/api/quiet-times.ics")).status).toBe(401);
    const reads = (await owner.ask("POST", "/api/tokens", { name: "reads", scope: "read" })).body.token;
    expect((await plain.ask("GET", `/api/quiet-times.ics?token=${reads}`)).status).toBe(401);
    const { token } = (await owner.ask("POST", "/api/tokens", { name: "calendar", scope: "calendar" })).body;
    expect((await plain.ask("GET", "/api/machines", undefined, { Authorization: `Bearer ${token}` })).status).toBe(403);
    const { body, headers } = await plain.ask("GET", `/api/quiet-times.ics?token=${token}`);
    expect(headers.get("content-type")).toContain("text/calendar");
    expect(body.startsWith("BEGIN:VCALENDAR\r\nVERSION:2.0\r\n")).toBe(true);
    expect(body.match(/BEGIN:VEVENT/g)?.length).toBeGreaterThan(150);
    expect(body).toContain("SUMMARY:copy of the archive");
  });
});

test("secrets never leave: not in the list, not in the database in clear text", async () => {
  const { id } = await addRecipient(hook({ secret: "kestrel-secret" }));
  expect(JSON.stringify((await owner.ask("GET", "/api/recipients")).body)).not.toContain("kestrel-secret");
  const { rows } = await db.database.query("select settings, secret from recipient where id = $1::int", [id]);
  expect(JSON.stringify(rows) + rows[0].secret.toString("latin1")).not.toContain("kestrel-secret");
  const {
    hasSecret,
    failingSinceMs: _,
    failure: __,
    id: ___,
    ...settings
  } = (await owner.ask("GET", "/api/recipients")).body[0];
  expect(hasSecret).toBe(true);
  expect((await owner.ask("PUT", `/api/recipients/${id}`, { ...settings, name: "desk" })).body).toMatchObject({
    name: "desk",
    hasSecret: true,
  }); // left out, it is kept
});

test.each([
  [{ ...hook(), webhook: { url: "ftp://x/" } }, "webhook.url"],
  [
    { ...hook(), webhook: { url: "http://x/", headers: [{ name: "nubrel-signature", value: "x" }] } },
    "is a header that Nubrel sets itself",
  ],
  [{ ...hook(), webhook: { url: "http://x/", headers: [{ name: "a", value: "x\r\ny: z" }] } }, "one line"],
  [{ name: "x", kind: "email", mail: { to: ["nobody"], from: "a@b", host: "h", port: 25 } }, "an address such as"],
  [{ ...hook(), when: { zone: "Mars/Olympus" } }, "is no time zone's name"],
])("%j is refused with what is wrong", async (settings, detail) =>
  expect(await owner.ask("POST", "/api/recipients", settings)).toMatchObject({
    status: 422,
    body: { detail: expect.stringContaining(detail) },
  }),
);

test("a heart beats outside every minute, and what answers is told", async () => {
  expect(
    (await owner.ask("PUT", "/api/alerting", { heartbeatUrl: hookAddress, address: "https://nubrel.kestrel.example/" }))
      .status,
  ).toBe(200);
  await expect
    .poll(async () => ((await owner.ask("GET", "/api/alerting")).body as AlertingView).heartbeat, { timeout: 5000 })
    .toMatchObject({ url: hookAddress, lastAtMs: expect.any(Number), failure: null });
  expect(((await owner.ask("GET", "/api/alerting")).body as AlertingView).address).toBe(
    "https://nubrel.kestrel.example",
  );
  await owner.ask("PUT", "/api/alerting", { heartbeatUrl: "", address: "" });
});

test("a job that a killed server had begun is done by the next, at its start", async () => {
  const one = await testDatabase();
  const done: unknown[] = [];
  const tasks = { maintain: async () => {}, deliver: async (payload: unknown) => void done.push(payload) };
  const first = await startJobs(one.database, tasks, pino({ level: "silent" }));
  await first.close();
  await one.database.query("select graphile_worker.add_job('deliver', '{\"message\": \"x\"}'::json)");
  await one.database.query(
    "update graphile_worker._private_jobs set locked_by = 'worker-that-was-killed', locked_at = now() where id = (select max(id) from graphile_worker._private_jobs)",
  );
  const second = await startJobs(one.database, tasks, pino({ level: "silent" }));
  await expect.poll(() => done, { timeout: 5000 }).toEqual([{ message: "x" }]);
  await second.close();
  await one.drop();
});
