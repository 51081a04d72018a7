import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { everyRoute } from "../../core/api/every-route.ts";
import { accessTo } from "../../core/api/who-may.ts";
import { type Dashboard, emptyDashboard } from "../../core/dashboards/dashboard.ts";
import { batchOf } from "../../core/series/batch.ts";
import { HttpClient } from "../testing/http-client.ts";
import { level } from "../testing/new-series.ts";
import { type OwnedServer, ownedServer } from "../testing/owned-server.ts";

const now = Date.now();
const minute = 60_000;
const hidden = "strongroom";
let owned: OwnedServer;
let owner: HttpClient;
let dashboard: number;
let document: Dashboard;

const place = { x: 0, y: 0, width: 4, height: 4 };
const light = { counter: "quay.light", where: [{ tag: "machine", not: [hidden] }] };
const inTwoDays = () => new Date(Date.now() + 2 * 86_400_000).toISOString();
const reading = (sentence: object, window = { from: Date.now() - 30 * minute, to: Date.now() }) => ({
  ...{ window, step: 60, sentences: { it: sentence } },
});

async function make(more: object = {}) {
  const { body, status } = await owner.ask("POST", "/api/links", {
    ...{ dashboard, until: inTwoDays(), window: { last: 3600 } },
    ...more,
  });
  const secret = String(body.url).split("/s/")[1] as string;
  const opened = new HttpClient(owned.server.address);
  const ask = (method: string, path: string, wish?: unknown, headers: Record<string, string> = {}) =>
    opened.ask(method, path, wish, { "Nubrel-Link": secret, Origin: "", ...headers });
  return { status, body, secret, ask };
}

beforeAll(async () => {
  owned = await ownedServer();
  ({ owner } = owned);
  const { store } = owned.server;
  const machines = ["lamp", "mast", hidden];
  const ids = await store.series.resolve([
    ...machines.map((machine) => level("quay.light", { machine })),
    level("quay.secret", { machine: "lamp" }),
  ]);
  await store.write(batchOf(Array.from(ids).map((id, i) => [id, now - 5 * minute, i + 1])));
  document = {
    ...emptyDashboard("Quay"),
    pickers: [{ id: "machine", tag: "machine", choose: "several" }],
    tiles: [
      { id: "light", title: "Light", kind: "lines", place, reading: { sentences: { it: light } } },
      { id: "note", title: "", kind: "note", place, text: "by the lamp" },
    ],
  };
  dashboard = (await owner.ask("POST", "/api/dashboards", { document })).body.id;
});
afterAll(() => owned.close());

describe("a link", () => {
  test("shows its dashboard to whoever has it, counted, and its secret is kept nowhere", async () => {
    const { body, status, secret, ask } = await make({ name: "for the neighbours" });
    expect(status).toBe(201);
    expect(body).toMatchObject({
      name: "for the neighbours",
      dashboard,
      version: 1,
      tile: null,
      by: "Ines",
      opened: 0,
    });
    expect(secret).toMatch(/^[\w-]{43}$/);
    const shared = await ask("GET", "/api/shared");
    expect(shared.body).toMatchObject({ name: "for the neighbours", document, window: { last: 3600 } });
    // Colours of the machines that its tiles show, as everywhere, and of no other.
    const { body: machines } = await owner.ask("GET", "/api/machines");
    const colourOf = (name: string) => machines.find((one: { name: string }) => one.name === name).colour;
    expect(shared.body.colours).toEqual({ lamp: colourOf("lamp"), mast: colourOf("mast") });
    await ask("GET", "/api/shared");
    await ask("GET", "/api/shared?again=true");
    const [listed] = (await owner.ask("GET", "/api/links")).body;
    expect([listed.opened, Math.abs(listed.lastOpenedAtMs - Date.now()) < minute]).toEqual([2, true]);
    const { rows } = await owned.db.database.query(
      "select link::text as text from link union all select audit::text from audit",
    );
    expect(JSON.stringify(rows)).not.toContain(secret);
  });

  test("reads what stands on it, within its pickers; nothing else, whoever asks beside it", async () => {
    const { ask } = await make();
    const answer = await ask("POST", "/api/readings", reading(light));
    expect(answer.body.lines.map(({ tags }: { tags: { machine: string } }) => tags.machine)).toEqual(["lamp", "mast"]);
    const picked = { ...light, where: [...light.where, { tag: "machine", is: ["mast"] }] };
    expect((await ask("POST", "/api/readings", reading(picked))).body.lines).toHaveLength(1);
    const wrong = [{ counter: "quay.light" }, { counter: "quay.secret" }, { ...light, lines: "together" }];
    for (const one of wrong) expect((await ask("POST", "/api/readings", reading(one))).status).toBe(403);
    const several = await ask("POST", "/api/readings/several", {
      readings: [reading(light), ...wrong.map((one) => reading(one))],
    });
    const lines = String(several.body)
      .trim()
      .split("\n")
      .map((line) => JSON.parse(line));
    expect(lines.map(({ index, problem }) => [index, problem?.status ?? 200]).sort()).toEqual([
      [0, 200],
      [1, 403],
      [2, 403],
      [3, 403],
    ]);
    // An owner's cookie beside it changes nothing.
    expect(
      (await ask("POST", "/api/readings", reading({ counter: "quay.secret" }), { Cookie: owner.cookie })).status,
    ).toBe(403);
  });

  test("names no machine and no counter that its tiles leave out", async () => {
    const { ask } = await make();
    const counters = await ask("GET", "/api/counters");
    expect(counters.body).toMatchObject([
      { name: "quay.light", series: 0, machines: [], tags: [{ tag: "machine", values: [] }] },
    ]);
    const tags = await ask("GET", "/api/tags?tag=machine&tag=host&counter=quay.light&counter=quay.secret");
    expect(tags.body.combinations).toEqual([{ machine: "lamp" }, { machine: "mast" }]);
  });

  test("is refused by every other route", async () => {
    const { ask } = await make();
    for (const { method, path, ...route } of everyRoute.values()) {
      const access = accessTo({ method, path, ...route });
      if (["anybody", "show", "by link"].includes(access)) continue;
      const body = method === "GET" || method === "DELETE" ? undefined : {};
      const { status } = await ask(method, `/api${path.replace(/:\w+/g, String(dashboard))}`, body);
      expect(status, `${method} ${path}`).toBe(403);
    }
  });

  test("shows its time and no other: as it passes, or as it was", async () => {
    const last = await make({ window: { last: 3600 } });
    const at = (from: number, to: number) => reading(light, { from, to });
    expect((await last.ask("POST", "/api/readings", at(now - 50 * minute, now))).status).toBe(200);
    expect((await last.ask("POST", "/api/readings", at(now - 90 * minute, now))).status).toBe(403);
    const fixed = await make({ window: { from: now - 60 * minute, to: now - 2 * minute } });
    expect((await fixed.ask("POST", "/api/readings", at(now - 10 * minute, now - 2 * minute))).status).toBe(200);
    expect((await fixed.ask("POST", "/api/readings", at(now - 10 * minute, now))).status).toBe(403);
  });

  test("of one tile shows that alone", async () => {
    const { ask } = await make({ tile: "note" });
    expect((await ask("GET", "/api/shared")).body.document.tiles.map(({ id }: { id: string }) => id)).toEqual(["note"]);
    expect((await ask("POST", "/api/readings", reading(light))).status).toBe(403);
  });

  test("goes on showing the version that it was made of, until it is renewed", async () => {
    const { body, ask } = await make();
    const { body: found } = await owner.ask("GET", `/api/dashboards/${dashboard}`);
    const tiles = [
      ...document.tiles,
      { ...document.tiles[0], id: "more", reading: { sentences: { it: { counter: "quay.secret" } } } },
    ];
    await owner.ask("PUT", `/api/dashboards/${dashboard}`, {
      document: { ...document, tiles },
      revision: found.revision,
    });
    expect((await ask("POST", "/api/readings", reading({ counter: "quay.secret" }))).status).toBe(403);
    expect((await owner.ask("POST", `/api/links/${body.id}/renew`)).body.version).toBe(found.revision + 1);
    expect((await ask("POST", "/api/readings", reading({ counter: "quay.secret" }))).status).toBe(200);
    await owner.ask("PUT", `/api/dashboards/${dashboard}`, { document, revision: found.revision + 1 });
  });
});

