import { execFile } from "node:child_process";
import { readFileSync } from "node:fs";
import { join } from "node:path";
import { promisify } from "node:util";
import { afterAll, beforeAll, describe, expect, test, vi } from "vitest";
import { problemTitles } from "../../core/api/problem-types.ts";
import { PageReader } from "../../core/formats/exposition/page-reader.ts";
import { projectRoot } from "../project-root.ts";
import { type OwnedServer, ownedServer } from "../testing/owned-server.ts";

// docs/api.md is run as it stands: each block of shell against a server, by a real shell and curl, and what comes back
// is held to the block of JSON below it.
const text = readFileSync(join(projectRoot, "docs/api.md"), "utf8");
const examples = [...text.matchAll(/^([^\n]+)\n\n```sh\n([^`]+)```\n\n```json\n([^`]+)```/gm)].map(
  ([, words, script, answer]) => ({
    words: words as string,
    script: script as string,
    answer: JSON.parse(answer as string),
  }),
);

let here: OwnedServer;
let token: string;
beforeAll(async () => {
  here = await ownedServer({ NUBREL_MACHINE: "playout", NUBREL_GATHER_MS: "1000" });
  token = (await here.owner.ask("POST", "/api/tokens", { name: "a script", scope: "manage" })).body.token;
  // The examples speak of a machine that has told something.
  const told = async () => {
    const window = { from: Date.now() - 900_000, to: Date.now() + 60_000 };
    const document = { window, step: 60, sentences: { a: { counter: "system.memory.usage" } } };
    return (await here.owner.ask("POST", "/api/readings", document)).body.lines.length;
  };
  await vi.waitFor(async () => expect(await told()).toBeGreaterThan(0), { timeout: 20_000, interval: 100 });
});
afterAll(() => here.close());

/** What is shown of an answer, of an answer: the same fields, of the same kinds, in what is shown; texts of types alone word by word. */
function fits(shown: unknown, given: unknown, path = ""): readonly string[] {
  if (Array.isArray(shown)) {
    if (!Array.isArray(given)) return [`${path} is no list`];
    if (shown.length === 0) return [];
    return given.length === 0 ? [`${path} is empty`] : fits(shown[0], given[0], `${path}[0]`);
  }
  if (typeof shown === "object" && shown !== null) {
    if (typeof given !== "object" || given === null) return [`${path} is no object`];
    return Object.entries(shown).flatMap(([name, one]) =>
      name in given
        ? fits(one, (given as Record<string, unknown>)[name], `${path}.${name}`)
        : [`${path}.${name} is not there`],
    );
  }
  if (shown === null || given === null) return [];
  if (/\.(type|title|detail|message|status|unit|kind|text|count|stepMs)$/.test(path))
    return shown === given ? [] : [`${path} is ${JSON.stringify(given)}, not ${JSON.stringify(shown)}`];
  return typeof shown === typeof given ? [] : [`${path} is ${typeof given}, not ${typeof shown}`];
}

