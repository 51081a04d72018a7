import Joi from "joi";
import { expect, test } from "vitest";
import { checked } from "./checked.ts";
import { faultMessages, fieldWords } from "./fault-words.ts";
import type { Problem } from "./problem.ts";

const told = (schema: Joi.Schema, value: unknown): { detail: string; messages: readonly string[] } => {
  try {
    checked(schema, value);
  } catch (error) {
    const { message, errors } = error as Problem;
    return { detail: message, messages: errors?.map((one) => one.message) ?? [] };
  }
  throw new Error("nothing was wrong");
};

test.each<[Joi.Schema, unknown, string]>([
  [
    Joi.object({ webhook: { url: Joi.string().uri() } }),
    { webhook: { url: "here" } },
    "The address (webhook.url) must be an address such as https://host:8080/path",
  ],
  [
    Joi.object({ notice: { high: Joi.number() } }),
    { notice: { high: "much" } },
    "The upper limit (notice.high) must be a number",
  ],
  [Joi.object({ name: Joi.string().required() }), {}, "The name is missing"],
  [Joi.object({ name: Joi.string() }), { name: "" }, "The name is empty"],
  [Joi.object({ kind: Joi.valid("a", "b") }), { kind: "c" }, "The kind must be one of a, b"],
  [
    Joi.object({ perRequest: Joi.boolean() }),
    { perRequest: "maybe" },
    '"per request" (perRequest) must be true or false',
  ],
  [Joi.object({}), { other: 1 }, '"other" is not known here'],
  [
    Joi.object({ from: Joi.number(), to: Joi.number().greater(Joi.ref("from")) }),
    { from: 2, to: 1 },
    "The end must be more than the beginning",
  ],
  [
    Joi.object({ at: Joi.string().pattern(/^x$/).messages({ "string.pattern.base": '{{#label}} must be "x"' }) }),
    { at: "y" },
    'The time must be "x"',
  ],
  [Joi.array().items(Joi.number()).max(1), [1, 2], "What was sent must have no more than 1 entries"],
])("%# our own words", (schema, value, words) => expect(told(schema, value).detail).toBe(words));

test("a field's own message names the field alone; a hundred faults are counted", () => {
  const found = told(Joi.object({ notice: { high: Joi.number() } }), { notice: { high: "much" } });
  expect(found.messages).toEqual(["The upper limit must be a number"]);
  const many = told(Joi.object({ all: Joi.array().items(Joi.number()) }), {
    all: Array.from({ length: 100 }, () => "x"),
  });
  expect(many.messages).toHaveLength(21);
  expect(many.messages.at(-1)).toBe("and 80 more");
});

test("nothing that the validator can say of what is used here is left in its words", () => {
  // Kinds of checks that no schema of ours has.
  const unused =
    /^(any\.(custom|default|failover|ref)|array\.(excludes|has|ordered|orderedLength|sort|sparse|hasKnown|hasUnknown|includesRequired)|date\.|object\.(refType|regex|rename|schema|instance|assert|pattern|length)|string\.(hexAlign|alphanum|base64|case|creditCard|dataUri|domain|forbidden|guid|ipVersion|isoDate|isoDuration|lowercase|normalize|pattern\.invert|token|trim|uppercase|uriRelativeOnly)|number\.(negative|precision))/;
  const kinds = [Joi.any(), Joi.string(), Joi.number(), Joi.array(), Joi.object(), Joi.boolean(), Joi.alternatives()];
  const codes = kinds.flatMap((kind) =>
    Object.keys((kind as unknown as { _definition: { messages: object } })._definition.messages),
  );
  expect([...new Set(codes)].filter((code) => !unused.test(code) && !(code in faultMessages)).sort()).toEqual([]);
});

test.each([
  ["document.tiles[0].place.x", '"x"'],
  ["sentences.a.counter", "the counter"],
  ["tiles[3]", '"tiles"'],
  ["", "what was sent"],
  ["constructor", '"constructor"'],
  ["a.__proto__", '"__proto__"'],
  ["toString", '"to string"'],
  ["mail.from", "the sender"],
  ["mail.to[1]", "the receiver"],
  ["window.from", "the beginning"],
])("%j is called %s", (path, words) => expect(fieldWords(path)).toBe(words));
