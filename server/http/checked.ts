import type Joi from "joi";
import { Problem } from "./problem.ts";

/** Faults that are told at once; the rest are counted. */
const mostTold = 20;

/** Joi names another field of the request "ref:from"; here it is named as it is written. */
const inWords = (message: string) => message.replace(/\bref:([\w.]+)/g, '"$1"');

/** The value as the schema makes it; a Problem that lists every fault with its path where it does not fit. */
export function checked<T>(schema: Joi.Schema<T>, value: unknown): T {
  const result = schema.validate(value ?? {}, { abortEarly: false, errors: { wrap: { label: '"' } } });
  if (!result.error) return result.value;
  const { details } = result.error;
  const errors = details
    .slice(0, mostTold)
    .map((detail) => ({ path: detail.path.join("."), message: inWords(detail.message) }));
  if (details.length > mostTold) errors.push({ path: "", message: `and ${details.length - mostTold} more` });
  throw new Problem(422, "The request does not fit", errors.map((error) => error.message).join("; "), { errors });
}
