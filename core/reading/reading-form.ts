import type { Form } from "../forms/form.ts";

const span: Form = {
  type: "string",
  pattern: "^\\d{1,5}[smhd]$",
  said: 'must be a span such as "7d", "12h", "30m" or "45s"',
};
/** Some of a tag's values. */
export const textsForm: Form = { type: "array", maxItems: 500, items: { type: "string", maxLength: 1000 } };

const condition: Form = {
  type: "object",
  required: ["tag"],
  properties: {
    tag: { type: "string", minLength: 1, maxLength: 100 },
    is: textsForm,
    not: textsForm,
    like: { type: "string", minLength: 1, maxLength: 200, description: "* stands for any characters." },
  },
  anyOf: [{ required: ["is"] }, { required: ["not"] }, { required: ["like"] }],
};

const sentence: Form = {
  type: "object",
  required: ["counter"],
  properties: {
    counter: { type: "string", minLength: 1, maxLength: 200 },
    where: { type: "array", maxItems: 20, items: condition },
    as: { enum: ["rate", "increase", "value"] },
    of_every: {
      enum: ["mean", "min", "max", "sum", "last", "first", "count", "p50", "p90", "p95", "p99", "deviation"],
    },
    lines: {
      anyOf: [
        { enum: ["each", "together"] },
        {
          type: "object",
          required: ["per"],
          properties: {
            per: { type: "array", minItems: 1, maxItems: 10, items: { type: "string", minLength: 1, maxLength: 100 } },
          },
        },
      ],
    },
    combine: { enum: ["sum", "mean", "min", "max", "p95", "count"] },
    keep: {
      type: "object",
      properties: {
        highest: { type: "integer", minimum: 1, maximum: 1000 },
        lowest: { type: "integer", minimum: 1, maximum: 1000 },
        by: { enum: ["max", "mean", "last"] },
        rest: { type: "boolean", description: "All others follow as one line, added up." },
      },
      oneOf: [{ required: ["highest"] }, { required: ["lowest"] }],
    },
    earlier: { ...span, description: "Read that much earlier, shown at the window's times." },
  },
};

/** A time zone. */
export const zoneForm: Form = {
  type: "string",
  minLength: 1,
  maxLength: 100,
  zone: true,
  said: 'must be a time zone such as "Europe/Berlin"',
  description: "By whose clock days, weeks and months begin; a name of the IANA time zone database.",
};

export const mostPoints = 5000;

/** The form of a reading (`ReadingDocument`) without its window: what a tile and a rule keep of one. */
export const readingForm: Form = {
  type: "object",
  required: ["sentences"],
  properties: {
    step: {
      anyOf: [{ enum: ["auto", "day", "week", "month"] }, { type: "integer", minimum: 1, maximum: 31 * 86_400 }],
      description: "Seconds, or days, weeks or months of the zone's calendar.",
    },
    zone: zoneForm,
    points: { type: "integer", minimum: 1, maximum: mostPoints },
    extremes: { type: "boolean", description: "Whether each step's least and most are answered as well." },
    usual: { type: "boolean", description: "Whether what is usual of each line is answered as well." },
    sums: { type: "boolean", description: "Whether each line's sum over the window is answered as well." },
    sentences: {
      type: "object",
      minProperties: 1,
      maxProperties: 20,
      propertyNames: { pattern: "^[A-Za-z_$][\\w$]{0,60}$" },
      additionalProperties: sentence,
    },
    beside: { ...span, description: "Every line is answered a second time as it was that much earlier." },
    figure: {
      type: "string",
      minLength: 1,
      maxLength: 1000,
      description: "Arithmetic between the sentences' names: numbers, + - * /, brackets, min(a, b), max(a, b), abs(a).",
    },
    unit: { type: "string", minLength: 1, maxLength: 50, description: "Of the figure's result, UCUM." },
  },
};
