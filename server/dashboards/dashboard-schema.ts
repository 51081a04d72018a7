import Joi from "joi";
import {
  type Dashboard,
  dashboardFormat,
  dashboardVersion,
  gridColumns,
  type Tile,
} from "../../core/dashboards/dashboard.ts";
import { drawsReading, tileKindNames } from "../../core/dashboards/tile-kinds.ts";
import type { Picker } from "../../core/dashboards/pickers.ts";
import { shownValues } from "../../core/dashboards/shown-figures.ts";
import { mostColumns, mostRows, type Table } from "../../core/tables/table.ts";
import { openReadingSchema } from "../reading/reading-schema.ts";

export const whole = (least: number, most: number) => Joi.number().integer().min(least).max(most);
const severity = Joi.valid("notice", "urgent");
const id = Joi.string().pattern(/^[\w-]{1,60}$/, "a name of letters, digits, - and _");
const number = Joi.number().min(-1e300).max(1e300);
const size = Joi.valid("small", "plain", "large");
const bound = Joi.alternatives(number, Joi.object({ column: Joi.string().min(1).max(200).required() }));

const meter = Joi.object({
  min: bound,
  max: bound,
  orientation: Joi.valid("upright", "lying"),
  names: Joi.valid("before", "after", "none"),
  values: Joi.valid("meniscus", "before", "after", "none"),
  nameSize: size,
  valueSize: size,
  decimals: whole(0, 10),
  unit: Joi.string().max(50),
  fill: Joi.valid("limit", "value", "plain"),
  none: Joi.string().allow("").max(100),
  order: Joi.valid("given", "highest", "lowest", "name"),
}).unknown();

/** One cell a column, and of its column's kind. */
const table = Joi.object<Table>({
  columns: Joi.array()
    .items(
      Joi.object({
        name: Joi.string().min(1).max(200).required(),
        kind: Joi.valid("text", "number", "time").required(),
        unit: Joi.string().max(50),
      }),
    )
    .min(1)
    .max(mostColumns)
    .unique("name")
    .required(),
  rows: Joi.array()
    .items(Joi.array().items(Joi.string().allow("").max(1000), Joi.number().unsafe(), Joi.valid(null)).sparse(false))
    .max(mostRows)
    .required(),
})
  .custom((made: Table, helpers) => {
    const at = made.rows.findIndex(
      (row) =>
        row.length !== made.columns.length ||
        row.some((cell, i) => cell !== null && (typeof cell === "string") !== (made.columns[i]?.kind === "text")),
    );
    return at < 0 ? made : helpers.error("row", { row: at + 1 });
  })
  .messages({
    row: "{{#label}} has a row ({{#row}}) that does not fit its columns: one cell for each, words in columns of words, numbers elsewhere, null for nothing",
    "array.unique": "{{#label}} has the name of another column",
  });

const picker = Joi.object<Picker>({
  id: id.required(),
  title: Joi.string().allow("").max(200),
  tag: Joi.string().min(1).max(100),
  values: Joi.array().items(Joi.string().allow("").max(1000)).max(500),
  steps: Joi.array()
    .items(whole(1, 31 * 86_400))
    .min(1)
    .max(50),
  choose: Joi.valid("one", "several").required(),
  start: Joi.array().items(Joi.string().allow("").max(1000)).max(500),
})
  .xor("tag", "steps")
  .unknown();

// What a newer version says beyond this is kept as it is.
const tile = Joi.object<Tile>({
  id: id.required(),
  title: Joi.string().allow("").max(200).required(),
  description: Joi.string().allow("").max(2000),
  kind: Joi.valid(...tileKindNames).required(),
  place: Joi.object({
    x: whole(0, gridColumns - 1).required(),
    y: whole(0, 10_000).required(),
    width: whole(1, gridColumns).required(),
    height: whole(1, 100).required(),
  })
    .unknown()
    .required(),
  reading: openReadingSchema,
  table,
  shows: Joi.valid(...shownValues),
  most: whole(1, 500),
  meter,
  limits: Joi.array()
    .items(
      Joi.object({
        at: number.required(),
        compare: Joi.valid("above", "below").required(),
        severity: severity.required(),
      }),
    )
    .max(10),
  states: Joi.array()
    .items(Joi.object({ from: number.required(), words: Joi.string().min(1).max(100).required(), signal: severity }))
    .max(50),
  repeat: id,
  ignores: Joi.array().items(id).max(50),
  text: Joi.string().allow("").max(20_000),
})
  .unknown()
  .when(Joi.object({ kind: Joi.valid(...tileKindNames.filter(drawsReading)) }).unknown(), {
    then: Joi.object().xor("reading", "table"),
    otherwise: Joi.object({ table: Joi.forbidden() }),
  });

/** What is kept as a dashboard; docs/dashboard.schema.json says the same to others. */
export const dashboardSchema = Joi.object<Dashboard>({
  format: Joi.valid(dashboardFormat).required(),
  version: whole(1, dashboardVersion)
    .required()
    .messages({
      "number.max": `{{#label}} is newer than this Nubrel understands (${dashboardVersion}); update it first`,
    }),
  title: Joi.string().trim().min(1).max(200).required(),
  description: Joi.string().allow("").max(2000),
  tags: Joi.array().items(Joi.string().trim().min(1).max(60)).max(20),
  start: Joi.object({
    lastSeconds: whole(10, 400 * 86_400).required(),
    everySeconds: whole(1, 3600).required(),
  }).unknown(),
  pickers: Joi.array()
    .items(picker)
    .max(20)
    .unique("id")
    .messages({ "array.unique": "{{#label}} has the id of another picker" }),
  tiles: Joi.array()
    .items(tile)
    .max(200)
    .unique("id")
    .required()
    .messages({ "array.unique": "{{#label}} has the id of another tile" }),
}).unknown();
