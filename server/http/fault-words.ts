/** What a body's fields are called, by the last two parts of their path or the last; others by that part itself, taken apart. */
const fieldNames: Readonly<Record<string, string>> = {
  at: "the time",
  code: "the code",
  counter: "the counter",
  counters: "the list of counters",
  currency: "the currency",
  days: "the list of days",
  detail: "the detail",
  document: "the document",
  everySeconds: "the interval",
  expires: "the end",
  fiveMinuteDays: "how many days 5 min buckets are kept",
  forSeconds: "the length",
  format: "the format",
  from: "the beginning",
  fromMs: "the beginning",
  high: "the upper limit",
  host: "the name or address",
  hourDays: "how many days 1 h buckets are kept",
  id: "the number",
  intervalMs: "the interval",
  keepDays: "how many days it is kept",
  kind: "the kind",
  limit: "the limit",
  low: "the lower limit",
  machine: "the machine",
  "mail.from": "the sender",
  "mail.host": "the mail server",
  "mail.to": "the receiver",
  mustLastSeconds: "how long it must last",
  name: "the name",
  password: "the password",
  path: "the path",
  points: "the number of points",
  port: "the port",
  price: "the price",
  rawDays: "how many days samples are kept",
  reading: "the reading",
  recipients: "the list of recipients",
  role: "the role",
  scope: "what it may do",
  sentences: "the list of sentences",
  step: "the step",
  tags: "the set of tags",
  take: "the list of rules",
  text: "the text",
  title: "the title",
  to: "the end",
  toMs: "the end",
  token: "the token",
  until: "the end",
  untilMs: "the end",
  url: "the address",
  user: "the user",
  window: "the window",
  zone: "the time zone",
};

const [open, close] = ["⟦", "⟧"] as const;
/** How labels stand in messages until they are put into words. */
export const labelMarks = `${open}${close}`;

/** Our words for what a schema finds wrong; a schema's own words for a field go before them. */
export const faultMessages: Readonly<Record<string, string>> = {
  "alternatives.all": "{{#label}} is written in none of the ways that are taken here",
  "alternatives.any": "{{#label}} is written in none of the ways that are taken here",
  "alternatives.match": "{{#label}} is written in none of the ways that are taken here",
  "alternatives.one": "{{#label}} is written in more than one way",
  "alternatives.types": "{{#label}} must be one of {{#types}}",
  "any.invalid": "{{#label}} cannot be that",
  "any.only": '{{#label}} must be {if(#valids.length == 1, "", "one of ")}{{#valids}}',
  "any.required": "{{#label}} is missing",
  "any.unknown": "{{#label}} is not taken here",
  "array.base": "{{#label}} must be a list",
  "array.includes": "{{#label}} is of no kind that is taken here",
  "array.includesRequiredUnknowns": "{{#label}} lacks something",
  "array.length": "{{#label}} must have {{#limit}} entries",
  "array.max": "{{#label}} must have no more than {{#limit}} entries",
  "array.min": '{{#label}} must have {{#limit}} {if(#limit == 1, "entry", "entries")} or more',
  "array.unique": "{{#label}} stands there twice",
  "boolean.base": "{{#label}} must be true or false",
  "date.base": "{{#label}} must be a date",
  "number.base": "{{#label}} must be a number",
  "number.greater": "{{#label}} must be more than {{#limit}}",
  "number.infinity": "{{#label}} is more than can be counted",
  "number.integer": "{{#label}} must be a whole number",
  "number.less": "{{#label}} must be less than {{#limit}}",
  "number.max": "{{#label}} must be {{#limit}} or less",
  "number.min": "{{#label}} must be {{#limit}} or more",
  "number.multiple": "{{#label}} must be a multiple of {{#multiple}}",
  "number.port": "{{#label}} must be a port, from 1 to 65535",
  "number.positive": "{{#label}} must be more than 0",
  "number.unsafe": "{{#label}} is more than can be counted",
  "object.and": "{{#label}} needs {{#missingWithLabels}} as well",
  "object.base": "{{#label}} must be an object",
  "object.max": "{{#label}} must have no more than {{#limit}} entries",
  "object.min": '{{#label}} must have {{#limit}} {if(#limit == 1, "entry", "entries")} or more',
  "object.missing": "{{#label}} needs one of {{#peersWithLabels}}",
  "object.nand": "{{#mainWithLabel}} and {{#peersWithLabels}} exclude each other",
  "object.oxor": "{{#label}} takes one of {{#peersWithLabels}} only",
  "object.unknown": "{{#label}} is not known here",
  "object.with": "{{#mainWithLabel}} needs {{#peerWithLabel}} as well",
  "object.without": "{{#mainWithLabel}} and {{#peerWithLabel}} exclude each other",
  "object.xor": "{{#label}} takes one of {{#peersWithLabels}} only",
  "string.base": "{{#label}} must be a text",
  "string.email": "{{#label}} must be a mail address such as name@example.org",
  "string.empty": "{{#label}} is empty",
  "string.hex": "{{#label}} must be digits from 0 to f",
  "string.hostname": "{{#label}} must be a host's name",
  "string.ip": "{{#label}} must be an IP address",
  "string.length": "{{#label}} must have {{#limit}} characters",
  "string.max": "{{#label}} must have no more than {{#limit}} characters",
  "string.min": '{{#label}} must have {{#limit}} {if(#limit == 1, "character", "characters")} or more',
  "string.pattern.base": "{{#label}} is not written as it must be",
  "string.pattern.name": "{{#label}} is not written as {{#name}} is",
  "string.uri": "{{#label}} must be an address such as https://host:8080/path",
  "string.uriCustomScheme": "{{#label}} must be an address such as https://host:8080/path",
};

/** A field by what it is called. */
export function fieldWords(path: string): string {
  const parts = path.split(/[.[\]]+/).filter((part) => part !== "" && !/^\d+$/.test(part));
  const last = parts.at(-1) ?? "";
  if (last === "") return "what was sent";
  const two = parts.slice(-2).join(".");
  if (Object.hasOwn(fieldNames, two)) return fieldNames[two] as string;
  // A field may be called as what every object has.
  if (Object.hasOwn(fieldNames, last)) return fieldNames[last] as string;
  return `"${last.replace(/([a-z])([A-Z])/g, (_, a: string, b: string) => `${a} ${b.toLowerCase()}`)}"`;
}

/** A message with its labels in words, as a sentence's beginning; `isExact` leaves no doubt which field of several it is. */
export function faultWords(message: string, isExact = false): string {
  const words = message
    .replace(/⟦([^⟧]*)⟧/g, (_, path: string) => {
      const name = fieldWords(path === "value" ? "" : path);
      // A name that was taken apart, or of which there are several, does not say which field that is.
      const isPlain = path === "value" || name === `"${path}"` || !(/[.[]/.test(path) || name.startsWith('"'));
      return isExact && !isPlain ? `${name} (${path})` : name;
    })
    .replace(/\bref:([\w.]+)/g, (_, path: string) => fieldWords(path));
  return `${words.charAt(0).toUpperCase()}${words.slice(1)}`;
}
