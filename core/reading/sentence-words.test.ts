import { describe, expect, test } from "vitest";
import type { ReadingDocument, Sentence } from "./document.ts";
import { presentationOf, presentations, presentedAs } from "./presented-as.ts";
import { earlierWords, readingText, sentenceText } from "./sentence-words.ts";
import { spanMs, spanOfMs } from "./step.ts";

const context = { words: "network traffic", presented: "bits per second", stepSeconds: 15 };
const said = (sentence: Partial<Sentence>) => sentenceText({ counter: "system.network.io", ...sentence }, context);

describe("a sentence reads as English", () => {
  test.each([
    [{}, "Show network traffic of every machine as bits per second, mean of every 15 s, one line each"],
    [
      { where: [{ tag: "site", is: ["studio"] }], lines: { per: ["interface"] }, keep: { highest: 8 } },
      "Show network traffic of every machine where site is studio as bits per second, mean of every 15 s, one line per interface, the 8 highest by mean",
    ],
    [
      {
        where: [
          { tag: "machine", is: ["vault", "hive"] },
          { tag: "state", not: ["free"] },
          { tag: "device", like: "sd*" },
        ],
        of_every: "p95",
        lines: "together",
        combine: "max",
      },
      "Show network traffic of vault or hive where state is not free and device is like sd* as bits per second, 95th percentile of every 15 s, all in one line by their highest",
    ],
    [
      {
        where: [{ tag: "machine", not: ["mast", "ups"] }],
        lines: { per: ["machine", "direction"] },
        combine: "sum",
        earlier: "7d",
      },
      "Show network traffic of every machine but mast and ups as bits per second, mean of every 15 s, one line per machine and direction added up, a week earlier",
    ],
    [
      { keep: { lowest: 1, by: "last" }, where: [{ tag: "site", is: [""] }] },
      "Show network traffic of every machine where site is nothing as bits per second, mean of every 15 s, one line each, the lowest by last value",
    ],
  ] as readonly (readonly [Partial<Sentence>, string])[])("%j", (sentence, expected) =>
    expect(said(sentence)).toBe(expected),
  );

  test("several sentences, their arithmetic and an earlier time", () => {
    const memory: Omit<ReadingDocument, "window"> = {
      sentences: { used: { counter: "m", lines: "together" }, size: { counter: "m" } },
      figure: "used / size * 100",
      unit: "%",
      beside: "1d",
    };
    expect(readingText(memory, () => ({ words: "memory" }))).toBe(
      "used: Show memory of every machine, mean of every step, all in one line; size: Show memory of every machine, mean of every step, one line each; drawn is used / size * 100, in %; beside a day earlier",
    );
  });

  test.each([
    ["1h", "an hour earlier"],
    ["36h", "36 hours earlier"],
    ["1d", "a day earlier"],
    ["7d", "a week earlier"],
    ["28d", "4 weeks earlier"],
    ["30m", "30 minutes earlier"],
    ["45s", "45 seconds earlier"],
  ])("%s is %s", (span, words) => expect(earlierWords(span)).toBe(words));
  test.each(["1d", "7d", "12h", "90m", "45s"])("the span %s is told as it was given", (span) =>
    expect(spanOfMs(spanMs(span) as number)).toBe(span),
  );
});

describe("ways to present a counter", () => {
  test("bytes that grow: per second first, then bits (8 a byte), growth, the count itself", () => {
    expect(presentations("total", "By").map(({ words, unit, factor }) => [words, unit, factor])).toEqual([
      ["bytes per second", "By/s", 1],
      ["bits per second", "bit/s", 8],
      ["growth in each step, in bytes", "By", 1],
      ["the count as it stands, in bytes", "By", 1],
    ]);
  });
  test("seconds of processor that grow are a share, or percent", () =>
    expect(
      presentations("total", "s")
        .slice(0, 2)
        .map(({ words, factor }) => [words, factor]),
    ).toEqual([
      ["a plain number", 1],
      ["percent", 100],
    ]));
  test("plain counts that grow are so many a second or a minute", () =>
    expect(
      presentations("total", "{packet}")
        .slice(0, 2)
        .map(({ words, factor }) => [words, factor]),
    ).toEqual([
      ["per second", 1],
      ["per minute", 60],
    ]));
  test("3600 s are an hour; 3.6 MJ a kilowatt-hour (NIST SP 811, B.8)", () => {
    expect(3600 * (presentations("level", "s").find(({ unit }) => unit === "h")?.factor ?? 0)).toBeCloseTo(1, 12);
    expect(3.6e6 * (presentations("level", "J").find(({ unit }) => unit === "kW.h")?.factor ?? 0)).toBeCloseTo(1, 12);
  });
  test.each([
    ["total", "By"],
    ["level", "By"],
    ["total", "s"],
    ["level", "s"],
    ["level", "J"],
    ["total", "{packet}"],
    ["level", "Cel"],
    ["state", "1"],
  ] as const)("each of a %s in %s is found again in the document that it makes, and taken back", (kind, unit) => {
    const plain = { sentences: { a: { counter: "x", keep: { highest: 3 } } } };
    for (const one of presentations(kind, unit)) {
      const made = presentedAs(plain, kind, one);
      expect(presentationOf(made, kind, unit)).toEqual(one);
      expect(presentedAs(made, kind, presentations(kind, unit)[0] as never)).toEqual(plain);
    }
  });
  test("arithmetic of another kind is no presentation", () =>
    expect(
      presentationOf({ sentences: { a: { counter: "x" } }, figure: "a * 7", unit: "bit/s" }, "total", "By"),
    ).toBeUndefined());
});

test.each(["constructor", "toString", "__proto__"])(
  "a unit that is called %s, as what every object has, stays as it is",
  (unit) => {
    expect(presentations("level", unit)).toEqual([{ words: unit, as: "value", unit, factor: 1 }]);
  },
);
