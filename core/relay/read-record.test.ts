import fc from "fast-check";
import { expect, test } from "vitest";
import { readRecord, RecordError } from "./read-record.ts";

const whole = {
  ...{ seq: 3, source: 7, atMs: 1_795_000_000_000, tookMs: 12.5, kind: "readings", raw: "", rawType: "text/plain" },
  ...{ leftOut: [["no number (NaN)", 1]], certificateUntilMs: null, events: [] },
  readings: [{ counter: "system.uptime", tags: { "host.name": "mast" }, value: 5 }],
};

test("a record is what was written", () => {
  expect(readRecord(JSON.stringify(whole))).toEqual(whole);
});

test("what JSON cannot say of a value is no number (RFC 8259 §6)", () => {
  const readings = [{ counter: "system.uptime", tags: {}, value: Number.NaN }];
  const read = readRecord(JSON.stringify({ ...whole, readings }));
  expect(read.kind === "readings" && read.readings[0]?.value).toBeNaN();
});

test.each([
  ["nothing", "", "not JSON"],
  ["text", "hello", "not JSON"],
  ["a list", "[]", "no object"],
  ["no number of its own", { seq: undefined }, '"seq"'],
  ["a number below 1", { seq: 0 }, '"seq"'],
  ["a number of no integer", { seq: 1.5 }, '"seq"'],
  ["a source by name", { source: "vault" }, '"source"'],
  ["a time that no clock has", { atMs: 1e300 }, '"atMs"'],
  ["an unknown kind", { kind: "gift" }, '"kind"'],
  ["a kind that is a method of objects", { kind: "constructor" }, '"kind"'],
  ["readings that are none", { readings: [5] }, '"readings"'],
  ["a counter without a name", { readings: [{ counter: "", tags: {}, value: 1 }] }, '"readings"'],
  ["a tag that is no text", { readings: [{ counter: "a", tags: { b: 5 }, value: 1 }] }, '"readings"'],
  ["a value that is text", { readings: [{ counter: "a", tags: {}, value: "5" }] }, '"readings"'],
  [
    "a kind of counter that is not known",
    { readings: [{ counter: "a", tags: {}, value: 5, kind: "x" }] },
    '"readings"',
  ],
  ["reasons without a count", { leftOut: [["why"]] }, '"leftOut"'],
  ["an event without its words", { events: [{ fromMs: 1, toMs: 1, kind: "fan", text: "", tags: {} }] }, '"events"'],
  ["a failure without words", { kind: "failed", failure: { kind: "reset", atMs: 1 } }, '"failure"'],
  ["a page without its bytes", { kind: "page", dialect: "text", contentType: "text/plain" }, '"bytes"'],
  ["a page of an unknown dialect", { kind: "page", dialect: "rhyme", contentType: "", bytes: "" }, '"dialect"'],
] as const)("%s is told", (_, given, words) => {
  const line = typeof given === "string" ? given : JSON.stringify({ ...whole, ...given });
  expect(() => readRecord(line)).toThrow(RecordError);
  expect(() => readRecord(line)).toThrow(words);
});

test("nothing that is JSON breaks it (property)", () => {
  fc.assert(
    fc.property(fc.json(), fc.constantFrom(...Object.keys(whole)), (value, name) => {
      for (const line of [value, JSON.stringify({ ...whole, [name]: JSON.parse(value) })]) {
        try {
          readRecord(line);
        } catch (error) {
          expect(error).toBeInstanceOf(RecordError);
        }
      }
    }),
  );
});
