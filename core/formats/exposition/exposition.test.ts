import type { Page } from "../../pages/page.ts";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { seeded } from "../../testing/random.ts";
import type { Dialect } from "./families.ts";
import { numberOfBytes } from "./number-bytes.ts";
import { PageReader } from "./page-reader.ts";

const bytesOf = (text: string) => new TextEncoder().encode(text);
const rowsOf = (reader: PageReader, page: Page) =>
  Array.from({ length: page.length }, (_, i) => {
    const { counter, tags, unit, kind } = reader.series[page.which[i] as number] as (typeof reader.series)[0];
    const time = page.timeMs[i] as number;
    return [counter, tags, unit, kind, page.value[i], Number.isNaN(time) ? null : time];
  });
function read(text: string, dialect: Dialect = "openmetrics") {
  const reader = new PageReader(dialect);
  const page = reader.read(bytesOf(text));
  return {
    rows: rowsOf(reader, page),
    leftOut: Object.fromEntries(page.leftOut),
    help: Object.fromEntries(reader.help),
    found: page.found,
  };
}

describe("OpenMetrics 1.0", () => {
  // From memory of the specification's examples, section by section: "Overall Structure", "Counter", "StateSet",
  // "Info", "Histogram", "GaugeHistogram", "Summary".
  test.each([
    [
      "counter",
      "# TYPE foo counter\nfoo_total 17.0 1520879607.789\n# EOF\n",
      [["foo", {}, "1", "total", 17, 1520879607789]],
      {},
    ],
    [
      "counter with its creation",
      "# TYPE foo counter\nfoo_total 17.0\nfoo_created 1520430000.123\n# EOF\n",
      [["foo", {}, "1", "total", 17, null]],
      { "times of creation": 1 },
    ],
    [
      "unit",
      '# TYPE foo_seconds counter\n# UNIT foo_seconds seconds\n# HELP foo_seconds Some text and \\n some \\" escaping\nfoo_seconds_total 1.0\n# EOF\n',
      [["foo_seconds", {}, "s", "total", 1, null]],
      {},
    ],
    [
      "exemplars at buckets",
      '# TYPE foo histogram\nfoo_bucket{le="0.01"} 0\nfoo_bucket{le="0.1"} 8 # {} 0.054\nfoo_bucket{le="1"} 11 # {trace_id="KOO5S4vxi0o"} 0.67\nfoo_bucket{le="10"} 17 # {trace_id="oHg5SJYRHA0"} 9.8 1520879607.789\nfoo_bucket{le="+Inf"} 17\nfoo_count 17\nfoo_sum 324789.3\nfoo_created 1520430000.123\n# EOF\n',
      [
        ["foo", { le: "0.01" }, "1", "distribution", 0, null],
        ["foo", { le: "0.1" }, "1", "distribution", 8, null],
        ["foo", { le: "1" }, "1", "distribution", 11, null],
        ["foo", { le: "10" }, "1", "distribution", 17, null],
        ["foo", { le: "+Inf" }, "1", "distribution", 17, null],
        ["foo.count", {}, "1", "total", 17, null],
        ["foo.sum", {}, "1", "total", 324789.3, null],
      ],
      { exemplars: 3, "times of creation": 1 },
    ],
    [
      "stateset",
      '# TYPE foo stateset\nfoo{foo="a"} 1\nfoo{foo="bb"} 0\n# EOF\n',
      [
        ["foo", { state: "a" }, "1", "state", 1, null],
        ["foo", { state: "bb" }, "1", "state", 0, null],
      ],
      {},
    ],
    [
      "info",
      '# TYPE foo info\nfoo_info{name="pretty name",version="8.2.7"} 1\n# EOF\n',
      [["foo", { name: "pretty name", version: "8.2.7" }, "1", "state", 1, null]],
      {},
    ],
    [
      "gaugehistogram",
      '# TYPE foo gaugehistogram\nfoo_bucket{le="0.01"} 20.0\nfoo_bucket{le="+Inf"} 42.0\nfoo_gcount 42.0\nfoo_gsum 3289.3\n# EOF\n',
      [
        ["foo", { le: "0.01" }, "1", "level", 20, null],
        ["foo", { le: "+Inf" }, "1", "level", 42, null],
        ["foo.count", {}, "1", "level", 42, null],
        ["foo.sum", {}, "1", "level", 3289.3, null],
      ],
      {},
    ],
    [
      "summary",
      '# TYPE foo summary\nfoo{quantile="0.95"} 123.7\nfoo_count 17.0\nfoo_sum 324789.3\n# EOF\n',
      [
        ["foo", { quantile: "0.95" }, "1", "level", 123.7, null],
        ["foo.count", {}, "1", "total", 17, null],
        ["foo.sum", {}, "1", "total", 324789.3, null],
      ],
      {},
    ],
    [
      "several points of one metric",
      "# TYPE foo gauge\nfoo 1 1\nfoo 2 2.5\n# EOF\n",
      [
        ["foo", {}, "1", "level", 1, 1000],
        ["foo", {}, "1", "level", 2, 2500],
      ],
      {},
    ],
    [
      "escapes in labels",
      '# TYPE foo gauge\nfoo{a="q\\"b\\\\c\\nd\\e"} 1\n# EOF\n',
      [["foo", { a: 'q"b\\c\nd\\e' }, "1", "level", 1, null]],
      {},
    ],
    [
      "no comments: unknown",
      "foo 1\nbar_total 2\n# EOF\n",
      [
        ["foo", {}, "1", "level", 1, null],
        ["bar", {}, "1", "total", 2, null],
      ],
      {},
    ],
    [
      "numbers",
      "a 1e3\nb +.5\nc -Inf\nd NaN\n# EOF\n",
      [
        ["a", {}, "1", "level", 1000, null],
        ["b", {}, "1", "level", 0.5, null],
        ["c", {}, "1", "level", Number.NEGATIVE_INFINITY, null],
      ],
      { "no number (NaN)": 1 },
    ],
    ["a page with nothing", "# EOF\n", [], {}],
  ])("%s", (_name, text, rows, leftOut) => {
    const answer = read(text);
    expect(answer.rows).toEqual(rows);
    expect(answer.leftOut).toEqual(leftOut);
  });

  // What the specification says MUST NOT stand in a page; each is told with its place.
  test.each([
    ["a 1\n", "line 2: the page ends without # EOF: it was cut off"],
    ["a 1", "line 1: the page ends within a line: it was cut off"],
    ["# EOF\na 1\n", "line 2, column 1: text follows # EOF"],
    ["a 1\n\n# EOF\n", "line 2, column 1: an empty line is not allowed here"],
    ["# a remark\n# EOF\n", 'line 1, column 1: "# a remark" is none of # TYPE, # HELP, # UNIT, # EOF'],
    ["# TYPE a gauge\n# TYPE a gauge\n# EOF\n", "line 2, column 1: the type of a is given twice"],
    ["# HELP a x\n# HELP a x\n# EOF\n", "line 2, column 1: the help of a is given twice"],
    ["# TYPE a meter\n# EOF\n", 'line 1, column 10: "meter" is not a type'],
    ["# TYPE a gauge\na 1\n# HELP a late\n# EOF\n", "line 3, column 1: # HELP of a stands after its samples"],
    ["# UNIT a seconds\n# EOF\n", "line 1, column 10: a does not end in its unit, _seconds"],
    ["# TYPE a counter\na 1\n# EOF\n", "line 2, column 1: a sample of the counter a must end in _total or _created"],
    ["# TYPE a counter\na_total -1\n# EOF\n", "line 2, column 9: a_total only grows, -1 cannot be its value"],
    ["# TYPE a counter\na_total NaN\n# EOF\n", "line 2, column 9: a_total only grows, NaN cannot be its value"],
    [
      'a{b="1"} 1\nc 1\na{b="2"} 1\n# EOF\n',
      "line 3, column 1: a was read already; what belongs to it must stand together",
    ],
    ["a 1\na 1\n# EOF\n", "line 2, column 1: a stands there twice with these labels"],
    ["a 1 5\na 1 4\n# EOF\n", "line 2, column 1: a stands there twice with these labels, and its time does not grow"],
    ['a{b="1",b="2"} 1\n# EOF\n', "line 1, column 9: the label b stands there twice"],
    ['a{b="1"\n# EOF\n', "line 1, column 8: the labels have no closing brace"],
    ["a{b=1} 1\n# EOF\n", "line 1, column 5: the value of the label b is not in quotes"],
    ['a{1b="1"} 1\n# EOF\n', 'line 1, column 3: "1b=\\"1\\"} 1" is not a label'],
    ["a\n# EOF\n", "line 1, column 2: the value is missing"],
    [" a 1\n# EOF\n", 'line 1, column 1: a sample begins with a name, not with " a 1"'],
    ["a  1\n# EOF\n", 'line 1, column 3: "" is not a number'],
    ["a one\n# EOF\n", 'line 1, column 3: "one" is not a number'],
    ["a 0x10\n# EOF\n", 'line 1, column 3: "0x10" is not a number'],
    ["a 1 12:60\n# EOF\n", 'line 1, column 5: timestamp "12:60" is not a number of seconds'],
    ["a 1 2 3\n# EOF\n", 'line 1, column 7: "3" is too much'],
    ['# TYPE a histogram\na_bucket{le="1"} 1\na_count 1\na_sum 1\n# EOF\n', "the buckets of a have none for +Inf"],
    [
      '# TYPE a histogram\na_bucket{le="1"} 3\na_bucket{le="+Inf"} 2\n# EOF\n',
      "line 3, column 1: the buckets of a_bucket hold 2 up to Infinity, and 3 up to less",
    ],
    [
      '# TYPE a histogram\na_bucket{le="2"} 1\na_bucket{le="1"} 1\n# EOF\n',
      "line 3, column 1: the buckets of a_bucket are not in ascending order of le",
    ],
    [
      '# TYPE a histogram\na_bucket{le="+Inf"} 2\na_count 3\n# EOF\n',
      "line 3, column 1: a_count is 3, and its bucket +Inf 2",
    ],
    ["# TYPE a histogram\na_bucket 2\n# EOF\n", "line 2, column 1: a bucket of a has no label le"],
    [
      '# TYPE a summary\na{quantile="2"} 1\n# EOF\n',
      "line 2, column 1: a sample of the summary a has no label quantile from 0 to 1",
    ],
    ["# TYPE a stateset\na 1\n# EOF\n", "line 2, column 1: a sample of the stateset a has no label a"],
    ['# TYPE a gauge\na 1 # {x="y"} 1\n# EOF\n', "line 2, column 3: an exemplar stands only at a counter or a bucket"],
    [
      `# TYPE a counter\na_total 1 # {x="${"y".repeat(128)}"} 1\n# EOF\n`,
      "the labels of an exemplar have 129 characters, 128 are allowed",
    ],
  ])("refuses %j", (text, message) => {
    expect(() => read(text)).toThrow(message);
  });
  test("refuses what is not UTF-8, with the line", () => {
    expect(() =>
      new PageReader("openmetrics").read(
        Uint8Array.of(0x61, 0x7b, 0x62, 0x3d, 0x22, 0xff, 0x22, 0x7d, 0x20, 0x31, 0x0a),
      ),
    ).toThrow("line 1: this is not UTF-8 text");
  });
});

