import { spawn } from "node:child_process";
import { connect } from "node:net";
import { join } from "node:path";
import { setTimeout as delay } from "node:timers/promises";
import { seeded } from "./seeded.mjs";
import { say } from "./told.mjs";

const owner = { name: "Ines", password: "kestrel on the quay" };
const slowMs = 5000;

/**
 * The sample world and an installation of one's own, for so many minutes each under hostile requests, bodies,
 * connections and pages. Neither may end, answer 500, or write a line to its log
 * that its page of the log does not tell. Answers the exit code.
 */
export async function soakHostile({ root, folder, minutes, seed }) {
  for (const demo of [true, false]) {
    const failure = await under(root, join(folder, demo ? "world" : "own"), demo, minutes / 2, seeded(seed));
    say(
      `${demo ? "the sample world" : "an installation"}: ${failure ?? "no answer failed, and every line of the log is told on its page"}`,
    );
    if (failure) return 1;
  }
  return 0;
}

// biome-ignore lint/complexity/noExcessiveLinesPerFunction: one way from start to end, told in order
async function under(root, data, demo, minutes, random) {
  const child = spawn(process.execPath, [join(root, "scripts/start.mjs"), ...(demo ? ["--demo"] : [])], {
    cwd: root,
    env: { ...process.env, NUBREL_DATA: data, NUBREL_PORT: "0", NUBREL_DATABASE_URL: "", NUBREL_LOG: "warn" },
  });
  let said = "";
  child.stdout.on("data", (text) => (said += text));
  child.stderr.on("data", (text) => (said += text));
  const gone = new Promise((done) => child.once("exit", done));
  try {
    while (!/Nubrel is at (http\S+)/.test(said)) {
      if (child.exitCode !== null) return `it does not start: ${said}`;
      await delay(200);
    }
    const address = /Nubrel is at (http\S+)/.exec(said)[1];
    const ask = (method, path, body, headers = {}) =>
      fetch(address + path, {
        method,
        headers: { "Content-Type": "application/json", Origin: address, ...headers },
        ...(body !== undefined && { body }),
        signal: AbortSignal.timeout(60_000),
      });
    const code = /Set-up code: (\S+)/.exec(said)?.[1];
    const entered = await (demo
      ? ask("POST", "/api/session", JSON.stringify(owner))
      : ask("POST", "/api/setup", JSON.stringify({ code, ...owner })));
    const cookie = entered.headers
      .getSetCookie()
      .map((one) => one.split(";")[0])
      .join("; ");
    const signed = { Cookie: cookie };
    const source = await (
      await ask(
        "POST",
        "/api/sources",
        JSON.stringify({ kind: "push", name: "hostile", machine: "hostile", intervalMs: 5000 }),
        signed,
      )
    ).json();
    const { token } = await (
      await ask("POST", "/api/tokens", JSON.stringify({ name: "hostile", scope: "write", sourceId: source.id }), signed)
    ).json();
    const bearer = { Authorization: `Bearer ${token}`, "Content-Type": "text/plain" };
    const attacks = attacksOn({ address, ask, signed, bearer, random });
    let asked = 0;
    let slowest = 0;
    for (const until = Date.now() + minutes * 60_000; Date.now() < until; ) {
      const [name, attack] = attacks[Math.floor(random() * attacks.length)];
      const answer = await attack().catch((error) => error);
      asked++;
      if (answer?.status >= 500) return `${name} was answered ${answer.status}: ${await answer.text()}`;
      const began = performance.now();
      const health = await ask("GET", "/api/health");
      slowest = Math.max(slowest, performance.now() - began);
      if (performance.now() - began > slowMs)
        return `health took ${Math.round(performance.now() - began)} ms after ${name}`;
      await health.text();
      if (child.exitCode !== null) return `it ended after ${name}: ${said.slice(-3000)}`;
    }
    const { log } = await (await ask("GET", "/api/condition", undefined, signed)).json();
    const lines = said
      .split("\n")
      .filter((line) => line.startsWith("{"))
      .map((line) => JSON.parse(line));
    const untold = lines.filter(
      ({ msg, err }) => !log.some(({ words, why }) => words.startsWith(msg ?? "") && why === (err?.message ?? "")),
    );
    say(`${asked} attacks; health took ${Math.round(slowest)} ms at the most; ${lines.length} lines in the log`);
    if (/^\s+at /m.test(said)) return `a trace was printed: ${said.slice(-3000)}`;
    return untold.length === 0
      ? undefined
      : `lines of the log that no page tells: ${JSON.stringify(untold.slice(0, 3))}`;
  } finally {
    child.kill("SIGINT");
    await gone;
  }
}

