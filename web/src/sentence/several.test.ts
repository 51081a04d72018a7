import { describe, expect, test } from "vitest";
import { drawnFromSearch, readingAddress, readingFromSearch, readingFromText } from "./reading-address.ts";
import { renamed, withoutSentence, withSentence } from "./several.ts";

const reading = {
  sentences: { used: { counter: "m" }, size: { counter: "n" } },
  figure: "used / size * 100 + used_too",
  unit: "%",
};

describe("several sentences", () => {
  test("another is like the one given, under a name of its own", () =>
    expect(Object.keys(withSentence({ sentences: { a: { counter: "x" } } }, "a", { counter: "x" }).sentences)).toEqual([
      "a",
      "b",
    ]));
  test("a name changes in the arithmetic too, but not in parts of words", () => {
    const next = renamed(reading, "used", "taken");
    expect(next.figure).toBe("taken / size * 100 + used_too");
    expect(Object.keys(next.sentences)).toEqual(["taken", "size"]);
  });
  test("arithmetic that spoke of a sentence goes with it, other arithmetic stays", () => {
    expect(withoutSentence(reading, "size")).toEqual({ sentences: { used: { counter: "m" } } });
    expect(withoutSentence({ ...reading, figure: "used * 2" }, "size")).toEqual({
      sentences: { used: { counter: "m" } },
      figure: "used * 2",
      unit: "%",
    });
  });
});

describe("a reading in an address", () => {
  test("is found again as it was, with how it is drawn", () => {
    const search = new URL(readingAddress({ ...reading, points: 300, extremes: true }, "stacked"), "http://x")
      .searchParams;
    expect(readingFromSearch(search)).toEqual(reading);
    expect(drawnFromSearch(search)).toBe("stacked");
  });
  test.each(["{", '{"sentences":{}}', '{"sentences":{"a":{}}}', '"x"', "null"])("%s is none", (text) =>
    expect(readingFromSearch(new URLSearchParams({ reading: text }))).toBeUndefined(),
  );
  test.each([
    ["{", /not JSON/],
    ["{}", /"sentences" is missing/],
    ['{"sentences":{"a":{"counter":5}}}', /"sentences.a.counter" is missing/],
  ])("%s pasted says what is wrong", (text, message) => expect(() => readingFromText(text)).toThrow(message));
  test("pasted with a window, the window is left out", () =>
    expect(readingFromText('{"window":{"from":0,"to":1},"sentences":{"a":{"counter":"x"}}}')).toEqual({
      sentences: { a: { counter: "x" } },
    }));
});
