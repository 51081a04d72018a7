import Joi from "joi";
import type { ReadingDocument } from "../../core/reading/document.ts";
import { mostPoints, readingForm, zoneForm } from "../../core/reading/reading-form.ts";
import { joiOfForm } from "../http/joi-of-form.ts";

const longestWindowMs = 5 * 366 * 86_400_000;

/** What a rule keeps of a reading: everything but the window. */
export const openReadingSchema = joiOfForm(readingForm, { keepsUnknown: false }) as Joi.ObjectSchema<
  Omit<ReadingDocument, "window">
>;

/** A time zone, as a reading has it. */
export const zoneSchema = joiOfForm(zoneForm, { keepsUnknown: false });

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
