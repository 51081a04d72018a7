import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { TextError } from "../../pages/text-error.ts";
import { PageReader } from "./page-reader.ts";

// Pages made from OpenMetrics 1.0's grammar and its rules for types (sections "MetricFamily", "Counter" to "Summary",
// "Overall Structure"); from memory of them.
const read = (text: string | Uint8Array) => {
  const reader = new PageReader("openmetrics");
  return reader.read(typeof text === "string" ? new TextEncoder().encode(text) : text);
};

describe("pages that break a rule are refused, at the line that breaks it", () => {
  const end = "# EOF\n";
  test.each<[string, string, string]>([
    ["a byte order mark", `\ufeffa 1\n${end}`, "line 1, column 1: a byte order mark"],
    ["a byte order mark within", `a 1\n\ufeffb 1\n${end}`, "line 2, column 1: a byte order mark"],
    [
      "the help of another family between its samples",
      `# TYPE a counter\na_total{x="1"} 1\n# HELP b of b\na_total{x="2"} 2\n${end}`,
      "line 4, column 1: a was read already",
    ],
    [
      "the type of another family between its samples",
      `# TYPE a summary\na_sum{x="1"} 1\n# TYPE b gauge\na_sum{x="2"} 2\n${end}`,
      "line 4, column 1: a was read already",
    ],
    [
      "one family in two places",
      `# TYPE a counter\na_total{x="1"} 1\nb 1\na_total{x="2"} 2\n${end}`,
      "line 4, column 1: a was read already",
    ],
    [
      "its comments in two places",
      `# TYPE a gauge\na 1\n# TYPE b gauge\nb 1\n# TYPE a gauge\na 2\n${end}`,
      "line 5, column 1: a was read already",
    ],
    [
      "a unit on an info",
      `# TYPE a_seconds info\n# UNIT a_seconds seconds\na_seconds_info 1\n${end}`,
      "line 2, column 1: a_seconds is of the type info, which has no unit",
    ],
    [
      "a unit on an info, before its type",
      `# UNIT a_seconds seconds\n# TYPE a_seconds info\na_seconds_info 1\n${end}`,
      "line 2, column 1: a_seconds is of the type info",
    ],
    [
      "a unit on a stateset",
      `# TYPE a_bytes stateset\n# UNIT a_bytes bytes\na_bytes{a_bytes="x"} 1\n${end}`,
      "line 2, column 1: a_bytes is of the type stateset",
    ],
    [
      "a time of creation alone",
      `# TYPE a counter\na_created 1\n${end}`,
      "line 2, column 1: a_created stands there alone",
    ],
    [
      "a time of creation of other labels",
      `# TYPE a counter\na_total{x="1"} 1\na_created{x="2"} 1\n${end}`,
      "line 3, column 1: a_created stands there alone",
    ],
    [
      "a summary's time of creation alone",
      `# TYPE a summary\na_created 1\n# TYPE b gauge\nb 1\n${end}`,
      "line 2, column 1: a_created stands there alone",
    ],
    [
      "a count without buckets",
      `# TYPE a histogram\na_count 1\na_sum 1\n${end}`,
      "line 2, column 1: a_count stands there without buckets",
    ],
    [
      "a gauge's count without buckets",
      `# TYPE a gaugehistogram\na_gcount 1\na_gsum 1\n${end}`,
      "line 2, column 1: a_gcount stands there without buckets",
    ],
    [
      "a histogram's time of creation alone",
      `# TYPE a histogram\na_created 1\n${end}`,
      "line 2, column 1: a_created stands there without buckets",
    ],
    ["an info of 0", `# TYPE a info\na_info{v="1"} 0\n${end}`, "line 2, column 1: the value of the info a is always 1"],
    [
      "two states at once",
      `# TYPE a stateset\na{a="x"} 1\na{a="y"} 1\n${end}`,
      "line 3, column 1: two states of a are 1 at once",
    ],
    ["half a state", `# TYPE a stateset\na{a="x"} 0.5\n${end}`, "line 2, column 1: a state of a is 0 or 1"],
    [
      "a negative count of a summary",
      `# TYPE a summary\na_count -1\na_sum 1\n${end}`,
      "line 2, column 9: a_count only grows",
    ],
    [
      "a negative sum of a summary",
      `# TYPE a summary\na_count 1\na_sum -1\n${end}`,
      "line 3, column 7: a_sum only grows",
    ],
    [
      "a negative quantile's value",
      `# TYPE a summary\na{quantile="0.5"} -1\n${end}`,
      "line 2, column 19: a quantile of a is not below 0",
    ],
    [
      "names that clash: a counter's total",
      `# TYPE a counter\na_total 1\n# TYPE a_total gauge\na_total 1\n${end}`,
      "line 3, column 1: a was read already",
    ],
    [
      "names that clash: a total, then the counter",
      `# TYPE a_total gauge\na_total 1\n# TYPE a counter\na_total 1\n${end}`,
      "line 3, column 1: a, counter, and a_total clash: samples of both could be called a_total",
    ],
    [
      "names that clash: a summary's count",
      `a_count 1\n# TYPE a summary\na_sum 1\n${end}`,
      "line 2, column 1: a, summary, and a_count clash",
    ],
    [
      "a histogram below 0 that has a sum",
      `# TYPE a histogram\na_bucket{le="-1"} 1\na_bucket{le="+Inf"} 1\na_count 1\na_sum -1\n${end}`,
      "line 5, column 1: the histogram a has buckets below 0",
    ],
    [
      "a histogram below 0 that has a sum above",
      `# TYPE a histogram\na_bucket{le="-1"} 1\na_bucket{le="+Inf"} 1\na_count 1\na_sum 1\n${end}`,
      "line 5, column 1: the histogram a has buckets below 0, so it has no sum",
    ],
    [
      "an exemplar without the space before its value",
      `# TYPE a counter\na_total 1 # {x="y"}1\n${end}`,
      "line 2, column 20: a space is missing before the value",
    ],
    [
      "an exemplar whose value is none",
      `# TYPE a counter\na_total 1 # {x="y"} one\n${end}`,
      'line 2, column 21: "one" is not a number',
    ],
    [
      "an exemplar's label without quotes",
      `# TYPE a counter\na_total 1 # {x=y} 1\n${end}`,
      "line 2, column 16: the value of the label x is not in quotes",
    ],
  ])("%s", (_name, text, words) => {
    expect(() => read(text)).toThrow(words);
  });

  test.each<[string, string]>([
    ["# EOF without a line feed", "a 1\n# EOF"],
    [
      "creations after all totals",
      `# TYPE a counter\na_total{x="1"} 1\na_total{x="2"} 1\na_created{x="1"} 1\na_created{x="2"} 1\n${end}`,
    ],
    ["a creation before its total", `# TYPE a counter\na_created 1\na_total 1\n${end}`],
    [
      "one state of each of two sets",
      `# TYPE a stateset\na{a="x",of="1"} 1\na{a="y",of="1"} 0\na{a="x",of="2"} 0\na{a="y",of="2"} 1\n${end}`,
    ],
    ["a quantile that is not known", `# TYPE a summary\na{quantile="0.5"} NaN\na_count 0\na_sum 0\n${end}`],
    [
      "a histogram below 0 without a sum",
      `# TYPE a histogram\na_bucket{le="-1"} 1\na_bucket{le="+Inf"} 1\na_count 1\n${end}`,
    ],
    [
      "a gauge histogram below 0 with a sum",
      `# TYPE a gaugehistogram\na_bucket{le="-1"} 1\na_bucket{le="+Inf"} 1\na_gcount 1\na_gsum -1\n${end}`,
    ],
    ["a summary of counts alone", `# TYPE a summary\na_count 1\na_created 1\n${end}`],
    [
      "families whose names begin alike",
      `# TYPE a counter\na_total 1\n# TYPE a_b counter\na_b_total 1\n# TYPE ab gauge\nab 1\n${end}`,
    ],
  ])("right: %s", (_name, text) => {
    expect(() => read(text)).not.toThrow();
  });
});