describe("the older text exposition format 0.0.4", () => {
  // From memory of the example in the format's own document.
  const example = `# HELP http_requests_total The total number of HTTP requests.
# TYPE http_requests_total counter
http_requests_total{method="post",code="200"} 1027 1395066363000
http_requests_total{method="post",code="400"}    3 1395066363000

# Escaping in label values:
msdos_file_access_time_seconds{path="C:\\\\DIR\\\\FILE.TXT",error="Cannot find file:\\n\\"FILE.TXT\\""} 1.458255915e9

# Minimalistic line:
metric_without_timestamp_and_labels 12.47

# A weird metric from before the epoch:
something_weird{problem="division by zero"} +Inf -3982045

# A histogram, which has a pretty complex representation in the text format:
# HELP http_request_duration_seconds A histogram of the request duration.
# TYPE http_request_duration_seconds histogram
http_request_duration_seconds_bucket{le="0.05"} 24054
http_request_duration_seconds_bucket{le="+Inf"} 144320
http_request_duration_seconds_sum 53423
http_request_duration_seconds_count 144320

# Finally a summary, which has a complex representation, too:
# HELP rpc_duration_seconds A summary of the RPC duration in seconds.
# TYPE rpc_duration_seconds summary
rpc_duration_seconds{quantile="0.01"} 3102
rpc_duration_seconds_sum 1.7560473e+07
rpc_duration_seconds_count 2693
`;
  test("the worked example", () => {
    const { rows, help } = read(example, "text");
    expect(rows).toEqual([
      ["http_requests", { method: "post", code: "200" }, "1", "total", 1027, 1395066363000],
      ["http_requests", { method: "post", code: "400" }, "1", "total", 3, 1395066363000],
      [
        "msdos_file_access_time_seconds",
        { path: "C:\\DIR\\FILE.TXT", error: 'Cannot find file:\n"FILE.TXT"' },
        "s",
        "level",
        1.458255915e9,
        null,
      ],
      ["metric_without_timestamp_and_labels", {}, "1", "level", 12.47, null],
      ["something_weird", { problem: "division by zero" }, "1", "level", Number.POSITIVE_INFINITY, -3982045],
      ["http_request_duration_seconds", { le: "0.05" }, "1", "distribution", 24054, null],
      ["http_request_duration_seconds", { le: "+Inf" }, "1", "distribution", 144320, null],
      ["http_request_duration_seconds.sum", {}, "s", "total", 53423, null],
      ["http_request_duration_seconds.count", {}, "1", "total", 144320, null],
      ["rpc_duration_seconds", { quantile: "0.01" }, "s", "level", 3102, null],
      ["rpc_duration_seconds.sum", {}, "s", "total", 1.7560473e7, null],
      ["rpc_duration_seconds.count", {}, "1", "total", 2693, null],
    ]);
    expect(help["http_requests"]).toBe("The total number of HTTP requests.");
  });
  test.each([
    [
      "blanks and tabs, a comma at the end, no newline at the end",
      ' a { b = "1" , } \t 5 \t 1000 ',
      [["a", { b: "1" }, "1", "level", 5, 1000]],
    ],
    [
      "lines that end as on Windows",
      "a 1\r\nb 2\r\n",
      [
        ["a", {}, "1", "level", 1, null],
        ["b", {}, "1", "level", 2, null],
      ],
    ],
    [
      "# EOF is a remark, samples may be apart",
      "# EOF\na 1\nb 1\na 2 5\n",
      [
        ["a", {}, "1", "level", 1, null],
        ["b", {}, "1", "level", 1, null],
        ["a", {}, "1", "level", 2, 5],
      ],
    ],
  ])("%s", (_name, text, rows) => {
    expect(read(text, "text").rows).toEqual(rows);
  });
  test("refuses what is no page", () => {
    expect(() => read("<!doctype html>\n<html>\n", "text")).toThrow(
      'line 1, column 1: a sample begins with a name, not with "<!doctype ht"',
    );
    expect(() => read("a 1 1.5\n", "text")).toThrow(
      'line 1, column 5: timestamp "1.5" is not a number of milliseconds',
    );
  });
});

