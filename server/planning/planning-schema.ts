import Joi from "joi";
import { DateTime } from "luxon";
import type { EnergyBody, PlanningSettings } from "../../core/api/energy.ts";
import { type Tariff, weekdays } from "../../core/tariffs/tariff.ts";
import { windowSchema, zoneSchema } from "../reading/reading-schema.ts";

const mostDays = 5 * 366;
const dayMs = 86_400_000;

const clockTime = Joi.string()
  .pattern(/^([01]\d|2[0-3]):[0-5]\d$|^24:00$/)
  .messages({ "string.pattern.base": '{{#label}} must be a clock time such as "22:00"' });
const date = Joi.string()
  .pattern(/^(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])$/)
  .messages({ "string.pattern.base": '{{#label}} must be a day of the year such as "10-01" (month-day)' });
const day = Joi.string()
  .custom((text: string, helpers) =>
    /^\d{4}-\d\d-\d\d$/.test(text) && DateTime.fromISO(text).isValid ? text : helpers.error("day"),
  )
  .messages({ day: '{{#label}} must be a day such as "2026-01-01"' });
const price = Joi.number().min(-1e6).max(1e6);
const hours = Joi.array()
  .items(
    Joi.object({
      days: Joi.array()
        .items(Joi.valid(...weekdays))
        .min(1),
      from: clockTime.required(),
      to: clockTime.required(),
      price: price.required(),
    }),
  )
  .max(50);

const currencies = new Set(Intl.supportedValuesOf("currency"));
const currency = Joi.string()
  .uppercase()
  .custom((code: string, helpers) => (currencies.has(code) ? code : helpers.error("currency")))
  .messages({ currency: '{{#label}} must be a currency by ISO 4217, such as "EUR"' });

const standing = Joi.alternatives(
  Joi.number()
    .min(0)
    .max(1e9)
    .custom((amount: number) => ({ amount, per: "month" })),
  Joi.object({ amount: Joi.number().min(0).max(1e9).required(), per: Joi.valid("day", "month", "year").required() }),
);

const tariff = Joi.object<Tariff>({
  name: Joi.string().trim().min(1).max(100).required(),
  currency: currency.required(),
  zone: zoneSchema.required(),
  from: day.required(),
  price: price.required(),
  seasons: Joi.array()
    .items(Joi.object({ from: date.required(), to: date.required(), price, hours }))
    .max(20),
  hours,
  standing,
  steps: Joi.array()
    .items(Joi.object({ aboveKwh: Joi.number().min(0).max(1e9).required(), add: price.required() }))
    .unique("aboveKwh")
    .max(20),
  sources: Joi.array().items(Joi.string().min(1).max(200)).max(1000),
  gramsPerKwh: Joi.number().min(0).max(1e6),
  budgetPerMonth: Joi.number().positive().max(1e9),
});

export const tariffsSchema = Joi.array<readonly Tariff[]>()
  .items(tariff)
  .unique((a: Tariff, b: Tariff) => a.name === b.name && a.from === b.from)
  .max(100)
  .required()
  .messages({
    "array.unique":
      'two tariffs are called "{{#dupeValue.name}}" and begin on {{#dupeValue.from}}: give one another name or day',
  });

export const energySchema = Joi.object<EnergyBody>({
  window: windowSchema
    .required()
    .custom((window: { from: number; to: number }, helpers) =>
      window.to - window.from > mostDays * dayMs ? helpers.error("long") : window,
    )
    .messages({ long: `"window" may be ${mostDays} days long at most` }),
  per: Joi.string()
    .pattern(/^(machine|outlet|guest|together|tag:[a-zA-Z_][a-zA-Z0-9_.-]{0,99})$/)
    .messages({ "string.pattern.base": '"per" must be "machine", "outlet", "guest", "together" or "tag:NAME"' })
    .required(),
  step: Joi.valid("hour", "day", "month"),
  zone: zoneSchema,
  fill: Joi.boolean(),
});

const tagName = /^[a-zA-Z_][a-zA-Z0-9_.-]{0,99}$/;
const watts = Joi.number().min(0).max(1e6);
const machineName = Joi.string().min(1).max(200);

export const planningSettingsSchema = Joi.object<PlanningSettings>({
  guesses: Joi.object()
    .pattern(
      machineName,
      Joi.object({
        idleWatts: watts.required(),
        fullWatts: watts
          .required()
          .min(Joi.ref("idleWatts"))
          .messages({ "number.min": "{{#label}} must not be less than at idle" }),
      }),
    )
    .max(1000)
    .default({}),
  feeders: Joi.array().items(machineName).max(1000).default([]),
  meters: Joi.array()
    .items(
      Joi.object({
        counter: Joi.string().min(1).max(200).required(),
        outlets: Joi.string()
          .pattern(tagName)
          .messages({ "string.pattern.base": "{{#label}} must be the name of a tag" }),
      }),
    )
    .unique("counter")
    .messages({ "array.unique": "{{#label}} names the same counter twice" })
    .max(100)
    .default([]),
  speeds: Joi.object().pattern(machineName, Joi.number().min(0.01).max(100)).max(1000).default({}),
  diskOperations: Joi.object().pattern(machineName, Joi.number().positive().max(1e9)).max(1000).default({}),
  fills: Joi.array()
    .items(
      Joi.object({
        name: Joi.string().trim().min(1).max(100).required(),
        counter: Joi.string().min(1).max(200).required(),
        limit: Joi.number().required(),
      }),
    )
    .max(100)
    .default([]),
});
