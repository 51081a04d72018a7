import Joi from "joi";
import { IANAZone } from "luxon";
import type { ReadingDocument, Sentence } from "../../core/reading/document.ts";
import { spanMs } from "../../core/reading/step.ts";

const texts = Joi.array().items(Joi.string().allow("").max(1000)).max(500);
const longestWindowMs = 5 * 366 * 86_400_000;
const mostPoints = 5000;

const span = Joi.string()
  .custom((text: string, helpers) => (spanMs(text) === undefined ? helpers.error("span") : text))
  .messages({ span: '{{#label}} must be a span such as "7d", "12h", "30m" or "45s"' });

const sentence = Joi.object<Sentence>({
  counter: Joi.string().max(200).required(),
  where: Joi.array()
    .items(
      Joi.object({ tag: Joi.string().max(100).required(), is: texts, not: texts, like: Joi.string().max(200) }).or(
        "is",
        "not",
        "like",
      ),
    )
    .max(20),
  as: Joi.valid("rate", "increase", "value"),
  of_every: Joi.valid("mean", "min", "max", "sum", "last", "first", "count", "p50", "p90", "p95", "p99", "deviation"),
  lines: Joi.alternatives(
    Joi.valid("each", "together"),
    Joi.object({ per: Joi.array().items(Joi.string().max(100)).min(1).max(10).required() }),
  ),
  combine: Joi.valid("sum", "mean", "min", "max", "p95", "count"),
  keep: Joi.object({
    highest: Joi.number().integer().min(1).max(1000),
    lowest: Joi.number().integer().min(1).max(1000),
    by: Joi.valid("max", "mean", "last"),
  }).xor("highest", "lowest"),
  earlier: span,
});

/** What a rule keeps of a reading: everything but the window. */
export const openReadingSchema = Joi.object<Omit<ReadingDocument, "window">>({
  step: Joi.alternatives(
    Joi.valid("auto", "day", "week", "month"),
    Joi.number()
      .integer()
      .min(1)
      .max(31 * 86_400),
  ),
  extremes: Joi.boolean(),
  sums: Joi.boolean(),
  zone: Joi.string()
    .max(100)
    .custom((zone: string, helpers) => (IANAZone.isValidZone(zone) ? zone : helpers.error("zone")))
    .messages({ zone: '{{#label}} must be a time zone such as "Europe/Berlin"' }),
  points: Joi.number().integer().min(1).max(mostPoints),
  sentences: Joi.object()
    .pattern(Joi.string().pattern(/^[A-Za-z_$][\w$]{0,60}$/, "a name of letters, digits and _"), sentence)
    .min(1)
    .max(20)
    .required(),
  beside: span,
  figure: Joi.string().max(1000),
  unit: Joi.string().max(50),
});

const momentMs = Joi.number().min(0).max(8.64e15);

export const readingSchema = (openReadingSchema as Joi.ObjectSchema<ReadingDocument>)
  .keys({
    window: Joi.object({ from: momentMs.required(), to: momentMs.greater(Joi.ref("from")).required() }).required(),
  })
  .custom((document: ReadingDocument, helpers) => {
    const span = document.window.to - document.window.from;
    if (span > longestWindowMs) return helpers.error("window.long");
    if (typeof document.step === "number" && span / (document.step * 1000) > mostPoints)
      return helpers.error("step.fine", { least: Math.ceil(span / mostPoints / 1000) });
    return document;
  })
  .messages({
    "window.long": '"window" may be five years long at most',
    "step.fine": `"step" gives more than ${mostPoints} values a line; {{#least}} s is the finest for this window`,
  });

export const windowSchema = Joi.object<{ from: number; to: number }>({
  from: momentMs.required(),
  to: momentMs.greater(Joi.ref("from")).required(),
});
