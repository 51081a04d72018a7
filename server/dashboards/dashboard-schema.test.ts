import { readFileSync } from "node:fs";
import { Ajv2020 } from "ajv/dist/2020.js";
import { describe, expect, test } from "vitest";
import { type Dashboard, emptyDashboard } from "../../core/dashboards/dashboard.ts";
import { tileKindNames } from "../../core/dashboards/tile-kinds.ts";
import { readyMade } from "../../core/dashboards/ready-made.ts";
import { dashboardSchema } from "./dashboard-schema.ts";

// What is published (JSON Schema 2020-12, by a validator of others) and what the server takes must be the same.
const published = new Ajv2020({ strict: true, strictRequired: false, allErrors: true }).compile(
  JSON.parse(readFileSync(new URL("../../docs/dashboard.schema.json", import.meta.url), "utf8")),
);
const taken = (document: unknown) => dashboardSchema.validate(document).error === undefined;
const verdicts = (document: unknown) => ({ published: published(document), taken: taken(document) });

const tile = {
  id: "a",
  title: "Network",
  kind: "lines",
  place: { x: 0, y: 0, width: 6, height: 6 },
  reading: { sentences: { a: { counter: "system.network.io" } } },
};
const board = (change: object = {}) => ({ ...emptyDashboard("On air"), tiles: [tile], ...change });
const withTile = (change: object) => board({ tiles: [{ ...tile, ...change }] });
const withSentence = (sentence: object) => withTile({ reading: { sentences: { a: { counter: "x", ...sentence } } } });

describe("both take", () => {
  test.each(readyMade.map(({ id, document }) => [id, document] as const))(
    "the ready-made %s",
    (_, document: Dashboard) => expect(verdicts(document)).toEqual({ published: true, taken: true }),
  );
  test.each(tileKindNames)("a tile drawn as %s", (kind) =>
    expect(verdicts(withTile({ kind }))).toEqual({ published: true, taken: true }),
  );
  test.each([
    ["nothing on it", board({ tiles: [] })],
    [
      "a window of its own, tags, words",
      board({ start: { lastSeconds: 3600, everySeconds: 15 }, tags: ["studio"], description: "" }),
    ],
    [
      "a note and events, which read nothing",
      board({
        tiles: [
          { ...tile, kind: "note", reading: undefined, text: "Call Bo." },
          { ...tile, id: "b", kind: "events", reading: undefined },
        ].map((one) => JSON.parse(JSON.stringify(one))),
      }),
    ],
    [
      "conditions of all kinds",
      withSentence({
        where: [
          { tag: "site", is: ["rack", ""] },
          { tag: "state", not: [] },
          { tag: "device", like: "sd*" },
        ],
      }),
    ],
    [
      "all that a sentence can say",
      withSentence({
        as: "rate",
        of_every: "p95",
        lines: { per: ["machine", "device"] },
        combine: "max",
        keep: { lowest: 3, by: "last" },
        earlier: "7d",
      }),
    ],
    [
      "all that a reading can say",
      withTile({
        reading: {
          step: 60,
          points: 300,
          sentences: { used: { counter: "x", lines: "together" }, size: { counter: "y", lines: "each" } },
          figure: "used / size * 100",
          unit: "%",
          beside: "1d",
        },
      }),
    ],
    ["what nobody knows yet", board({ mood: "calm", tiles: [{ ...tile, glow: { strength: 3 } }] })],
  ])("%s", (_, document) => expect(verdicts(document)).toEqual({ published: true, taken: true }));
});

describe("both refuse", () => {
  test.each([
    ["another format", board({ format: "other" })],
    ["a newer version", board({ version: 2 })],
    ["no title", board({ title: "" })],
    ["a title that is too long", board({ title: "x".repeat(201) })],
    ["no tiles", { ...board(), tiles: undefined }],
    ["tiles that are no list", board({ tiles: {} })],
    [
      "more tiles than two hundred",
      board({ tiles: Array.from({ length: 201 }, (_, i) => ({ ...tile, id: `t${i}` })) }),
    ],
    ["a window of no length", board({ start: { lastSeconds: 0, everySeconds: 5 } })],
    ["half a window", board({ start: { lastSeconds: 60 } })],
    ["a tile without an id", withTile({ id: undefined })],
    ["an id with blanks", withTile({ id: "a b" })],
    ["an unknown kind", withTile({ kind: "script" })],
    ["a place beyond the grid", withTile({ place: { x: 12, y: 0, width: 1, height: 1 } })],
    ["half a place", withTile({ place: { x: 0, y: 0, width: 6 } })],
    ["a chart that reads nothing", withTile({ reading: undefined })],
    ["a reading without sentences", withTile({ reading: { sentences: {} } })],
    ["a sentence without a counter", withTile({ reading: { sentences: { a: {} } } })],
    ["a name that arithmetic cannot speak of", withTile({ reading: { sentences: { "a b": { counter: "x" } } } })],
    ["an unknown way to keep a step", withSentence({ of_every: "mode" })],
    ["an unknown way to join", withSentence({ combine: "median" })],
    ["lines by nothing", withSentence({ lines: { per: [] } })],
    ["both the highest and the lowest", withSentence({ keep: { highest: 3, lowest: 3 } })],
    ["neither", withSentence({ keep: { by: "mean" } })],
    ["a condition that compares nothing", withSentence({ where: [{ tag: "site" }] })],
    ["a condition on nothing", withSentence({ where: [{ is: ["x"] }] })],
    ["a span in words", withSentence({ earlier: "a week" })],
    ["a step of no length", withTile({ reading: { ...tile.reading, step: 0 } })],
    ["a text where a list belongs", board({ tags: "studio" })],
  ])("%s", (_, document) =>
    expect(verdicts(JSON.parse(JSON.stringify(document)))).toEqual({ published: false, taken: false }),
  );
});