test("there are examples, and each has its answer", () => {
  expect(examples.length).toBeGreaterThanOrEqual(6);
  expect(text.match(/```sh/g)).toHaveLength(examples.length);
});

test.each(examples)("$words", async ({ script, answer }) => {
  const { stdout } = await promisify(execFile)("bash", ["-euo", "pipefail", "-c", script], {
    env: { PATH: process.env["PATH"], NUBREL: here.server.address, TOKEN: token },
  });
  expect(fits(answer, JSON.parse(stdout))).toEqual([]);
});

describe("kinds of problems", () => {
  test("the document lists all of them", () => {
    const rows = [...text.matchAll(/^\| `([a-z0-9-]+)` \| (.*) \|$/gm)].map(([, type, title]) => [type, title]);
    expect(Object.fromEntries(rows)).toEqual(problemTitles);
  });
  // RFC 9457, 3.1.1: a type that is dereferenced leads to what it means.
  test("the type of a problem leads to what it is, for anybody", async () => {
    const { body } = await here.owner.ask("GET", "/api/sources/77777");
    const found = await fetch(here.server.address + body.type);
    expect(await found.json()).toEqual({ type: "no-such-source", title: body.title });
    expect((await fetch(`${here.server.address}/api/problems/nonsense`)).status).toBe(404);
    const all = (await (await fetch(`${here.server.address}/api/problems`)).json()) as readonly { type: string }[];
    expect(all.map(({ type }) => type)).toEqual(Object.keys(problemTitles));
  });
});

describe("lists that grow", () => {
  // RFC 8288, 3: a link's target is a reference, resolved against where the list was asked.
  const follow = async (path: string) => {
    const pages: unknown[][] = [];
    for (let next: string | undefined = path; next !== undefined && pages.length < 20; ) {
      const { status, body, headers } = await here.owner.ask("GET", next);
      expect(status).toBe(200);
      pages.push(body);
      next = /^<([^>]+)>; rel="next"$/.exec(headers.get("link") ?? "")?.[1];
    }
    return pages;
  };
  test("events are found part by part, each once, also many of one moment", async () => {
    const fromMs = Date.now() - 3_600_000;
    for (let i = 0; i < 7; i++)
      await here.owner.ask("POST", "/api/events", { text: `e${i}`, fromMs: fromMs + (i > 3 ? 1000 : 0) });
    const path = `/api/events?from=${fromMs}&to=${fromMs + 60_000}`;
    const pages = (await follow(`${path}&most=3`)) as { text: string }[][];
    expect(pages.map((page) => page.map(({ text: one }) => one))).toEqual([
      ["e4", "e5", "e6"],
      ["e1", "e2", "e3"],
      ["e0"],
    ]);
    expect(await follow(path)).toHaveLength(1);
  });
  test("incidents are, open ones first", async () => {
    const raisedMs = Date.now() - 3_600_000; // of today, for upkeep leaves what is old
    await here.db.database.query(
      `insert into incident (rule_name, severity, tags, compare, limit_value, unit, value, furthest, raised_at_ms, cleared_at_ms)
       select 'r' || i, 'notice', '{}', 'above', 1, '1', 2, 2, $1::bigint + i, case when i % 2 = 0 then $1::bigint + 1000 end
       from generate_series(1, 7) as i`,
      [raisedMs],
    );
    const pages = (await follow(`/api/incidents?from=${raisedMs - 1}&to=${raisedMs + 2000}&most=3`)) as {
      ruleName: string;
    }[][];
    expect(pages.map((page) => page.map(({ ruleName }) => ruleName))).toEqual([
      ["r7", "r5", "r3"],
      ["r1", "r6", "r4"],
      ["r2"],
    ]);
  });
  test("what people did is", async () => {
    const pages = (await follow("/api/audit?most=4")) as { id: number }[][];
    const ids = pages.flat().map(({ id }) => id);
    expect(pages.length).toBeGreaterThan(1);
    expect(ids).toEqual([...new Set(ids)].sort((a, b) => b - a));
  });
});

// OpenMetrics 1.0: read by the reader that holds every page to its rules.
describe("/metrics", () => {
  const metrics = (query: string, headers = {}) => fetch(`${here.server.address}/metrics${query}`, { headers });
  const bearer = () => ({ Authorization: `Bearer ${token}` });
  test("tells the newest sample of each series of what is named, Nubrel's own where nothing is", async () => {
    await expect
      .poll(async () => (await metrics("", bearer())).text(), { timeout: 10_000 })
      .toContain("nubrel_cpu_time");
    const answer = await metrics("?counter=system.memory*&counter=system.cpu.time&machine=play*", bearer());
    expect(answer.headers.get("content-type")).toMatch(/^application\/openmetrics-text; version=1\.0\.0/);
    const reader = new PageReader("openmetrics");
    const page = reader.read(new Uint8Array(await answer.arrayBuffer()));
    const names = new Set(reader.series.map(({ counter }) => counter));
    expect(names).toContain("system.memory.usage");
    expect([...names].filter((name) => !/^system\.(memory|cpu\.time)/.test(name))).toEqual([]);
    expect(page.length).toBe(reader.series.length);
    expect(Math.max(...page.timeMs)).toBeGreaterThan(Date.now() - 10_000);
    expect(await (await metrics("?machine=nobody", bearer())).text()).toBe("# EOF\n");
  });
  test("is for those who may read", async () => {
    expect((await metrics("")).status).toBe(401);
    const { body } = await here.owner.ask("POST", "/api/tokens", { name: "k", scope: "calendar" });
    expect((await metrics("", { Authorization: `Bearer ${body.token}` })).status).toBe(403);
  });
});

test("what has not changed is not sent again (RFC 9110, 13.1.2)", async () => {
  const first = await here.owner.ask("GET", "/api/dashboards");
  const etag = first.headers.get("etag") as string;
  expect(etag).toMatch(/^(W\/)?"/);
  // By curl: fetch asks with no-cache whatever names a tag by hand (Fetch standard, 4.5).
  const { stdout } = await promisify(execFile)("curl", [
    ...["-sS", "-o", "/dev/null", "-w", "%{http_code}", "-H", `Authorization: Bearer ${token}`],
    ...["-H", `If-None-Match: ${etag}`, `${here.server.address}/api/dashboards`],
  ]);
  expect(stdout).toBe("304");
});