test.each([
  [
    "two states at once",
    '# TYPE a stateset\na{a="x"} 1\na{a="y"} 0\n# EOF\n',
    '# TYPE a stateset\na{a="x"} 1\na{a="y"} 1\n# EOF\n',
  ],
  ["an info of 0", "# TYPE a info\na_info 1\n# EOF\n", "# TYPE a info\na_info 0\n# EOF\n"],
  ["a sum below 0", "# TYPE a summary\na_sum 1\n# EOF\n", "# TYPE a summary\na_sum -1\n# EOF\n"],
  [
    "a quantile below 0",
    '# TYPE a summary\na{quantile="0.5"} 1\n# EOF\n',
    '# TYPE a summary\na{quantile="0.5"} -1\n# EOF\n',
  ],
  [
    "a time of creation whose value has gone",
    "# TYPE a counter\na_total 1\na_created 1\n# EOF\n",
    "# TYPE a counter\na_created 1\n# EOF\n",
  ],
])("%s is refused by a reader that has read such a page before, too", (_name, before, page) => {
  const reader = new PageReader("openmetrics");
  const bytes = (text: string) => new TextEncoder().encode(text);
  reader.read(bytes(before));
  reader.read(bytes(before));
  expect(() => reader.read(bytes(page))).toThrow(TextError);
  expect(reader.read(bytes(before)).length).toBeGreaterThan(0);
});

