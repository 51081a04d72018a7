import fc from "fast-check";
import { describe, expect, test } from "vitest";
import type { TaggedValues } from "./combine.ts";
import { keptLines, restTag } from "./kept-lines.ts";

const line = (name: string, ...values: number[]): TaggedValues => ({
  tags: { machine: name },
  values: Float64Array.from(values),
});
const mean = ({ values }: TaggedValues): number | null => {
  const known = [...values].filter((v) => !Number.isNaN(v));
  return known.length === 0 ? null : known.reduce((a, b) => a + b, 0) / known.length;
};
const gap = Number.NaN;
const lines = [
  line("hive", 4, 6),
  line("vault", 1, 2),
  line("mast", 3, gap),
  line("gate", 2, 3),
  line("gone", gap, gap),
];
const told = (all: readonly TaggedValues[]) => all.map(({ tags, values }) => [Object.values(tags)[0], ...values]);

describe("of five lines, one without a value", () => {
  test.each<[string, Parameters<typeof keptLines>[1], unknown[][]]>([
    [
      "the highest",
      { highest: 2 },
      [
        ["hive", 4, 6],
        ["mast", 3, gap],
      ],
    ],
    ["the lowest", { lowest: 1 }, [["vault", 1, 2]]],
    [
      "the highest and the rest, added up",
      { highest: 2, rest: true },
      [
        ["hive", 4, 6],
        ["mast", 3, gap],
        ["2 others", 3, 5],
      ],
    ],
    [
      "one other",
      { highest: 3, rest: true },
      [
        ["hive", 4, 6],
        ["mast", 3, gap],
        ["gate", 2, 3],
        ["1 other", 1, 2],
      ],
    ],
    [
      "no rest where all are kept",
      { highest: 9, rest: true },
      [
        ["hive", 4, 6],
        ["mast", 3, gap],
        ["gate", 2, 3],
        ["vault", 1, 2],
      ],
    ],
  ])("%s", (_, keep, expected) => {
    expect(told(keptLines(lines, keep, mean))).toEqual(expected);
  });
  test("a step that none of the others knows stays unknown", () => {
    const rest = keptLines([line("a", 9, 9), line("b", 1, gap), line("c", 2, gap)], { highest: 1, rest: true }, mean);
    expect(rest.at(-1)?.tags).toEqual({ [restTag]: "2 others" });
    expect([...(rest.at(-1)?.values ?? [])]).toEqual([3, gap]);
  });
});

test("with the rest, what is drawn on one another ends where all lines would (property)", () => {
  const values = fc.array(fc.integer({ min: 0, max: 1000 }), { minLength: 4, maxLength: 4 });
  fc.assert(
    fc.property(fc.array(values, { minLength: 1, maxLength: 12 }), fc.integer({ min: 1, max: 12 }), (all, highest) => {
      const made = all.map((one, i) => line(`m${i}`, ...one));
      const kept = keptLines(made, { highest, rest: true }, mean);
      for (let i = 0; i < 4; i++)
        expect(kept.reduce((sum, one) => sum + (one.values[i] as number), 0)).toBe(
          all.reduce((sum, one) => sum + (one[i] as number), 0),
        );
    }),
  );
});
