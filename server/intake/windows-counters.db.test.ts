import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { westernBytes } from "../../core/formats/csv/table-text.ts";
import { type OwnedServer, ownedServer } from "../testing/owned-server.ts";

let owned: OwnedServer;
let id = 0;
let token = "";

beforeAll(async () => {
  owned = await ownedServer();
  id = (
    await owned.owner.ask("POST", "/api/sources", {
      kind: "collector",
      name: "desk",
      machine: "desk",
      intervalMs: 15_000,
    })
  ).body.id;
  token = (await owned.owner.ask("POST", "/api/tokens", { name: "desk", scope: "write", sourceId: id })).body.token;
});
afterAll(() => owned.close());

const send = (method: string, path: string, body?: Uint8Array, more: Record<string, string> = {}) =>
  fetch(`${owned.server.address}${path}`, {
    method,
    headers: { authorization: `Bearer ${token}`, ...more },
    ...(body && { body: Buffer.from(body) }),
  });
const western = (text: string) => westernBytes(text) as Uint8Array;
const list = async () => Buffer.from(await (await send("GET", "/api/windows-counters")).arrayBuffer());

describe("a German Windows machine", () => {
  test("without having told what it has, it gets no list, and its page has nothing to choose", async () => {
    expect((await send("GET", "/api/windows-counters")).status).toBe(404);
    expect((await owned.owner.ask("GET", `/api/sources/${id}/windows-counters`)).body).toBeNull();
    expect((await owned.owner.ask("PUT", `/api/sources/${id}/windows-counters`, { chosen: null })).status).toBe(409);
  });
  test("tells its counters, and gets the usual ones in its own language and letters", async () => {
    const told =
      "\\Prozessor(0)\\Prozessorzeit (%)\r\n\\Prozessor(_Total)\\Prozessorzeit (%)\r\n\\Speicher\\Verfügbare Bytes\r\n\\Druckerwarteschlange(Büro)\\Aufträge\r\n";
    expect(await (await send("PUT", "/api/windows-counters", western(told))).json()).toEqual({ categories: 3 });
    expect(await list()).toEqual(
      Buffer.from(western("\\Prozessor(*)\\Prozessorzeit (%)\r\n\\Speicher\\Verfügbare Bytes\r\n")),
    );
    expect((await send("PUT", "/api/windows-counters", western("no list"))).status).toBe(422);
  });
  test("a person chooses; the list has that, for other machines too, and nothing that ends a line", async () => {
    const chosen = {
      picks: [{ category: "Druckerwarteschlange", counter: "Aufträge", instances: ["Büro"] }],
      machines: ["ATTIC"],
    };
    expect((await owned.owner.ask("PUT", `/api/sources/${id}/windows-counters`, { chosen })).status).toBe(204);
    expect((await owned.owner.ask("GET", `/api/sources/${id}/windows-counters`)).body).toMatchObject({
      chosen,
      told: [{ category: "Druckerwarteschlange" }, {}, {}],
    });
    expect(await list()).toEqual(
      Buffer.from(
        western("\\Druckerwarteschlange(Büro)\\Aufträge\r\n\\\\ATTIC\\Druckerwarteschlange(Büro)\\Aufträge\r\n"),
      ),
    );
    for (const bad of [
      { ...chosen, machines: ["A\r\nB"] },
      { ...chosen, machines: ["A\\B"] },
      { ...chosen, picks: [{ category: "a\nb", counter: "c", instances: "all" }] },
      { ...chosen, picks: [] },
    ])
      expect((await owned.owner.ask("PUT", `/api/sources/${id}/windows-counters`, { chosen: bad })).status).toBe(422);
  });
  test("its log, in its letters, is known by place; what came is shown as text that can be read", async () => {
    const now = new Date();
    const two = (n: number) => String(n).padStart(2, "0");
    const at = `${two(now.getUTCMonth() + 1)}/${two(now.getUTCDate())}/${now.getUTCFullYear()} ${two(now.getUTCHours())}:${two(now.getUTCMinutes())}:${two(now.getUTCSeconds())}.000`;
    const log = `"(PDH-CSV 4.0) (Mitteleuropäische Zeit)(0)","\\\\DESK\\Prozessor(_Total)\\Prozessorzeit (%)","\\\\DESK\\Speicher\\Verfügbare Bytes"\r\n"${at}","7,5","1048576"\r\n`;
    expect(
      await (await send("POST", "/api/push/csv", western(log), { "content-type": "text/csv" })).json(),
    ).toMatchObject({ taken: 2, leftOut: {} });
    const reading = await owned.owner.ask("POST", "/api/readings", {
      window: { from: now.getTime() - 5000, to: now.getTime() + 5000 },
      step: 1,
      sentences: { busy: { counter: "windows.processor.percent_processor_time" } },
    });
    expect(reading.body.lines[0]).toMatchObject({ unit: "%", tags: { machine: "desk", instance: "_Total" } });
    expect(reading.body.lines[0].values).toContain(7.5);
    expect((await owned.owner.ask("GET", `/api/sources/${id}/raw`)).body).toContain("Verfügbare");
    const wide = Buffer.from(`\ufeff${log.replace("7,5", "8,5")}`, "utf16le");
    expect(await (await send("POST", "/api/push/csv", wide, { "content-type": "text/csv" })).json()).toMatchObject({
      found: 2,
      leftOut: expect.anything(),
    });
  });
});