/** A family of each type by the grammar; `n` keeps names apart. */
const labelValue = fc.stringMatching(/^[a-z0-9 .,{}=#-]{0,12}$/);
const number = fc.oneof(
  fc.integer({ min: 0, max: 1e6 }).map(String),
  fc.double({ min: 0, max: 1e9, noNaN: true }).map((value) => value.toExponential()),
);
const family = (n: number) => {
  const name = `f${n}_x`;
  return fc
    .tuple(
      fc.constantFrom("gauge", "counter", "histogram", "gaugehistogram", "summary", "info", "stateset", "unknown"),
      fc.array(labelValue, { minLength: 1, maxLength: 3 }),
      number,
      fc.boolean(),
      fc.boolean(),
    )
    .map(([type, values, value, created, exemplar]) => {
      const lines = [`# TYPE ${name} ${type}`];
      for (const of of new Set(values)) {
        const labels = `l="${of}"`;
        const more = exemplar ? ` # {trace="${n}"} 1 12.5` : "";
        const made = created ? [`${name}_created{${labels}} 1520430000.123`] : [];
        const buckets = (count: string) => [
          `${name}_bucket{${labels},le="0.5"} 1${more}`,
          `${name}_bucket{${labels},le="+Inf"} 3`,
          `${name}${count}{${labels}} 3`,
        ];
        if (type === "counter") lines.push(`${name}_total{${labels}} ${value}${more}`, ...made);
        else if (type === "histogram") lines.push(...buckets("_count"), `${name}_sum{${labels}} ${value}`, ...made);
        else if (type === "gaugehistogram") lines.push(...buckets("_gcount"), `${name}_gsum{${labels}} -${value}`);
        else if (type === "summary")
          lines.push(
            `${name}{${labels},quantile="0.5"} ${value}`,
            `${name}_count{${labels}} 2`,
            `${name}_sum{${labels}} ${value}`,
            ...made,
          );
        else if (type === "info") lines.push(`${name}_info{${labels}} 1`);
        else if (type === "stateset")
          lines.push(`${name}{${labels},${name}="on"} 1`, `${name}{${labels},${name}="off"} 0`);
        else lines.push(`${name}{${labels}} ${value} 1520430000.5`);
      }
      return lines;
    });
};
test("any page that the grammar makes is taken, cold and warm; with two families in each other's midst it is not (property)", () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 2, max: 6 }).chain((count) => fc.tuple(...Array.from({ length: count }, (_, n) => family(n)))),
      (families) => {
        const page = new TextEncoder().encode(`${families.flat().join("\n")}\n# EOF\n`);
        const reader = new PageReader("openmetrics");
        const first = reader.read(page);
        const [length, found] = [first.length, first.found];
        const again = reader.read(page);
        expect([again.length, again.found]).toEqual([length, found]);
        const [a, b] = families as [string[], string[]];
        if (a.length < 3) return;
        const torn = `${[...a.slice(0, -1), ...b, a.at(-1)].join("\n")}\n# EOF\n`;
        expect(() => read(torn)).toThrow(TextError);
      },
    ),
    { seed: 17, numRuns: 300 },
  );
});
