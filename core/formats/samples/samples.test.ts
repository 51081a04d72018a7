import type { FileSeries } from "../../pages/file-series.ts";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { anyDouble } from "../../chunk/testing/doubles.ts";
import { CsvReader, CsvWriter } from "./csv-samples.ts";
import { JsonLinesReader, JsonLinesWriter } from "./json-lines-samples.ts";
import { OpenMetricsReader, OpenMetricsWriter } from "./open-metrics-samples.ts";
import type { SampleReader, SampleWriter, TakeSample } from "./sample-format.ts";

const formats: Readonly<
  Record<string, readonly [writer: () => SampleWriter, reader: (take: TakeSample) => SampleReader]>
> = {
  openmetrics: [() => new OpenMetricsWriter(), (take) => new OpenMetricsReader(take)],
  csv: [() => new CsvWriter(), (take) => new CsvReader(take)],
  jsonl: [() => new JsonLinesWriter(), (take) => new JsonLinesReader(take)],
};

type Row = readonly [series: FileSeries, timeMs: number, value: number];

function readAll(make: (take: TakeSample) => SampleReader, text: string): readonly Row[] {
  const rows: Row[] = [];
  const reader = make((series, timeMs, value) => rows.push([series, timeMs, value]));
  const lines = text.split("\n");
  if (lines[lines.length - 1] === "") lines.pop();
  for (const line of lines) reader.line(line);
  reader.end();
  return rows;
}

const tagText = fc.oneof(
  fc.string(),
  fc.constantFrom('a "quoted" one', "back\\slash", "two\nlines", "comma, brace }", "ä€𝄞", ""),
);
const series: fc.Arbitrary<FileSeries> = fc.record({
  counter: fc.constantFrom("system.cpu.time", "system_cpu_time", "a.b_total", "9.lives", "queue.length", "=a", "'b"),
  tags: fc.dictionary(fc.constantFrom("machine", "disk.name", "site", "1st"), tagText),
  unit: fc.constantFrom("By", "1", "s", "%", "{request}"),
  kind: fc.constantFrom("total", "level", "state"),
});

describe.each(Object.entries(formats))("%s", (_name, [writer, reader]) => {
  test("gives back the same samples, whatever their tags and values (property)", () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(series, { maxLength: 4, selector: ({ counter }) => counter }),
        fc.array(fc.tuple(fc.integer({ min: 0, max: 4e12 }), anyDouble), { minLength: 1, maxLength: 8 }),
        (list, samples) => {
          const column = {
            timeMs: Float64Array.from(samples, ([time]) => time),
            value: Float64Array.from(samples, ([, value]) => value),
          };
          const out = writer();
          const text = out.head() + list.map((one) => out.series(one, column)).join("") + out.end();
          const expected = list.flatMap((one) => samples.map(([time, value]) => [one, time, value]));
          expect(readAll(reader, text)).toEqual(expected);
        },
      ),
      { numRuns: 300, seed: 5 },
    );
  });
});

