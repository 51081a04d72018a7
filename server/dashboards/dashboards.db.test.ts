import type { RunningServer } from "../running-server.ts";
import pino from "pino";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { DashboardListed, DashboardView } from "../../core/api/dashboards.ts";
import { type Dashboard, emptyDashboard } from "../../core/dashboards/dashboard.ts";
import { readConfig } from "../config.ts";
import { startServer } from "../compose.ts";
import { HttpClient } from "../testing/http-client.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";

let db: TestDatabase;
let server: RunningServer;
let owner: HttpClient;
const place = { x: 0, y: 0, width: 6, height: 6 };
const air: Dashboard = {
  ...emptyDashboard("On air"),
  tags: ["studio"],
  tiles: [
    {
      id: "a",
      title: "Network",
      kind: "lines",
      place,
      reading: { sentences: { a: { counter: "system.network.io" } } },
    },
  ],
};

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
});
afterAll(async () => {
  await server.close();
  await db.drop();
});

const list = async () => (await owner.ask("GET", "/api/dashboards")).body as readonly DashboardListed[];

describe("a dashboard", () => {
  let made: DashboardView;
  test("is made, listed and read as it was", async () => {
    const answer = await owner.ask("POST", "/api/dashboards", { document: air });
    expect(answer).toMatchObject({ status: 201, body: { document: air, revision: 1, changedBy: "Ines" } });
    made = answer.body;
    expect(await list()).toMatchObject([
      { id: made.id, title: "On air", tags: ["studio"], tiles: 1, revision: 1, starred: false },
    ]);
    expect((await owner.ask("GET", `/api/dashboards/${made.id}`)).body).toEqual(made);
  });
  test("of two who edit, the second is told before anything is overwritten, and can save over it knowingly", async () => {
    const first = await owner.ask("PUT", `/api/dashboards/${made.id}`, {
      document: { ...air, title: "On air now" },
      revision: 1,
    });
    expect(first).toMatchObject({ status: 200, body: { revision: 2 } });
    const mine = { ...air, title: "My air" };
    const second = await owner.ask("PUT", `/api/dashboards/${made.id}`, { document: mine, revision: 1 });
    expect(second).toMatchObject({
      status: 409,
      body: {
        detail: expect.stringMatching(
          /Ines has saved version 2 since you began with version 1\. Nothing of yours was saved or lost/,
        ),
      },
    });
    expect((await owner.ask("GET", `/api/dashboards/${made.id}`)).body.document.title).toBe("On air now");
    expect(await owner.ask("PUT", `/api/dashboards/${made.id}`, { document: mine, revision: 2 })).toMatchObject({
      status: 200,
      body: { revision: 3, document: { title: "My air" } },
    });
  });
  test("keeps every version with who and when; an earlier one is saved as the newest", async () => {
    const versions = (await owner.ask("GET", `/api/dashboards/${made.id}/versions`)).body as readonly DashboardView[];
    expect(versions.map(({ revision, document, changedBy }) => [revision, document.title, changedBy])).toEqual([
      [3, "My air", "Ines"],
      [2, "On air now", "Ines"],
      [1, "On air", "Ines"],
    ]);
    expect(versions[0]?.changedAtMs).toBeGreaterThanOrEqual(versions[2]?.changedAtMs ?? Number.POSITIVE_INFINITY);
    expect(
      await owner.ask("PUT", `/api/dashboards/${made.id}`, { document: versions[2]?.document, revision: 3 }),
    ).toMatchObject({ status: 200, body: { revision: 4, document: air } });
  });
  test("carries a star of the one who asks, and stands first then", async () => {
    await owner.ask("POST", "/api/dashboards", { document: emptyDashboard("A first one") });
    expect((await list()).map(({ title }) => title)).toEqual(["A first one", "On air"]);
    expect((await owner.ask("PUT", `/api/dashboards/${made.id}/star`, { starred: true })).status).toBe(204);
    expect((await list()).map(({ title, starred }) => [title, starred])).toEqual([
      ["On air", true],
      ["A first one", false],
    ]);
    await owner.ask("PUT", `/api/dashboards/${made.id}/star`, { starred: false });
    expect((await list()).some(({ starred }) => starred)).toBe(false);
  });
  test("is removed and put back with all its versions", async () => {
    expect((await owner.ask("DELETE", `/api/dashboards/${made.id}`)).status).toBe(204);
    expect((await owner.ask("GET", `/api/dashboards/${made.id}`)).status).toBe(404);
    expect((await owner.ask("PUT", `/api/dashboards/${made.id}`, { document: air, revision: 4 })).status).toBe(404);
    expect((await owner.ask("POST", `/api/dashboards/${made.id}/back`)).status).toBe(204);
    expect((await owner.ask("GET", `/api/dashboards/${made.id}`)).body.revision).toBe(4);
    expect((await owner.ask("POST", `/api/dashboards/${made.id}/back`)).status).toBe(404);
  });
});

