import type Joi from "joi";
import { Problem } from "./problem.ts";

/** The value as the schema makes it; a Problem that lists every fault with its path where it does not fit. */
export function checked<T>(schema: Joi.Schema<T>, value: unknown): T {
  const result = schema.validate(value ?? {}, { abortEarly: false, errors: { wrap: { label: '"' } } });
  if (!result.error) return result.value;
  const errors = result.error.details.map((detail) => ({ path: detail.path.join("."), message: detail.message }));
  throw new Problem(422, "The request does not fit", errors.map((error) => error.message).join("; "), { errors });
}
