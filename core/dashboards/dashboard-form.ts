import type { Form } from "../forms/form.ts";
import { readingForm, textsForm } from "../reading/reading-form.ts";
import { mostColumns, mostRows } from "../tables/table.ts";
import { dashboardFormat, dashboardVersion, gridColumns } from "./dashboard.ts";
import { shownValues } from "./shown-figures.ts";
import { drawsReading, tileKindNames } from "./tile-kinds.ts";

const id: Form = { type: "string", pattern: "^[\\w-]{1,60}$", said: "must be a name of letters, digits, - and _" };
const number: Form = { type: "number", minimum: -1e300, maximum: 1e300 };
const severity: Form = { enum: ["notice", "urgent"] };
const size: Form = { enum: ["small", "plain", "large"] };
const column: Form = { type: "string", minLength: 1, maxLength: 200 };
const whole = (minimum: number, maximum: number): Form => ({ type: "integer", minimum, maximum });
const bound: Form = {
  anyOf: [number, { type: "object", required: ["column"], properties: { column } }],
  description: "A number, or each row's own value of another column or sentence; left out: from the data.",
};

/** Where a tile lies: in columns and rows, from the upper left corner. */
const place: Form = {
  type: "object",
  description: `In columns (of ${gridColumns}) and rows, from the upper left corner.`,
  required: ["x", "y", "width", "height"],
  properties: {
    x: whole(0, gridColumns - 1),
    y: whole(0, 10_000),
    width: whole(1, gridColumns),
    height: whole(1, 100),
  },
};

const meter: Form = {
  type: "object",
  description: "How meters and dials look; what is left out has its usual way.",
  properties: {
    column: {
      ...column,
      description: "Only this column or sentence is drawn; left out: all that are no end of the scale.",
    },
    min: bound,
    max: bound,
    orientation: { enum: ["upright", "lying"] },
    names: { enum: ["before", "after", "none"] },
    values: { enum: ["meniscus", "before", "after", "none"] },
    nameSize: size,
    valueSize: size,
    decimals: whole(0, 10),
    unit: { type: "string", minLength: 1, maxLength: 50 },
    fill: { enum: ["limit", "value", "plain"] },
    none: { type: "string", maxLength: 100 },
    order: { enum: ["given", "highest", "lowest", "name"] },
  },
};

/** A table of one's own; that its cells fit their columns is checked where it is kept. */
export const tableForm: Form = {
  type: "object",
  words: "its table",
  description: "A table of one's own that is drawn in the place of a reading.",
  required: ["columns", "rows"],
  properties: {
    columns: {
      type: "array",
      minItems: 1,
      maxItems: mostColumns,
      differBy: ["name", "column"],
      description: "Names are unique.",
      items: {
        type: "object",
        required: ["name", "kind"],
        properties: {
          name: column,
          kind: { enum: ["text", "number", "time"] },
          unit: { type: "string", minLength: 1, maxLength: 50 },
        },
      },
    },
    rows: {
      type: "array",
      maxItems: mostRows,
      description:
        "One cell a column: words in columns of words, numbers in columns of numbers, ms since 1970 in columns of times, null for nothing.",
      items: {
        type: "array",
        items: { anyOf: [{ type: "string", maxLength: 1000 }, { type: "number" }, { type: "null" }] },
      },
    },
  },
};

const limit: Form = {
  type: "object",
  required: ["at", "compare", "severity"],
  properties: { at: number, compare: { enum: ["above", "below"] }, severity },
};
const state: Form = {
  type: "object",
  required: ["from", "words"],
  properties: { from: number, words: { type: "string", minLength: 1, maxLength: 100 }, signal: severity },
};

/** One tile. Those kinds that draw a reading have one, or a table in its place. */
export const tileForm: Form = {
  type: "object",
  required: ["id", "title", "kind", "place"],
  properties: {
    id: { ...id, description: "Unique in its dashboard." },
    title: { type: "string", maxLength: 200, words: "its title" },
    description: { type: "string", maxLength: 2000, words: "what it is for" },
    kind: { enum: tileKindNames, words: "how it is drawn" },
    place: { ...place, words: "its place" },
    reading: {
      ...readingForm,
      words: "its sentences",
      description: "What is drawn, or what a note's live figures are of. The window is the rail's.",
    },
    table: tableForm,
    text: {
      type: "string",
      maxLength: 20_000,
      words: "its text",
      description: "Of a note: Markdown; {name} or {name highest} stands for a live figure of its reading.",
    },
    shows: {
      enum: shownValues,
      words: "which value it shows",
      description: "Which value single figures show: of a line's window, or of a table's rows; rows: each for itself.",
    },
    most: { ...whole(1, 500), words: "how many it shows", description: "How many figures are shown." },
    meter: { ...meter, words: "how its meters look" },
    limits: { type: "array", maxItems: 10, items: limit, words: "its limits" },
    states: {
      type: "array",
      maxItems: 50,
      items: state,
      words: "its states",
      description: "Words for values from each of these on, of a state timeline.",
    },
    repeat: {
      ...id,
      words: "how it repeats",
      description: "The picker for each of whose picked values the tile stands once.",
    },
    ignores: {
      type: "array",
      maxItems: 50,
      items: id,
      words: "which picks it leaves aside",
      description: "Pickers that do not concern it.",
    },
  },
  if: { properties: { kind: { enum: tileKindNames.filter(drawsReading) } } },
  then: { oneOf: [{ required: ["reading"] }, { required: ["table"] }] },
  else: { not: { required: ["table"] } },
};

const picker: Form = {
  type: "object",
  required: ["id", "choose"],
  oneOf: [{ required: ["tag"] }, { required: ["steps"] }],
  properties: {
    id,
    title: { type: "string", maxLength: 200 },
    tag: { type: "string", minLength: 1, maxLength: 100 },
    values: { ...textsForm, description: "A list of one's own in the place of what there is." },
    steps: { type: "array", minItems: 1, maxItems: 50, items: whole(1, 31 * 86_400) },
    choose: { enum: ["one", "several"] },
    start: { ...textsForm, description: "What is picked at first; none is all." },
  },
};

/** The form in which dashboards are kept and exchanged; docs/dashboard.schema.json is it for others. */
export const dashboardForm: Form = {
  title: "A dashboard of Nubrel",
  description:
    "The form in which dashboards are kept and exchanged. Fields that are not named here are kept and handed on.",
  type: "object",
  required: ["format", "version", "title", "tiles"],
  properties: {
    format: { const: dashboardFormat },
    version: {
      ...whole(1, dashboardVersion),
      said: `is newer than this Nubrel understands (${dashboardVersion}); update it first`,
      description: "Grows when an older reader would misread a document.",
    },
    title: { type: "string", minLength: 1, maxLength: 200, trim: true, words: "the title" },
    description: { type: "string", maxLength: 2000, words: "what it is for" },
    tags: {
      type: "array",
      maxItems: 20,
      items: { type: "string", minLength: 1, maxLength: 60, trim: true },
      words: "the tags",
    },
    start: {
      type: "object",
      description: "The window that a visitor sees first: it ends now.",
      required: ["lastSeconds", "everySeconds"],
      properties: { lastSeconds: whole(10, 400 * 86_400), everySeconds: whole(1, 3600) },
      words: "the window it begins with",
    },
    pickers: {
      type: "array",
      maxItems: 20,
      description: "Choices above the tiles; each concerns those below it. Ids are unique.",
      differBy: ["id", "picker"],
      items: picker,
      words: "the pickers",
    },
    tiles: { type: "array", maxItems: 200, differBy: ["id", "tile"], items: tileForm },
  },
};