test("of ten saves over one version at the same moment exactly one is kept, and each version once", async () => {
  const { body: made } = await owner.ask("POST", "/api/dashboards", { document: emptyDashboard("Everybody's") });
  const saves = await Promise.all(
    Array.from({ length: 10 }, (_, i) =>
      owner.ask("PUT", `/api/dashboards/${made.id}`, { document: emptyDashboard(`By ${i}`), revision: 1 }),
    ),
  );
  expect(saves.map(({ status }) => status).sort()).toEqual([200, ...new Array(9).fill(409)]);
  const kept = saves.find(({ status }) => status === 200)?.body.document.title;
  const versions = (await owner.ask("GET", `/api/dashboards/${made.id}/versions`)).body as readonly DashboardView[];
  expect(versions.map(({ revision, document }) => [revision, document.title])).toEqual([
    [2, kept],
    [1, "Everybody's"],
  ]);
});

test.each(["0", "x", "1.5", "99999999999"])("there is no dashboard %s, and it says so", async (id) => {
  expect(await owner.ask("GET", `/api/dashboards/${id}`)).toMatchObject({
    status: 404,
    body: { title: "No such dashboard", detail: expect.stringContaining(id) },
  });
});

test.each([
  ["PUT", "/api/dashboards/1"],
  ["PUT", "/api/dashboards/1/star"],
  ["POST", "/api/dashboards"],
])("%s %s without what it needs is refused, and says so", async (method, path) => {
  expect(await owner.ask(method, path, method === "GET" ? undefined : {})).toMatchObject({
    status: 422,
    body: { title: "The request does not fit", errors: expect.any(Array) },
  });
});

test("nobody who is not signed in sees or changes any", async () => {
  const stranger = new HttpClient(server.address);
  for (const [method, path] of [
    ["GET", "/api/dashboards"],
    ["POST", "/api/dashboards"],
    ["DELETE", "/api/dashboards/1"],
    ["GET", "/api/dashboards/1/versions"],
  ] as const)
    expect((await stranger.ask(method, path, method === "POST" ? { document: air } : undefined)).status).toBe(401);
});

describe("a document", () => {
  const [tile] = air.tiles;
  test.each([
    ["another format", { ...air, format: "something else" }, "The format (document.format) must be nubrel dashboard"],
    ["a newer version", { ...air, version: 2 }, "is newer than this Nubrel understands (1); update it first"],
    ["no title", { ...air, title: " " }, "The title (document.title) is empty"],
    [
      "a chart without a reading or a table",
      { ...air, tiles: [{ id: "a", title: "", kind: "lines", place }] },
      '"tiles" (document.tiles[0]) needs one of reading, table',
    ],
    [
      "a table whose row does not fit its columns",
      {
        ...air,
        tiles: [
          {
            id: "a",
            title: "",
            kind: "meter",
            place,
            table: { columns: [{ name: "n", kind: "number" }], rows: [[1], ["many"]] },
          },
        ],
      },
      '"table" (document.tiles[0].table) has a row (2) that does not fit its columns',
    ],
    [
      "two columns of one name",
      {
        ...air,
        tiles: [
          {
            id: "a",
            title: "",
            kind: "meter",
            place,
            table: {
              columns: [
                { name: "n", kind: "number" },
                { name: "n", kind: "text" },
              ],
              rows: [],
            },
          },
        ],
      },
      "has the name of another column",
    ],
    [
      "two pickers of one id",
      {
        ...air,
        pickers: [
          { id: "m", tag: "machine", choose: "one" },
          { id: "m", tag: "site", choose: "one" },
        ],
      },
      "has the id of another picker",
    ],
    [
      "a picker of a tag and of steps at once",
      { ...air, pickers: [{ id: "m", tag: "machine", steps: [60], choose: "one" }] },
      "takes one of tag, steps only",
    ],
    [
      "a reading without sentences",
      { ...air, tiles: [{ ...tile, reading: { sentences: {} } }] },
      "The list of sentences (document.tiles[0].reading.sentences) must have 1 entry or more",
    ],
    [
      "a tile outside the grid",
      { ...air, tiles: [{ ...tile, place: { ...place, x: 12 } }] },
      '"x" (document.tiles[0].place.x) must be 11 or less',
    ],
    ["two tiles of one id", { ...air, tiles: [tile, tile] }, "has the id of another tile"],
    [
      "an unknown kind",
      { ...air, tiles: [{ ...tile, kind: "script" }] },
      "The kind (document.tiles[0].kind) must be one of",
    ],
  ])("with %s is refused with what is wrong and where", async (_, document, detail) => {
    const count = (await list()).length;
    expect(await owner.ask("POST", "/api/dashboards", { document })).toMatchObject({
      status: 422,
      body: { detail: expect.stringContaining(detail) },
    });
    expect(await list()).toHaveLength(count);
  });
  test("keeps what this version does not know", async () => {
    const document = { ...air, tiles: [{ ...tile, glow: { strength: 3 } }], mood: "calm" };
    expect((await owner.ask("POST", "/api/dashboards", { document })).body.document).toEqual(document);
  });
});
