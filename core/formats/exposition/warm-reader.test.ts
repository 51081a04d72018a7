import { describe, expect, test } from "vitest";
import { TextError } from "../../pages/text-error.ts";
import { changed } from "../../testing/hostile/changed.ts";
import { seeded } from "../../testing/random.ts";
import type { Dialect } from "./families.ts";
import { PageReader } from "./page-reader.ts";

const utf8 = new TextEncoder();
const text = new TextDecoder();

/** What a reader makes of a page: its samples by their series, or that it refuses it. */
function madeOf(reader: PageReader, page: Uint8Array): unknown {
  try {
    const { which, timeMs, value, length, found, leftOut } = reader.read(page);
    return {
      found,
      leftOut: [...leftOut],
      samples: Array.from({ length }, (_, i) => [reader.series[which[i] as number], timeMs[i], value[i]]),
    };
  } catch (error) {
    if (error instanceof TextError) return "refused";
    throw error;
  }
}

function samePage(dialect: Dialect, before: Uint8Array, page: Uint8Array): void {
  const warm = new PageReader(dialect);
  madeOf(warm, before);
  const fresh = madeOf(new PageReader(dialect), page);
  expect(
    madeOf(warm, page),
    `${JSON.stringify(text.decode(before))} then ${JSON.stringify(text.decode(page))}`,
  ).toEqual(fresh);
  expect(madeOf(warm, page), "the third time").toEqual(fresh);
}

const histogram = (counts: readonly number[], count: number, more = "") =>
  `# TYPE lat histogram\n${counts.map((n, i) => `lat_bucket{le="${i === counts.length - 1 ? "+Inf" : i + 1}"} ${n}\n`).join("")}lat_count ${count}\nlat_sum 3\n${more}# EOF\n`;
const several = (times: readonly number[]) =>
  `# TYPE t gauge\n${times.map((time) => `t{a="b"} 1 ${time}\n`).join("")}# EOF\n`;

describe("a reader that has read a page before accepts the same pages as one that has not", () => {
  test.each<[string, Dialect, string, string]>([
    ["counts of buckets that fall", "openmetrics", histogram([1, 2, 3], 3), histogram([1, 3, 2], 2)],
    ["a count that is not its last bucket's", "openmetrics", histogram([1, 2, 3], 3), histogram([1, 2, 3], 4)],
    [
      "counts that fall where a line is new",
      "openmetrics",
      histogram([5, 6], 6),
      '# TYPE lat histogram\nlat_bucket{le="1"} 5\nlat_bucket{le="2"} 3\nlat_bucket{le="+Inf"} 6\nlat_count 6\nlat_sum 3\n# EOF\n',
    ],
    ["times of one series that do not grow", "openmetrics", several([1, 2, 3]), several([1, 3, 2])],
    ["a series that stands there a second time", "openmetrics", several([1, 2]), several([1, 2, 2])],
    ["a time in parts of a millisecond", "text", "a 1 1795449600000\n", "a 1 1795449600000.5\n"],
    ["a time that is none", "text", "a 1 1795449600000\n", "a 1 x\n"],
    [
      "an exemplar's time that is none",
      "openmetrics",
      '# TYPE a counter\na_total 1 # {t="x"} 1 5\n# EOF\n',
      '# TYPE a counter\na_total 1 # {t="x"} 1 x\n# EOF\n',
    ],
    [
      "a total that falls below zero",
      "openmetrics",
      "# TYPE a counter\na_total 1\n# EOF\n",
      "# TYPE a counter\na_total -1\n# EOF\n",
    ],
  ])("%s", (_name, dialect, before, page) => samePage(dialect, utf8.encode(before), utf8.encode(page)));

  test("pages of several windows, with numbers of every form and one line longer than a window", () => {
    const random = seeded(7);
    const forms = [
      () => String(Math.floor(random() * 1e9)),
      () => (random() * 1000 - 500).toFixed(3),
      () => (random() * 1e12).toExponential(5),
      () => String(random() * 1e-3),
      () => "+Inf",
      () => "NaN",
      () => "12345678901234567890.5",
    ];
    const name = (i: number) => `studio_level{desk="${"x".repeat(i === 900 ? 70_000 : (i * 37) % 61)}",n="${i}"}`;
    const page = () =>
      utf8.encode(
        Array.from({ length: 4000 }, (_, i) => {
          const value = (forms[i % 40 < 33 ? i % 4 : i % forms.length] as () => string)();
          return `${i % 100 === 0 ? `# HELP studio_level of ${i}\n` : ""}${name(i)} ${value}${i % 3 === 0 ? ` ${1_795_449_600_000 + i}` : ""}\n`;
        }).join(""),
      );
    const limits = { lineBytes: 100_000, tags: 40, newSeries: 50_000 };
    const warm = new PageReader("text", limits);
    for (let turn = 0; turn < 4; turn++) {
      const one = page();
      const made = madeOf(warm, one) as { readonly samples: readonly unknown[] };
      expect(made.samples.length).toBeGreaterThan(3800);
      expect(made).toEqual(madeOf(new PageReader("text", limits), one));
      warm.begin();
      for (let at = 0; at < one.length; at += 50_001) warm.feed(one.subarray(at, at + 50_001));
      expect(warm.end().length).toBe(made.samples.length);
    }
  });
  test("eight bytes of NUL are not eight others that are as little a number", () => {
    // As IEEE 754 numbers, eight bytes of zero and a sign alone are both 0.
    const page = (last: number) =>
      Uint8Array.of(...utf8.encode('a{b="'), 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, last, ...utf8.encode('"} 1\n'));
    samePage("text", page(0), page(0x80));
    samePage("text", page(0), page(0));
  });

  const seeds: readonly [Dialect, string][] = [
    [
      "openmetrics",
      `${histogram([1, 2, 3], 3, '# TYPE req counter\nreq_total{code="200"} 7 10 # {trace="x"} 1\nreq_total{code="500"} 1 10\n# TYPE t gauge\nt{a="b"} 1 1\nt{a="b"} 2 2\n')}`,
    ],
    [
      "text",
      '# TYPE mem gauge\nmem{host="a",kind="used"} 12.5 1795449600000\nmem{host="b"} 3\n# HELP up whether\nup 1\nlat_bucket{le="0.1"} 3\n',
    ],
  ];
  test.each(seeds)("%s, changed a little (seeds 1 to 3000)", (dialect, seed) => {
    const page = utf8.encode(seed);
    for (let i = 1; i <= 3000; i++) {
      const random = seeded(i);
      const before = random() < 0.3 ? changed(page, random) : page;
      samePage(dialect, before, changed(page, random));
    }
  });
});