// biome-ignore lint/complexity/noExcessiveLinesPerFunction: one way from start to end, told in order
function attacksOn({ address, ask, signed, bearer, random }) {
  const junk = (bytes) =>
    Array.from({ length: bytes }, () => String.fromCharCode(32 + Math.floor(random() * 95))).join("");
  const { hostname, port } = new URL(address);
  const raw = (text, waitMs) =>
    new Promise((done) => {
      const socket = connect(Number(port), hostname);
      socket.on("error", () => done());
      socket.once("close", () => done());
      socket.write(text);
      socket.resume();
      setTimeout(() => socket.destroy(), waitMs);
    });
  const routes = [
    "/api/rules",
    "/api/readings",
    "/api/readings/several",
    "/api/sources",
    "/api/sources/try",
    "/api/recipients",
    "/api/recipients/try",
    "/api/quiet-times",
    "/api/dashboards",
    "/api/events",
    "/api/tokens",
    "/api/retention",
    "/api/alerting",
  ];
  const bodies = [
    "null",
    "[]",
    "{",
    '{"__proto__":1}',
    '{"a":"\\u0000"}',
    `${"[".repeat(5000)}1${"]".repeat(5000)}`,
    '{"window":{"from":-8e15,"to":8e15},"sentences":{"a":{"counter":"system.cpu.time","lines":{"per":["constructor"]}}}}',
    `{"name":"${"x".repeat(100_000)}"}`,
    JSON.stringify(Object.fromEntries(Array.from({ length: 30_000 }, (_, i) => [`k${i}`, 1]))),
  ];
  const pick = (list) => list[Math.floor(random() * list.length)];
  return [
    ["a wrong body", () => ask("POST", pick(routes), pick(bodies), signed)],
    [
      "a wrong address",
      () =>
        ask(
          "GET",
          `/api/${pick(["machines", "counters", "incidents", "dashboards", "sources", "rules"])}/${pick(["%00", "constructor", "__proto__", "99999999999999", "%ED%A0%80", "x".repeat(9000), "..%2f"])}`,
          undefined,
          signed,
        ),
    ],
    [
      "a wrong window",
      () =>
        ask(
          "GET",
          `/api/${pick(["incidents", "events", "density"])}?from=${pick(["1e400", "-8e15", "x", "%00"])}&to=${pick(["1e400", "8e15", "0"])}`,
          undefined,
          signed,
        ),
    ],
    ["a page of junk", () => ask("POST", "/api/push/openmetrics", junk(2000 + random() * 60_000), bearer)],
    ["a page of long numbers", () => ask("POST", "/api/push/openmetrics", `a ${"9".repeat(60_000)}x\n`, bearer)],
    ["a page of zero bytes", () => ask("POST", "/api/push/openmetrics", 'a{b="x\0y"} 1\n', bearer)],
    [
      "a page of new series",
      () =>
        ask(
          "POST",
          "/api/push/openmetrics",
          Array.from({ length: 20_000 }, (_, i) => `churn{n="${i} ${Math.floor(random() * 1e9)}"} 1\n`).join(""),
          bearer,
        ),
    ],
    [
      "a table with an open quote",
      () => ask("POST", "/api/push/csv", `time,"a\n${"2026-11-23T10:00:00Z,1\n".repeat(5000)}`, bearer),
    ],
    [
      "a table of blanks",
      () => ask("POST", "/api/push/csv", `time,a${" ".repeat(40_000)}b\n2026-11-23T10:00:00Z,1\n`, bearer),
    ],
    [
      "OTLP of nulls",
      () =>
        ask("POST", "/v1/metrics", '{"resourceMetrics":[{"scopeMetrics":null,"resource":null}]}', {
          ...bearer,
          "Content-Type": "application/json",
        }),
    ],
    [
      "OTLP of junk",
      () => ask("POST", "/v1/metrics", junk(5000), { ...bearer, "Content-Type": "application/x-protobuf" }),
    ],
    ["no token", () => ask("POST", "/api/push/openmetrics", "a 1\n", { Authorization: "Bearer nub_wrong" })],
    ["a body before sign-in", () => ask("POST", "/api/rules", pick(bodies))],
    [
      "an upload that is given up",
      () =>
        raw(
          `POST /api/push/openmetrics HTTP/1.1\r\nHost: ${hostname}:${port}\r\nAuthorization: ${bearer.Authorization}\r\nContent-Length: 100000\r\n\r\na 1\n`,
          50 + random() * 200,
        ),
    ],
    ["no HTTP at all", () => raw(junk(500), 200)],
    ["a head that does not end", () => raw("GET / HTTP/1.1\r\nHost: x\r\n", 300)],
    ["another host", () => raw(`GET /api/health HTTP/1.1\r\nHost: evil.example\r\n\r\n`, 100)],
    [
      "a stream that is not read",
      () => raw(`GET /api/live HTTP/1.1\r\nHost: ${hostname}:${port}\r\nCookie: ${signed.Cookie}\r\n\r\n`, 300),
    ],
    [
      "a reading that is given up",
      () => raw(`GET /api/counters HTTP/1.1\r\nHost: ${hostname}:${port}\r\nCookie: ${signed.Cookie}\r\n\r\n`, 5),
    ],
  ];
}
