import { describe, expect, test } from "vitest";
import { readDashboardFile, writeDashboardFile } from "./read-file.ts";
import { readyMade } from "./ready-made.ts";

const all = new Set(readyMade.flatMap(({ document }) => document.tiles.flatMap(({ reading }) => Object.values(reading?.sentences ?? {}).map(({ counter }) => counter))));

describe("a dashboard's file", () => {
  test.each(readyMade.map(({ id, document }) => [id, document] as const))("%s is read back as it was written", (_, document) => expect(readDashboardFile(writeDashboardFile(document), all)).toEqual({ document, missing: [], emptyTiles: [] }));
  test("says which counters are missing here, and which tiles will be empty", () => {
    const [fleet] = readyMade;
    const gathered = new Set([...all].filter((name) => name !== "system.memory.limit" && name !== "system.cpu.load_average"));
    expect(readDashboardFile(writeDashboardFile(fleet?.document as never), gathered)).toMatchObject({ missing: ["system.cpu.load_average", "system.memory.limit"], emptyTiles: ["Memory, every machine", "Load over 5 minutes"] });
  });
  test("keeps what this version does not know", () => expect(readDashboardFile('{"format":"nubrel dashboard","version":1,"title":"x","tiles":[{"id":"a","glow":1}],"mood":"calm"}', all).document).toEqual({ format: "nubrel dashboard", version: 1, title: "x", tiles: [{ id: "a", glow: 1 }], mood: "calm" }));
  test.each([
    ["{", /not JSON/],
    ["[]", /no dashboard: it must be an object/],
    ["null", /no dashboard/],
    ['{"format":"other"}', /"format" is "other"; a dashboard's file has "nubrel dashboard"/],
    ['{"format":"nubrel dashboard","version":9}', /"version" is 9; this Nubrel understands 1\. Update it first/],
    ['{"format":"nubrel dashboard","version":1,"title":"x","tiles":{}}', /"tiles" \(a list\) must be there/],
  ])("%s is refused with what is wrong", (text, message) => expect(() => readDashboardFile(text, all)).toThrow(message));
});
