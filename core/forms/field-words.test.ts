import { expect, test } from "vitest";
import { type FieldFault, type FieldKind, fieldFaultWords } from "./field-words.ts";

const none: FieldFault = {
  valueMissing: false,
  badInput: false,
  typeMismatch: false,
  rangeUnderflow: false,
  rangeOverflow: false,
  stepMismatch: false,
  tooShort: false,
  tooLong: false,
  patternMismatch: false,
};
const kind: FieldKind = { type: "text", min: "", max: "", minLength: -1, maxLength: -1, title: "" };

// The flags are those of the HTML standard's constraint validation; a field that is empty and of bad input has both.
test.each<[Partial<FieldFault>, Partial<FieldKind>, string]>([
  [{ valueMissing: true }, {}, "Something has to stand here."],
  [{ valueMissing: true }, { type: "radio" }, "One has to be chosen."],
  [
    { badInput: true, valueMissing: true },
    { type: "number" },
    "That is no number: digits, with a point where there is a fraction.",
  ],
  [{ badInput: true }, { type: "date" }, "That is not whole."],
  [
    { typeMismatch: true },
    { type: "url" },
    "An address begins with https:// or http://, such as https://host:8080/path.",
  ],
  [{ typeMismatch: true }, { type: "email" }, "A mail address is written as name@example.org."],
  [{ rangeUnderflow: true }, { min: "1", max: "65535" }, "From 1 to 65535."],
  [{ rangeOverflow: true }, { max: "100" }, "At most 100."],
  [{ rangeUnderflow: true }, { min: "0" }, "At least 0."],
  [{ stepMismatch: true }, {}, "A whole number, without a fraction."],
  [{ tooShort: true }, { minLength: 12 }, "At least 12 characters."],
  [{ tooLong: true }, { maxLength: 100 }, "No more than 100 characters."],
  [{ patternMismatch: true }, { title: "Six digits." }, "Six digits."],
  [{ patternMismatch: true }, {}, "That is not written as it must be."],
  [{}, {}, "That cannot be taken."],
])("%j of %j", (fault, of, words) => {
  expect(fieldFaultWords({ ...none, ...fault }, { ...kind, ...of })).toBe(words);
});
