import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { everyRoute } from "../../core/api/every-route.ts";
import { accessTo } from "../../core/api/who-may.ts";
import { batchOf } from "../../core/series/batch.ts";
import { emptyDashboard } from "../../core/dashboards/dashboard.ts";
import { HttpClient } from "../testing/http-client.ts";
import { level } from "../testing/new-series.ts";
import { type OwnedServer, ownedServer } from "../testing/owned-server.ts";

// Viewers who are held to a part: what is of another machine is in no answer, whichever way it is asked for.

const password = "kestrel on the quay";
const now = Date.now();
const window = { from: now - 60_000, to: now + 60_000 };
/** What stands in nothing that Nora is told. */
const hiddenName = "strongroom";
let owned: OwnedServer;
let nora: HttpClient;
let dashboards: number[];
let series: ArrayLike<number>;
let incidents: number[];

const reading = (counter: string) => ({
  window,
  step: 60,
  sentences: { it: { counter } },
});

async function person(name: string, limits: object): Promise<HttpClient> {
  await owned.owner.ask("POST", "/api/people", { name, password, role: "viewer", limits });
  const client = new HttpClient(owned.server.address);
  await client.ask("POST", "/api/session", { name, password });
  return client;
}

beforeAll(async () => {
  owned = await ownedServer();
  const { owner, server, db } = owned;
  const machines = ["lamp", "mast", hiddenName];
  series = await server.store.series.resolve(machines.map((machine) => level("quay.light", { machine })));
  await server.store.series.resolve([level("quay.secret", { machine: hiddenName })]);
  await server.store.write(batchOf(Array.from(series).map((id, i) => [id, now - 5000, i + 1])));
  for (const machine of machines) await owner.ask("POST", "/api/events", { machine, text: `of ${machine}` });
  await owner.ask("POST", "/api/events", { text: `about ${hiddenName} as all else` });
  await owner.ask("PUT", "/api/machines/mast", { tags: { site: "quay" } });
  const tile = {
    ...{ id: "light", title: "Light", kind: "lines", place: { x: 0, y: 0, width: 4, height: 4 } },
    reading: { sentences: { it: { counter: "quay.light", lines: "together", combine: "sum" } } },
  };
  dashboards = [];
  for (const title of ["Shown", "Kept"]) {
    const { body } = await owner.ask("POST", "/api/dashboards", {
      document: { ...emptyDashboard(title), tiles: [tile] },
    });
    dashboards.push(body.id);
  }
  incidents = [];
  for (const machine of machines) {
    const { rows } = await db.database.query<{ id: number }>(
      `insert into incident (rule_name, severity, tags, compare, limit_value, unit, raised_at_ms, value, furthest)
       values ('light', 'notice', $1::jsonb, 'above', 1, 'lx', $2::bigint, 2, 2)
       returning id`,
      [JSON.stringify({ machine }), now - 4000],
    );
    incidents.push(rows[0]?.id as number);
  }
  nora = await person("Nora", {
    machines: ["lamp"],
    tags: [{ tag: "site", is: ["quay"] }],
    dashboards: [dashboards[0]],
  });
});
afterAll(() => owned.close());