describe("its end", () => {
  test("revoked, what it had open ends within a second, and it opens nothing", async () => {
    const { body, secret, ask } = await make();
    const stream = await fetch(`${owned.server.address}/api/live`, { headers: { "Nubrel-Link": secret } });
    const began = Date.now();
    expect((await owner.ask("DELETE", `/api/links/${body.id}`)).status).toBe(204);
    await stream.text();
    expect(Date.now() - began).toBeLessThan(1000);
    expect((await ask("GET", "/api/shared")).status).toBe(401);
    expect((await owner.ask("DELETE", `/api/links/${body.id}`)).status).toBe(404);
  });
  test("its date, and the removal of its dashboard, end it; a wall's has no date", async () => {
    const dated = await make();
    await owned.db.database.query("update link set until_at = now() where id = $1", [dated.body.id]);
    expect((await dated.ask("GET", "/api/shared")).status).toBe(401);
    const wall = await make({ until: null });
    expect((await wall.ask("GET", "/api/shared")).status).toBe(200);
    await owner.ask("DELETE", `/api/dashboards/${dashboard}`);
    expect((await wall.ask("GET", "/api/shared")).status).toBe(401);
    await owner.ask("POST", `/api/dashboards/${dashboard}/back`);
    expect((await wall.ask("GET", "/api/shared")).status).toBe(200);
  });
  test("a secret that is none opens nothing", async () => {
    const { status } = await owner.ask("GET", "/api/shared", undefined, { "Nubrel-Link": "x".repeat(43) });
    expect(status).toBe(401);
  });
});

test.each([
  [{ dashboard: 999_999 }, "dashboard"],
  [{ tile: "no such" }, "tile"],
  [{ until: "2020-01-01T00:00:00Z" }, "until"],
  [{ until: "soon" }, "until"],
  [{ window: {} }, "window"],
  [{ window: { last: 1 } }, "window"],
  [{ window: { from: 5, to: 5 } }, "window"],
  [{ origins: ["https://home.example/page"] }, "origins.0"],
  [{ origins: ["javascript:alert(1)"] }, "origins.0"],
  [{ origins: ["*"] }, "origins.0"],
])("%j is refused by name of its field", async (wish, path) => {
  const { status, body } = await make(wish);
  expect([status, String(body.errors[0].path).startsWith(path)]).toEqual([422, true]);
});

test("its page stands in a frame of named origins alone, and sends its address to nobody", async () => {
  const framed = await make({ origins: ["https://home.example", "http://wall.example:8080"] });
  const plain = await make();
  const policyOf = async (secret: string) => {
    const { headers } = await fetch(`${owned.server.address}/s/${secret}`);
    expect(headers.get("referrer-policy")).toBe("no-referrer");
    return headers.get("content-security-policy")?.match(/frame-ancestors [^;]*/)?.[0];
  };
  expect(await policyOf(framed.secret)).toBe("frame-ancestors https://home.example http://wall.example:8080");
  expect(await policyOf(plain.secret)).toBe("frame-ancestors 'none'");
  expect(await policyOf("x".repeat(43))).toBe("frame-ancestors 'none'");
});
