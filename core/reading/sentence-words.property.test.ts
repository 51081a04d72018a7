import type { OfEvery } from "../series/of-every.ts";
import fc from "fast-check";
import { expect, test } from "vitest";
import type { CounterKind } from "../counters/counter.ts";
import type { Combine, Condition, ReadingDocument, Sentence } from "./document.ts";
import { earlierDocument } from "./beside.ts";
import { presentationOf, presentations, presentedAs } from "./presented-as.ts";
import { combineWords, earlierTimes, ofEveryWords, readingText, sentenceText } from "./sentence-words.ts";
import { spanMs, spanOfMs } from "./step.ts";

const word = fc.constantFrom("site", "device", "direction", "le", "machine", "a b", "ümlaut");
const condition: fc.Arbitrary<Condition> = fc.oneof(
  fc.record({ tag: word, is: fc.array(word, { maxLength: 4 }) }),
  fc.record({ tag: word, not: fc.array(word, { minLength: 1, maxLength: 3 }) }),
  fc.record({ tag: word, like: fc.constantFrom("sd*", "*", "") }),
);
const sentence: fc.Arbitrary<Sentence> = fc.record(
  {
    counter: fc.constantFrom("system.network.io", "x"),
    where: fc.array(condition, { maxLength: 4 }),
    as: fc.constantFrom("rate" as const, "increase" as const, "value" as const),
    of_every: fc.constantFrom(...(Object.keys(ofEveryWords) as OfEvery[])),
    lines: fc.oneof(
      fc.constantFrom("each" as const, "together" as const),
      fc.record({ per: fc.array(word, { minLength: 1, maxLength: 3 }) }),
    ),
    combine: fc.constantFrom(...(Object.keys(combineWords) as Combine[])),
    keep: fc.oneof(
      fc.record({
        highest: fc.integer({ min: 1, max: 1000 }),
        by: fc.constantFrom("max" as const, "mean" as const, "last" as const),
      }),
      fc.record({ lowest: fc.integer({ min: 1, max: 1000 }) }),
    ),
    earlier: fc.constantFrom(...earlierTimes),
  },
  { requiredKeys: ["counter"] },
);

test("whatever a sentence says, its words begin with Show, have no holes, and end without a stop (property)", () => {
  fc.assert(
    fc.property(sentence, fc.option(fc.integer({ min: 1, max: 90_000 }), { nil: undefined }), (one, stepSeconds) => {
      const text = sentenceText(one, { words: "network traffic", ...(stepSeconds !== undefined && { stepSeconds }) });
      expect(text).toMatch(/^Show network traffic of \S/);
      expect(text).not.toMatch(/undefined|null|NaN|\[object| {2}|, ,|[,.]$/);
    }),
  );
});

test("every sentence of a document is in its words, under its name where there are several (property)", () => {
  fc.assert(
    fc.property(sentence, sentence, fc.constantFrom(...earlierTimes), (a, b, beside) => {
      const text = readingText({ sentences: { first: a, second: b }, beside }, ({ counter }) => ({ words: counter }));
      expect(text.startsWith(`first: Show ${a.counter}`)).toBe(true);
      expect(text).toContain(`; second: Show ${b.counter}`);
      expect(text).toMatch(/; beside (an?|\d+) (hour|day|week)s? earlier$/);
    }),
  );
});

test("a presentation is found again in every document that it makes, and a sentence keeps all else that it says (property)", () => {
  const kinds: readonly CounterKind[] = ["total", "level", "state", "distribution"];
  fc.assert(
    fc.property(
      sentence,
      fc.constantFrom(...kinds),
      fc.constantFrom("By", "s", "1", "{packet}", "W", "J", "Cel", "%"),
      (one, kind, unit) => {
        const { as: _, ...rest } = one;
        for (const wanted of presentations(kind, unit)) {
          const made = presentedAs({ sentences: { a: one } }, kind, wanted);
          expect(presentationOf(made, kind, unit)).toEqual(wanted);
          const { as: __, ...kept } = made.sentences["a"] as Sentence;
          expect(kept).toEqual(rest);
        }
      },
    ),
  );
});

test("beside an earlier time, every sentence is read that much earlier than it already was, and nothing else changes (property)", () => {
  fc.assert(
    fc.property(sentence, sentence, fc.constantFrom(...earlierTimes), (a, b, beside) => {
      const document: ReadingDocument = {
        window: { from: 0, to: 1 },
        step: 60,
        extremes: true,
        sentences: { a, b },
        beside,
        figure: "a / b",
        unit: "%",
      };
      const before = earlierDocument(document);
      expect(before).toMatchObject({ window: { from: 0, to: 1 }, step: 60, figure: "a / b", unit: "%" });
      expect(before).not.toHaveProperty("beside");
      for (const [name, one] of [
        ["a", a],
        ["b", b],
      ] as const) {
        const { earlier, ...rest } = (before as ReadingDocument).sentences[name] as Sentence;
        const { earlier: own, ...said } = one;
        expect(rest).toEqual(said);
        expect(spanMs(earlier as string)).toBe(
          (spanMs(beside) as number) + (own === undefined ? 0 : (spanMs(own) as number)),
        );
      }
    }),
  );
});

test("a span in whole seconds is told in its largest unit, and read back as it was (property)", () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 99_999 }),
      fc.constantFrom(1000, 60_000, 3_600_000, 86_400_000),
      (n, unit) => {
        expect(spanMs(spanOfMs(n * unit))).toBe(n * unit);
      },
    ),
  );
});
