import type { Form } from "../forms/form.ts";
import { readingForm, zoneForm } from "../reading/reading-form.ts";
import { leastEverySeconds, longestRunSeconds, mostEverySeconds, mostSentences } from "./recording.ts";

const named = (readingForm.properties as Readonly<Record<string, Form>>)["sentences"] as Form;
const sentence = named.additionalProperties as Form;
const timeOfDay: Form = {
  type: "string",
  pattern: "^([01]\\d|2[0-3]):[0-5]\\d$",
  said: 'must be a time of day such as "07:20"',
};
const day: Form = {
  type: "string",
  pattern: "^\\d{4}-(0[1-9]|1[0-2])-(0[1-9]|[12]\\d|3[01])$",
  said: 'must be a day such as "2026-11-30"',
};

/** When a recording runs by itself. */
const scheduleForm: Form = {
  type: "object",
  required: ["weekdays", "from", "to", "zone"],
  properties: {
    weekdays: {
      type: "array",
      minItems: 1,
      maxItems: 7,
      items: { type: "integer", minimum: 1, maximum: 7 },
      description: "1 Monday to 7 Sunday.",
    },
    from: timeOfDay,
    to: timeOfDay,
    zone: zoneForm,
    firstDay: day,
    lastDay: day,
  },
};

/** How long a run is, in seconds. */
export const runLengthForm: Form = { type: "integer", minimum: 1, maximum: longestRunSeconds };

/** The form of a recording. */
export const recordingForm: Form = {
  type: "object",
  required: ["name", "everySeconds", "sentences"],
  properties: {
    name: { type: "string", trim: true, minLength: 1, maxLength: 200 },
    everySeconds: {
      type: "integer",
      minimum: leastEverySeconds,
      maximum: mostEverySeconds,
    },
    sentences: {
      anyOf: [
        { ...named, maxProperties: mostSentences },
        { type: "array", minItems: 1, maxItems: mostSentences, items: sentence },
      ],
    },
    forSeconds: runLengthForm,
    mostSamples: { type: "integer", minimum: 1, maximum: 1_000_000_000 },
    mostBytes: { type: "integer", minimum: 1000, maximum: 1_000_000_000_000 },
    keepDays: { type: "integer", minimum: 1, maximum: 3660 },
    schedule: scheduleForm,
  },
};
