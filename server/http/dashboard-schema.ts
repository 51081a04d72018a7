import Joi from "joi";
import { type Dashboard, dashboardFormat, dashboardVersion, drawsReading, gridColumns, type Tile, tileKinds } from "../../core/dashboards/dashboard.ts";
import { openReadingSchema } from "./reading-schema.ts";

export const whole = (least: number, most: number) => Joi.number().integer().min(least).max(most);

// What a newer version says beyond this is kept as it is.
const tile = Joi.object<Tile>({
  id: Joi.string().pattern(/^[\w-]{1,60}$/, "a name of letters, digits, - and _").required(),
  title: Joi.string().allow("").max(200).required(),
  description: Joi.string().allow("").max(2000),
  kind: Joi.valid(...tileKinds).required(),
  place: Joi.object({ x: whole(0, gridColumns - 1).required(), y: whole(0, 10_000).required(), width: whole(1, gridColumns).required(), height: whole(1, 100).required() }).unknown().required(),
  reading: openReadingSchema.when("kind", { is: Joi.valid(...tileKinds.filter(drawsReading)), then: Joi.required() }),
  text: Joi.string().allow("").max(20_000),
}).unknown();

/** What is kept as a dashboard; docs/dashboard.schema.json says the same to others. */
export const dashboardSchema = Joi.object<Dashboard>({
  format: Joi.valid(dashboardFormat).required(),
  version: whole(1, dashboardVersion).required().messages({ "number.max": `{{#label}} is newer than this Nubrel understands (${dashboardVersion}); update it first` }),
  title: Joi.string().trim().min(1).max(200).required(),
  description: Joi.string().allow("").max(2000),
  tags: Joi.array().items(Joi.string().trim().min(1).max(60)).max(20),
  start: Joi.object({ lastSeconds: whole(10, 400 * 86_400).required(), everySeconds: whole(1, 3600).required() }).unknown(),
  tiles: Joi.array().items(tile).max(200).unique("id").required().messages({ "array.unique": '{{#label}} has the id of another tile' }),
}).unknown();
