import { describe, expect, test } from "vitest";
import type { Condition } from "../../../core/reading/document.ts";
import { isIdle, withoutIdle } from "../../../core/reading/idle.ts";
import { askedReading, figureFault, sentenceOf } from "./said.ts";

describe("a condition that says nothing yet", () => {
  test.each([
    [{ tag: "site", is: [] }, true],
    [{ tag: "site", not: [] }, true],
    [{ tag: "site", like: "*" }, true],
    [{ tag: "site" }, true],
    [{ tag: "site", is: [""] }, false],
    [{ tag: "site", is: ["rack"] }, false],
    [{ tag: "site", not: ["rack"] }, false],
    [{ tag: "site", like: "r*" }, false],
  ] as readonly (readonly [Condition, boolean])[])("%j: %s", (condition, expected) =>
    expect(isIdle(condition)).toBe(expected),
  );
  test("is not asked; what else is said stays, in every sentence", () => {
    const reading = {
      step: 60,
      sentences: {
        a: {
          counter: "x",
          where: [
            { tag: "site", is: [] },
            { tag: "machine", is: ["m"] },
          ],
          earlier: "7d",
        },
        b: { counter: "y", where: [{ tag: "site", not: [] }] },
      },
    };
    expect(withoutIdle(reading)).toEqual({
      step: 60,
      sentences: { a: { counter: "x", where: [{ tag: "machine", is: ["m"] }], earlier: "7d" }, b: { counter: "y" } },
    });
    expect(reading.sentences.a.where).toHaveLength(2);
  });
});

describe("arithmetic while it is typed", () => {
  const sentences = { used: { counter: "x" }, size: { counter: "y" } };
  test.each(["used /", "used / siz", "("])("%j is left out, with its unit", (figure) =>
    expect(askedReading({ sentences, figure, unit: "%" })).toEqual({ sentences }),
  );
  test("that can be read is asked as it is", () =>
    expect(askedReading({ sentences, figure: "used / size", unit: "%", beside: "7d" })).toEqual({
      sentences,
      figure: "used / size",
      unit: "%",
      beside: "7d",
    }));
  test("nothing typed is no fault; a name that is none is one, with its place", () => {
    expect(figureFault(" ", ["used"])).toBeUndefined();
    expect(figureFault("used * 2", ["used"])).toBeUndefined();
    expect(figureFault("used + sise", ["used"])).toMatchObject({
      at: 7,
      message: expect.stringContaining('"sise" at character 8'),
    });
  });
});

test("another counter keeps machines and how many lines; conditions on tags that it may not have go, its presentation too", () => {
  expect(
    sentenceOf("y", {
      counter: "x",
      as: "increase",
      of_every: "max",
      lines: { per: ["device"] },
      combine: "sum",
      where: [
        { tag: "machine", is: ["m"] },
        { tag: "device", is: ["sda"] },
      ],
      keep: { highest: 3 },
    }),
  ).toEqual({ counter: "y", where: [{ tag: "machine", is: ["m"] }], keep: { highest: 3 } });
  expect(sentenceOf("y", { counter: "x" })).toEqual({ counter: "y" });
});
