import { afterAll, beforeAll, describe, expect, test, vi } from "vitest";
import { batchOf } from "../../core/series/batch.ts";
import type { Store } from "../store/store.ts";
import { type OwnedServer, ownedServer } from "../testing/owned-server.ts";

let it: OwnedServer;
let run: { id: number; recordingId: number };
const ask = (method: string, path: string, body?: unknown, headers?: Record<string, string>) =>
  it.owner.ask(method, `/api${path}`, body, headers);
const file = async (format: string) =>
  (await ask("GET", `/recordings/${run.recordingId}/runs/${run.id}/file?format=${format}`)).body;
const open = (text: string, query = "") =>
  ask("POST", `/recordings/files${query}`, text, { "Content-Type": "application/octet-stream" });
const report = async ({ id, recordingId }: { id: number; recordingId: number }) =>
  (await ask("GET", `/recordings/${recordingId}/runs/${id}`)).body;

beforeAll(async () => {
  it = await ownedServer();
  const { store } = it.server as unknown as { store: Store };
  const named = (counter: string, unit: string, kind: "level" | "total") => ({
    counter,
    unit,
    kind,
    tags: { machine: "vault", room: 'the "north", attic' },
  });
  const ids = await store.series.resolve([named("hw.power", "W", "level"), named("system.disk.io", "By", "total")]);
  const recording = {
    name: "archive copy",
    everySeconds: 1,
    sentences: {
      power: { counter: "hw.power" },
      written: { counter: "system.disk.io", where: [{ tag: "room", like: "*attic" }] },
    },
  };
  const { body: made } = await ask("POST", "/recordings", recording);
  const { body: begun } = await ask("POST", `/recordings/${made.id}/runs`, { forSeconds: 3 });
  for (let i = 0; i < 3; i++) {
    const at = begun.startedAtMs + i * 1000;
    await store.write(
      batchOf([
        [ids[0] as number, at, 100 + i / 3],
        [ids[1] as number, at, 1e9 + i * 2 ** 20],
      ]),
    );
  }
  await ask("POST", "/events", { fromMs: begun.startedAtMs + 500, kind: "note", machine: "vault", text: "copy began" });
  run = { id: begun.id, recordingId: made.id };
  await vi.waitFor(async () => expect((await report(run)).endedAtMs).toEqual(expect.any(Number)), {
    timeout: 15_000,
    interval: 250,
  });
}, 60_000);
afterAll(() => it.close());

describe("a run as a file", () => {
  test("that another Nubrel opens: with its numbers, notes and what happened in it, and none of its series in the store", async () => {
    await ask("POST", `/recordings/${run.recordingId}/runs/${run.id}/notes`, { text: "before the new drives" });
    const text = await file("nubrel");
    await ask("DELETE", `/recordings/${run.recordingId}`);
    const { store } = it.server as unknown as { store: Store };
    const before = store.series.size;
    const opened = await open(text);
    expect(opened).toMatchObject({ status: 201, body: { origin: "file", endedBecause: "length", samples: 6 } });
    expect(store.series.size).toBe(before);
    const [was, is] = [await report(run), await report(opened.body)];
    expect(is.lines).toEqual(was.lines);
    expect(is.reading.lines).toEqual(was.reading.lines);
    expect(is).toMatchObject({ name: "archive copy", startedAtMs: was.startedAtMs, endedAtMs: was.endedAtMs });
    expect(is.notes).toContain("before the new drives (Ines)");
    expect(is.events).toMatchObject([{ text: "copy began" }]);
    // The same sentences again: it is one more run of the recording that the file made.
    const again = await open(text);
    expect(again.body.recordingId).toBe(opened.body.recordingId);
    expect((await ask("GET", `/recordings/${opened.body.recordingId}/runs`)).body).toHaveLength(2);
  });

  test.each(["csv", "openmetrics"])("%s comes back with every value", async (format) => {
    const opened = await open(await file(format), `?name=${format}`);
    expect(opened.status, JSON.stringify(opened.body)).toBe(201);
    const { lines } = await report(opened.body);
    const was = (await report(run)).lines as { unit: string; mean: number; sum: object }[];
    expect(
      lines.map(({ unit, mean, last }: { unit: string; mean: number; last: number }) => [unit, mean, last]),
    ).toEqual(was.map(({ unit, mean, last }: { unit: string; mean: number; last?: number }) => [unit, mean, last]));
    expect(lines[0].tags).toMatchObject({ room: 'the "north", attic' });
  });

  test.each([
    ["half of a file", '{"nubrelRun":1,"recording":{', "JSON"],
    ["another version", '{"nubrelRun":2}', "nubrelRun"],
    ["prose", "Dear Ines,\nhow are you?\n", "no counter log, no table with a column of times"],
    ["nothing", "", "no counter log"],
    ["a table that leaves a doubt", "when,lux\n03/04/2026 10:00,1\n04/05/2026 10:01,2\n", "Say how in the address"],
  ])("%s is refused in words, and nothing of it stays", async (_what, text, words) => {
    const { body: before } = await ask("GET", "/recordings");
    const refused = await open(text);
    expect(refused.status).toBe(422);
    expect(refused.body.detail).toContain(words);
    expect(refused.body.detail).not.toContain("its log says why");
    expect((await ask("GET", "/recordings")).body).toEqual(before);
  });

  test("a table that leaves a doubt is opened once a person says how it is read", async () => {
    const text = "when,lux\n03/04/2026 10:00,1\n04/05/2026 10:01,2\n";
    const opened = await open(text, "?name=lamp&times=d/m/y&zone=60");
    expect(opened.body).toMatchObject({ startedAtMs: Date.UTC(2026, 3, 3, 9), samples: 2 });
  });
});