describe("held to machines, by name and by tag", () => {
  const looks = [...everyRoute.values()].filter((one) => ["look", "show"].includes(accessTo(one)));

  test("there are such routes, and each of them is asked below", () => {
    expect(looks.length).toBeGreaterThan(14);
  });

  test.each(looks.map((one) => [one.method, one.path] as const))(
    "%s %s says nothing of another",
    async (method, path) => {
      const places = [
        path
          .replace(":name", path.startsWith("/counters") ? "quay.light" : hiddenName)
          .replace(
            ":id",
            String(path.startsWith("/series") ? series[2] : path.startsWith("/inc") ? incidents[2] : dashboards[1]),
          ),
      ];
      if (path.includes("/counters/:name")) places.push(path.replace(":name", "quay.secret"));
      const query = `?from=${window.from}&to=${window.to}${path === "/tags" ? "&tag=machine" : ""}`;
      const known =
        path === "/readings" ? reading("quay.light") : { readings: [reading("quay.light"), reading("quay.secret")] };
      for (const place of places) {
        const wants = ["/events", "/incidents", "/steadiness"].includes(path) || path.startsWith("/series");
        const address = `/api${place}${wants || path === "/tags" ? (path === "/tags" ? "?tag=machine" : query) : path === "/metrics" ? "?counter=quay.*" : ""}`;
        const { status, body } = await nora.ask(method, address, method === "POST" ? known : undefined);
        expect([200, 404], `${address}: ${JSON.stringify(body)}`).toContain(status);
        expect(JSON.stringify(body)).not.toContain(status === 404 ? "nothing is looked for" : hiddenName);
        // The owner is told of it at the same place: the test would see it.
        const all = await owned.owner.ask(method, address, method === "POST" ? known : undefined);
        expect(all.status).toBe(200);
        if (!path.startsWith("/dashboards") && !path.startsWith("/series"))
          expect(JSON.stringify(all.body)).toContain(hiddenName);
      }
    },
  );

  test("what they are held to, they see", async () => {
    const { body: machines } = await nora.ask("GET", "/api/machines");
    expect(machines.map(({ name }: { name: string }) => name).sort()).toEqual(["lamp", "mast"]);
    const { body } = await nora.ask("POST", "/api/readings", reading("quay.light"));
    expect(body.lines.map(({ tags }: { tags: { machine: string } }) => tags.machine).sort()).toEqual(["lamp", "mast"]);
    const { body: events } = await nora.ask("GET", `/api/events?from=${window.from}&to=${now + 60_000}`);
    expect(events.map(({ text }: { text: string }) => text)).toEqual(["of lamp", "of mast"]);
    const { body: list } = await nora.ask("GET", "/api/dashboards");
    expect(list.map(({ id }: { id: number }) => id)).toEqual([dashboards[0]]);
  });

  test("a sum of all is of theirs alone", async () => {
    const together = {
      ...reading("quay.light"),
      sentences: { it: { counter: "quay.light", lines: "together", combine: "sum" } },
    };
    expect((await nora.ask("POST", "/api/readings", together)).body.lines[0].mean).toBe(3);
    expect((await owned.owner.ask("POST", "/api/readings", together)).body.lines[0].mean).toBe(6);
  });

  test("what others' machines do is not on their stream", async () => {
    const gone = new AbortController();
    const stream = await fetch(`${owned.server.address}/api/live`, {
      headers: { Cookie: nora.cookie },
      signal: gone.signal,
    });
    const reader = (stream.body as ReadableStream<Uint8Array>).getReader();
    const decoder = new TextDecoder();
    const raised = (machine: string) =>
      owned.server.live.publish({ kind: "raised", incident: { tags: { machine } } as never, isQuiet: false });
    raised(hiddenName);
    raised("lamp");
    let text = "";
    while (!text.includes("lamp")) text += decoder.decode((await reader.read()).value, { stream: true });
    expect(text).not.toContain(hiddenName);
    gone.abort();
  });

  test("a tag that a machine gets is seen at once; one that it loses no more", async () => {
    const names = async () => (await nora.ask("GET", "/api/machines")).body.map(({ name }: { name: string }) => name);
    await owned.owner.ask("PUT", "/api/machines/mast", { tags: {} });
    expect(await names()).toEqual(["lamp"]);
    await owned.owner.ask("PUT", "/api/machines/mast", { tags: { site: "quay" } });
    expect((await names()).sort()).toEqual(["lamp", "mast"]);
  });
});

describe("held to a dashboard alone", () => {
  let otto: HttpClient;
  beforeAll(async () => {
    otto = await person("Otto", { dashboards: [dashboards[0]] });
  });
  const onTile = {
    ...reading("quay.light"),
    sentences: { it: { counter: "quay.light", lines: "together", combine: "sum" } },
  };

  test("what stands on it is read whole, whatever machine it is of", async () => {
    expect((await otto.ask("POST", "/api/readings", onTile)).body.lines[0].mean).toBe(6);
    const { body } = await otto.ask("POST", "/api/readings/several", { readings: [onTile] });
    expect(body).toContain('"mean":6');
  });
  test("what does not stand on it has no lines, and no machine is named", async () => {
    expect((await otto.ask("POST", "/api/readings", reading("quay.light"))).body.lines).toEqual([]);
    expect((await otto.ask("GET", "/api/machines")).body).toEqual([]);
    expect((await otto.ask("GET", `/api/dashboards/${dashboards[1]}`)).status).toBe(404);
  });
});
