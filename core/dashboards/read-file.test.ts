import { describe, expect, test } from "vitest";
import { readDashboardFile, writeDashboardFile } from "./read-file.ts";
import { readyMade } from "./ready-made.ts";

describe("a dashboard's file", () => {
  test.each(readyMade.map(({ id, document }) => [id, document] as const))(
    "%s is read back as it was written",
    (_, document) => expect(readDashboardFile(writeDashboardFile(document))).toEqual({ document, unknown: [] }),
  );
  test("keeps what this version does not know", () =>
    expect(
      readDashboardFile(
        '{"format":"nubrel dashboard","version":1,"title":"x","tiles":[{"id":"a","glow":1}],"mood":"calm"}',
      ),
    ).toEqual({
      unknown: ["tiles[0].glow", "mood"],
      document: { format: "nubrel dashboard", version: 1, title: "x", tiles: [{ id: "a", glow: 1 }], mood: "calm" },
    }));
  test.each([
    ["{", /not JSON/],
    ["[]", /no dashboard: it must be an object/],
    ["null", /no dashboard/],
    ['{"format":"other"}', /"format" is "other"; a dashboard's file has "nubrel dashboard"/],
    ['{"format":"nubrel dashboard","version":9}', /"version" is 9; this Nubrel understands 1\. Update it first/],
    ['{"format":"nubrel dashboard","version":1,"title":"x","tiles":{}}', /"tiles" \(a list\) must be there/],
  ])("%s is refused with what is wrong", (text, message) => expect(() => readDashboardFile(text)).toThrow(message));
});
