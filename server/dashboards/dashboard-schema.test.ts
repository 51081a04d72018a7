import { Ajv2020 } from "ajv/dist/2020.js";
import { describe, expect, test } from "vitest";
import { type Dashboard, emptyDashboard } from "../../core/dashboards/dashboard.ts";
import { tileKindNames } from "../../core/dashboards/tile-kinds.ts";
import { readyMade } from "../../core/dashboards/ready-made.ts";
import answers from "../../core/api/answers.schema.json" with { type: "json" };
import { dashboardForm } from "../../core/dashboards/dashboard-form.ts";
import { type Form, published as publishedForm, unknownFields, withoutUnknown } from "../../core/forms/form.ts";
import { dashboardSchema } from "./dashboard-schema.ts";

// What is published (JSON Schema 2020-12, by a validator of others) and what the server takes must be the same.
const schema = { $schema: "https://json-schema.org/draft/2020-12/schema", ...(publishedForm(dashboardForm) as object) };
const published = new Ajv2020({
  strict: true,
  strictRequired: false,
  strictTypes: false,
  allErrors: true,
}).compile(schema);

test("docs/dashboard.schema.json is the form as it is now; `npx vitest run --project unit server/dashboards -u` writes it", async () => {
  await expect(`${JSON.stringify(schema, null, 2)}\n`).toMatchFileSnapshot("../../docs/dashboard.schema.json");
});

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

/** A field that nobody knows in every object there can be. */
const withUnknown = board({
  mood: 1,
  start: { lastSeconds: 3600, everySeconds: 15, mood: 1 },
  pickers: [{ id: "p", tag: "site", choose: "one", mood: 1 }],
  tiles: [
    {
      ...tile,
      mood: 1,
      place: { ...tile.place, mood: 1 },
      limits: [{ at: 5, compare: "above", severity: "notice", mood: 1 }],
      states: [{ from: 1, words: "on", mood: 1 }],
      meter: { min: { column: "least", mood: 1 }, max: 7, mood: 1 },
      reading: {
        mood: 1,
        sentences: {
          a: {
            counter: "x",
            mood: 1,
            where: [{ tag: "site", is: ["quay"], mood: 1 }],
            lines: { per: ["machine"], mood: 1 },
            keep: { highest: 3, mood: 1 },
          },
        },
      },
    },
    {
      ...tile,
      id: "b",
      kind: "table",
      reading: undefined,
      table: { columns: [{ name: "n", kind: "number", mood: 1 }], rows: [[3]], mood: 1 },
    },
  ].map((one) => JSON.parse(JSON.stringify(one))),
});
const everyUnknown = [
  "mood",
  "tiles[0].reading.mood",
  "tiles[0].reading.sentences.a.mood",
  "tiles[0].reading.sentences.a.where[0].mood",
  "tiles[0].reading.sentences.a.lines.mood",
  "tiles[0].reading.sentences.a.keep.mood",
  "tiles[0].mood",
  "tiles[0].place.mood",
  "tiles[0].limits[0].mood",
  "tiles[0].states[0].mood",
  "tiles[0].meter.min.mood",
  "tiles[0].meter.mood",
  "tiles[1].table.columns[0].mood",
  "tiles[1].table.mood",
  "start.mood",
  "pickers[0].mood",
];

describe("fields that this version does not know", () => {
  test("are told by where they stand, at every depth", () =>
    expect([...unknownFields(dashboardForm, withUnknown)].sort()).toEqual([...everyUnknown].sort()));
  test("are kept by the server, every one", () => {
    expect(dashboardSchema.validate(withUnknown)).toMatchObject({ value: withUnknown });
    expect(dashboardSchema.validate(withUnknown).error).toBeUndefined();
  });
  test("are left out where only what is known may go on", () => {
    const known = withoutUnknown(dashboardForm, withUnknown);
    expect(JSON.stringify(known)).not.toContain("mood");
    expect(unknownFields(dashboardForm, known)).toEqual([]);
    expect(verdicts(known)).toEqual({ published: true, taken: true });
  });
  test("of a name that every object has are told as well", () =>
    expect(unknownFields(dashboardForm, JSON.parse('{"constructor": 1, "__proto__": 2}'))).toEqual([
      "constructor",
      "__proto__",
    ]));
});

// The type of a dashboard as the generator of answers' schemas read it from the code; the form must name its fields.
test("the form names the fields that the type has, at every depth, and which of them must be there", () => {
  interface Typed {
    readonly $ref?: string;
    readonly properties?: Readonly<Record<string, Typed>>;
    readonly required?: readonly string[];
    readonly items?: Typed | readonly Typed[];
    readonly anyOf?: readonly Typed[];
    readonly additionalProperties?: Typed | boolean;
  }
  const definitions = answers.definitions as unknown as Readonly<Record<string, Typed>>;
  let looked = 0;
  const compare = (typed: Typed, form: Form, at: string): void => {
    if (typed.$ref) {
      const name = decodeURIComponent(typed.$ref.replace("#/definitions/", ""));
      compare(definitions[name] as Typed, form, at);
    } else if (typed.anyOf) {
      const parts = typed.anyOf.flatMap((one) => (one.$ref ? (definitions[one.$ref.slice(14)] ?? []) : one));
      const object = parts.find(({ properties }) => properties);
      const ofForm = form.anyOf?.find(({ properties }) => properties);
      if (object && ofForm) compare(object, ofForm, at);
    } else if (typed.items && !Array.isArray(typed.items) && form.items) {
      compare(typed.items as Typed, form.items, at);
    } else if (typeof typed.additionalProperties === "object" && form.additionalProperties) {
      compare(typed.additionalProperties, form.additionalProperties, `${at}.*`);
    } else if (typed.properties) {
      looked++;
      expect(Object.keys(form.properties ?? {}).sort(), at).toEqual(Object.keys(typed.properties).sort());
      expect([...(form.required ?? [])].sort(), at).toEqual([...(typed.required ?? [])].sort());
      for (const [name, one] of Object.entries(typed.properties))
        compare(one, form.properties?.[name] as Form, `${at}.${name}`);
    }
  };
  compare({ $ref: "#/definitions/Dashboard" }, dashboardForm, "dashboard");
  expect(looked).toBeGreaterThan(12);
});

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
    ["what nobody knows yet, at every depth", withUnknown],
    ["numbers as large as they may be", withTile({ limits: [{ at: 1e300, compare: "above", severity: "urgent" }] })],
    ["a calendar's steps in a zone", withTile({ reading: { ...tile.reading, step: "month", zone: "Europe/Berlin" } })],
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