describe("pages that come again", () => {
  const page = (values: readonly number[], more = "") =>
    `# TYPE a gauge\na{n="1"} ${values[0]}\na{n="2"} ${values[1]}\n${more}# TYPE b counter\nb_total ${values[2]}\n# EOF\n`;
  test("known lines keep their index; lines that come and go do not disturb the others", () => {
    const reader = new PageReader("openmetrics");
    const turn = (text: string) =>
      rowsOf(reader, reader.read(bytesOf(text))).map(
        ([counter, tags, , , value]) => `${counter}${(tags as { n?: string }).n ?? ""}=${value}`,
      );
    expect(turn(page([1, 2, 3]))).toEqual(["a1=1", "a2=2", "b=3"]);
    expect(turn(page([4, 5, 6]))).toEqual(["a1=4", "a2=5", "b=6"]);
    expect(turn(page([7, 8, 9], 'a{n="3"} 1\n'))).toEqual(["a1=7", "a2=8", "a3=1", "b=9"]);
    expect(turn(page([7, 8, 10]))).toEqual(["a1=7", "a2=8", "b=10"]);
    expect(turn('# TYPE a gauge\na{n="1"} 1\n# EOF\n')).toEqual(["a1=1"]);
    expect(reader.series).toHaveLength(4);
  });
  test("rules hold for known lines too, and a refused page leaves nothing", () => {
    const reader = new PageReader("openmetrics");
    reader.read(bytesOf(page([1, 2, 3])));
    expect(() => reader.read(bytesOf(page([1, 2, -3])))).toThrow(
      "line 5, column 9: b_total only grows, -3 cannot be its value",
    );
    expect(() => reader.read(bytesOf(`${page([1, 2, 3])}a 1\n`))).toThrow("line 7, column 1: text follows # EOF");
    expect(() => reader.read(bytesOf(page([1, 2, 3]).slice(0, 40)))).toThrow("it was cut off");
    expect(reader.read(bytesOf(page([1, 2, 3]))).length).toBe(3);
  });
  test("a counter whose type changes becomes another series", () => {
    const reader = new PageReader("text");
    reader.read(bytesOf("# TYPE a gauge\na 1\n"));
    const later = reader.read(bytesOf("# TYPE a counter\na 1\n"));
    expect(rowsOf(reader, later)[0]?.[3]).toBe("total");
    expect(later.which[0]).toBe(1);
  });
  test("exemplars of known lines are checked and dropped", () => {
    const reader = new PageReader("openmetrics");
    const text = (n: number) => `# TYPE a counter\na_total ${n} # {t="x${n}"} 1 ${n}.5\n# EOF\n`;
    reader.read(bytesOf(text(1)));
    const again = reader.read(bytesOf(text(2)));
    expect([again.value[0], again.found, again.leftOut.get("exemplars")]).toEqual([2, 1, 1]);
    expect(() => reader.read(bytesOf("# TYPE a counter\na_total 3 # x 1\n# EOF\n"))).toThrow(
      "line 2, column 13: an exemplar begins with its labels in braces",
    );
  });
  test("more tags than allowed and long lines are bounded", () => {
    const reader = new PageReader("text", { lineBytes: 60, tags: 1, newSeries: 50_000 });
    const few = reader.read(bytesOf('a{x="1",y="2"} 1\nb{x="1"} 1\n'));
    expect([few.length, few.found, few.leftOut.get("more tags than allowed")]).toEqual([1, 2, 1]);
    expect(() => reader.read(bytesOf(`a{x="${"1".repeat(80)}"} 1\n`))).toThrow(
      "line 1: the line is longer than 60 bytes",
    );
    expect(() => reader.read(bytesOf("a".repeat(200)))).toThrow("line 1: the line is longer than 60 bytes");
  });

  // The careful reading of a fresh reader is the oracle of the remembered one, however the page is cut into pieces.
  test.each([1, 2, 3, 4, 5, 6])("random pages in random pieces, seed %i", (seed) => {
    const random = seeded(seed);
    const upTo = (n: number) => Math.floor(random() * n);
    const dialect: Dialect = seed % 2 === 0 ? "text" : "openmetrics";
    const remembering = new PageReader(dialect);
    for (let round = 0; round < 60; round++) {
      let text = "";
      for (let family = 0; family < 6; family++) {
        if (upTo(8) === 0) continue;
        const type = ["gauge", "counter"][family % 2] as string;
        text += `# TYPE f${family} ${type}\n# HELP f${family} h${upTo(20) === 0 ? "x" : "é"}\n`;
        for (let i = 0; i < 5; i++)
          if (upTo(12) > 0)
            text += `f${family}${type === "counter" && dialect === "openmetrics" ? "_total" : ""}{i="ü${i}"} ${(random() * 1e6).toFixed(upTo(9))}${upTo(2) ? ` ${1000 + upTo(5)}` : ""}\n`;
      }
      if (dialect === "openmetrics") text += "# EOF\n";
      const bytes = bytesOf(text);
      remembering.begin();
      for (let at = 0; at < bytes.length; ) {
        const size = 1 + upTo(120);
        remembering.feed(bytes.subarray(at, at + size));
        at += size;
      }
      const fresh = new PageReader(dialect);
      expect(rowsOf(remembering, remembering.end())).toEqual(rowsOf(fresh, fresh.read(bytes)));
    }
  });
});

describe("numbers", () => {
  test("any double that is written is read back to the same bits; ECMAScript's own reading is the oracle (property)", () => {
    const written = fc.oneof(
      fc.double({ noNaN: true }).map(String),
      fc
        .tuple(fc.integer({ min: -1e9, max: 1e9 }), fc.integer({ min: 0, max: 12 }))
        .map(([n, digits]) => (n / 10 ** digits).toFixed(digits)),
      fc.tuple(fc.integer(), fc.integer({ min: -40, max: 40 })).map(([n, e]) => `${n}e${e}`),
    );
    fc.assert(
      fc.property(written, (text) => {
        const bytes = bytesOf(`x${text}y`);
        expect(Object.is(numberOfBytes(bytes, 1, bytes.length - 1), Number(text))).toBe(true);
      }),
      { numRuns: 5000, seed: 11 },
    );
  });
  test.each(["", "-", ".", "1e", "1e+", "e5", "1.2.3", "1 2", "--1", "0x1", "1_000", "infin", "1f"])(
    "%j is none",
    (text) => {
      expect(numberOfBytes(bytesOf(text), 0, text.length)).toBe(undefined);
    },
  );
});
