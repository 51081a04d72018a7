import type Joi from "joi";
import { faultMessages, faultWords, labelMarks } from "./fault-words.ts";
import { Problem } from "./problem.ts";

/** Faults that are told at once; the rest are counted. */
const mostTold = 20;

/**
 * The value as the schema makes it; a Problem that lists every fault with its path where it does not fit. Our words are
 * looked for only then: to give them along takes ten times as long as the check.
 */
export function checked<T>(schema: Joi.Schema<T>, value: unknown): T {
  const plain = schema.validate(value ?? {});
  if (!plain.error) return plain.value;
  const result = schema.validate(value ?? {}, {
    abortEarly: false,
    messages: faultMessages,
    errors: { wrap: { label: labelMarks, array: false } },
  });
  if (!result.error) return result.value;
  const { details } = result.error;
  const errors = details
    .slice(0, mostTold)
    .map((detail) => ({ path: detail.path.join("."), message: faultWords(detail.message) }));
  const exact = details.slice(0, mostTold).map(({ message }) => faultWords(message, true));
  if (details.length > mostTold) {
    const more = `and ${details.length - mostTold} more`;
    errors.push({ path: "", message: more });
    exact.push(more);
  }
  throw new Problem(422, "the-request-does-not-fit", exact.join("; "), { errors });
}