test("CSV: what a spreadsheet would take for a formula is led by an apostrophe, and read as it was (OWASP, CSV injection)", () => {
  const column = { timeMs: Float64Array.of(0), value: Float64Array.of(-5) };
  for (const counter of ["=cmd|' /C calc'!A0", "+1", "-2+3", "@sum", "'quoted", "plain"]) {
    const out = new CsvWriter();
    const text = out.head() + out.series({ counter, tags: {}, unit: "=1", kind: "level" }, column) + out.end();
    for (const field of (text.split("\r\n")[1] as string).split(",").slice(1, 3))
      expect(field.replace(/^"/, "")).not.toMatch(/^[=+\-@]/);
    expect(text).toMatch(/,-5\r\n$/); // a number is a number
    expect(readAll((take) => new CsvReader(take), text)).toEqual([
      [{ counter, tags: {}, unit: "=1", kind: "level" }, 0, -5],
    ]);
  }
});

// From memory of the worked example in the OpenMetrics 1.0 specification, "Overall Structure"; times were added where
// it has none.
const specified = `# TYPE acme_http_router_request_seconds summary
# UNIT acme_http_router_request_seconds seconds
# HELP acme_http_router_request_seconds Latency though all of ACME's HTTP request router.
acme_http_router_request_seconds_sum{path="/api/v1",method="GET"} 9036.32 1395066363.123
acme_http_router_request_seconds_count{path="/api/v1",method="GET"} 807283.0 1395066363
# TYPE go_goroutines gauge
# HELP go_goroutines Number of goroutines that currently exist.
go_goroutines 69 1395066363
# TYPE process_cpu_seconds counter
# UNIT process_cpu_seconds seconds
# HELP process_cpu_seconds Total user and system CPU time spent in seconds.
process_cpu_seconds_total 4.20072246e+06 1395066363
# EOF
`;

describe("OpenMetrics of others", () => {
  test("an example in the manner of the specification is read", () => {
    const rows = readAll((take) => new OpenMetricsReader(take), specified);
    expect(rows.map(([{ counter, kind, tags }, time, value]) => [counter, kind, tags["path"], time, value])).toEqual([
      ["acme_http_router_request_seconds_sum", "level", "/api/v1", 1395066363123, 9036.32],
      ["acme_http_router_request_seconds_count", "level", "/api/v1", 1395066363000, 807283],
      ["go_goroutines", "level", undefined, 1395066363000, 69],
      ["process_cpu_seconds", "total", undefined, 1395066363000, 4200722.46],
    ]);
  });
});

test.each([
  ["openmetrics", "a 1 2\n", "line 2: the text ends without # EOF: it was cut off"],
  ["openmetrics", "# EOF\na 1 2\n", "line 2: text follows # EOF"],
  ["openmetrics", "# REMARK x\n", 'line 1, column 1: "# REMARK x" is none of # TYPE, # HELP, # UNIT, # EOF'],
  ["openmetrics", "{} 1 2\n", "line 1, column 1: a sample begins with a name"],
  ["openmetrics", 'a{b="c" 1 2\n', "line 1, column 2: the labels have no closing brace"],
  ["openmetrics", "a{b=c} 1 2\n", 'line 1, column 3: "b=c" is not a label'],
  ["openmetrics", "a one 2\n", 'line 1, column 3: "one" is not a number'],
  ["openmetrics", "a 1 12:60\n", 'line 1, column 5: timestamp "12:60" is not a number of seconds'],
  ["openmetrics", "a 1\n", "line 1, column 5: a sample without a time cannot be imported"],
  ["csv", "a,b\n", 'line 1: the header is "a,b", it should be "time,counter,unit,kind,tags,value"'],
  ["csv", "time,counter,unit,kind,tags,value\n1,2\n", "line 2: 2 fields, there should be 6"],
  [
    "csv",
    "time,counter,unit,kind,tags,value\nyesterday,a,1,level,{},2\n",
    'line 2, column 1: time "yesterday" is not an ISO 8601 time such as 2026-11-23T16:00:00.000Z',
  ],
  [
    "csv",
    "time,counter,unit,kind,tags,value\n2026-11-23T16:00:00Z,a,1,gauge,{},2\n",
    'line 2: kind "gauge" is none of total, level, state, distribution',
  ],
  [
    "csv",
    "time,counter,unit,kind,tags,value\n2026-11-23T16:00:00Z,a,1,level,[1],2\n",
    'line 2: tags "[1]" are not a JSON object of texts',
  ],
  ["csv", 'time,counter,unit,kind,tags,value\n"2026', "line 2: a field in quotes is not closed"],
  ["jsonl", "{\n", /^line 1: this is not JSON/],
  [
    "jsonl",
    '{"counter":"a","unit":"1","kind":"level","tags":{},"times":[1],"values":[]}\n',
    'line 1: "times" and "values" must be lists of the same length',
  ],
  [
    "jsonl",
    '{"counter":"a","unit":"1","kind":"level","tags":{},"times":[1],"values":["x"]}\n',
    "line 1: values[0] is not a number",
  ],
])("%s: %j is refused with its place", (format, text, message) => {
  expect(() => readAll((formats[format] as (typeof formats)[string])[1], text)).toThrow(message);
});
