import { quantilesOfBuckets } from "../../reading/buckets.ts";
import { gaussian, seeded } from "../../testing/random.ts";
import { describe, expect, test } from "vitest";
import { readJsonRequest } from "./otlp-json.ts";
import type { Metric, MetricsRequest } from "./otlp-messages.ts";
import { readProtobufRequest, writeProtobufResponse, writeProtobufStatus } from "./otlp-protobuf.ts";
import { OtlpReader } from "./otlp-reader.ts";

const nano = (ms: number) => `${ms}000000`;
const requestOf = (metrics: readonly Metric[], attributes: Readonly<Record<string, string>> = {}): MetricsRequest => ({
  resourceMetrics: [
    {
      resource: {
        attributes: Object.entries(attributes).map(([key, stringValue]) => ({ key, value: { stringValue } })),
      },
      scopeMetrics: [{ metrics }],
    },
  ],
});
function rowsOf(reader: OtlpReader, request: MetricsRequest) {
  const { page, ...counts } = reader.read(request);
  return {
    rows: Array.from({ length: page.length }, (_, i) => {
      const { counter, tags, kind, unit } = reader.series[page.which[i] as number] as (typeof reader.series)[0];
      return [counter, tags, unit, kind, page.timeMs[i], page.value[i]];
    }),
    leftOut: Object.fromEntries(page.leftOut),
    found: page.found,
    ...counts,
  };
}
const sum = (
  values: readonly (readonly [startMs: number, ms: number, value: number])[],
  aggregationTemporality: number | string,
  isMonotonic = true,
): Metric => ({
  name: "beats",
  unit: "{beat}",
  sum: {
    aggregationTemporality,
    isMonotonic,
    dataPoints: values.map(([start, ms, asInt]) => ({
      startTimeUnixNano: nano(start),
      timeUnixNano: nano(ms),
      asInt: String(asInt),
    })),
  },
});

// From memory of the example request in the opentelemetry-proto repository (examples/metrics.json), shortened.
const example = `{"resourceMetrics":[{"resource":{"attributes":[{"key":"service.name","value":{"stringValue":"my.service"}}]},"scopeMetrics":[{"scope":{"name":"my.library","version":"1.0.0","attributes":[{"key":"my.scope.attribute","value":{"stringValue":"some scope attribute"}}]},"metrics":[
{"name":"my.counter","unit":"1","description":"I am a Counter","sum":{"aggregationTemporality":1,"isMonotonic":true,"dataPoints":[{"asDouble":5,"startTimeUnixNano":"1544712660300000000","timeUnixNano":"1544712660300000000","attributes":[{"key":"my.counter.attr","value":{"stringValue":"some value"}}]}]}},
{"name":"my.gauge","unit":"1","description":"I am a Gauge","gauge":{"dataPoints":[{"asDouble":10,"timeUnixNano":"1544712660300000000","attributes":[{"key":"my.gauge.attr","value":{"stringValue":"some value"}}]}]}},
{"name":"my.histogram","unit":"1","description":"I am a Histogram","histogram":{"aggregationTemporality":1,"dataPoints":[{"startTimeUnixNano":"1544712660300000000","timeUnixNano":"1544712660300000000","count":"2","sum":2,"bucketCounts":["1","1"],"explicitBounds":[1],"min":0,"max":2,"attributes":[{"key":"my.histogram.attr","value":{"stringValue":"some value"}}]}]}},
{"name":"my.exponential.histogram","unit":"1","description":"I am an Exponential Histogram","exponentialHistogram":{"aggregationTemporality":1,"dataPoints":[{"startTimeUnixNano":"1544712660300000000","timeUnixNano":"1544712660300000000","count":"3","sum":10,"scale":0,"zeroCount":"1","positive":{"offset":1,"bucketCounts":["0","2"]},"min":0,"max":5,"zeroThreshold":0,"attributes":[]}]}}]}]}]}`;

describe("a request in JSON", () => {
  test("the specification's example: deltas begin with a 0 before them, attributes of the service are tags", () => {
    const reader = new OtlpReader();
    const { rows, leftOut, points } = rowsOf(reader, readJsonRequest(example));
    const at = 1544712660300;
    const tags = { "service.name": "my.service" };
    const counted = { ...tags, "my.counter.attr": "some value" };
    expect(rows).toEqual(
      expect.arrayContaining([
        ["my.counter", counted, "1", "total", at - 1, 0],
        ["my.counter", counted, "1", "total", at, 5],
        ["my.gauge", { ...tags, "my.gauge.attr": "some value" }, "1", "level", at, 10],
        ["my.histogram", { ...tags, "my.histogram.attr": "some value", le: "1" }, "1", "distribution", at, 1],
        ["my.histogram", { ...tags, "my.histogram.attr": "some value", le: "+Inf" }, "1", "distribution", at, 2],
        ["my.histogram.count", { ...tags, "my.histogram.attr": "some value" }, "1", "total", at, 2],
        ["my.histogram.sum", { ...tags, "my.histogram.attr": "some value" }, "1", "total", at, 2],
        // Bucket 2 of scale 0 is (4, 8] (metrics data model, "ExponentialHistogram").
        ["my.exponential.histogram", { ...tags, le: "0" }, "1", "distribution", at, 1],
        ["my.exponential.histogram", { ...tags, le: "4" }, "1", "distribution", at, 1],
        ["my.exponential.histogram", { ...tags, le: "8" }, "1", "distribution", at, 3],
        ["my.exponential.histogram", { ...tags, le: "+Inf" }, "1", "distribution", at, 3],
      ]),
    );
    expect([leftOut, points, reader.help.get("my.counter")]).toEqual([{}, 4, "I am a Counter"]);
  });
  test.each([
    ["[]", "this is no OTLP request"],
    ["{", "this is not JSON"],
    ['{"resourceMetrics":{}}', "resourceMetrics: a list should stand here, not {}"],
    [
      '{"resourceMetrics":[{"scopeMetrics":[{"metrics":[{"name":5}]}]}]}',
      "resourceMetrics[0].scopeMetrics[0].metrics[0].name: a text should stand here, not 5",
    ],
    [
      '{"resourceMetrics":[{"scopeMetrics":[{"metrics":[{"gauge":{"dataPoints":[{"timeUnixNano":"noon"}]}}]}]}]}',
      'resourceMetrics[0].scopeMetrics[0].metrics[0].gauge.dataPoints[0].timeUnixNano: a number should stand here, not "noon"',
    ],
    [
      '{"resourceMetrics":[{"scopeMetrics":[{"metrics":[{"histogram":{"dataPoints":[{"bucketCounts":[1,"x"]}]}}]}]}]}',
      "bucketCounts[1]: a number should stand here",
    ],
    [
      '{"resourceMetrics":[{"scopeMetrics":[{"metrics":[{"sum":{"isMonotonic":"yes"}}]}]}]}',
      "sum.isMonotonic: true or false should stand here",
    ],
  ])("%s is refused: %s", (text, words) => {
    expect(() => readJsonRequest(text)).toThrow(words);
  });
  test("unknown fields are passed over", () => {
    expect(
      rowsOf(
        new OtlpReader(),
        readJsonRequest(
          '{"resourceMetrics":[{"later":[1],"scopeMetrics":[{"metrics":[{"name":"a","gauge":{"dataPoints":[{"timeUnixNano":1000000000,"asInt":7}]}}]}]}]}',
        ),
      ).rows,
    ).toEqual([["a", {}, "1", "level", 1000, 7]]);
  });
});

describe("sums", () => {
  test("deltas of one series are added up; one that comes twice counts once; totals go on over requests", () => {
    const reader = new OtlpReader();
    expect(
      rowsOf(
        reader,
        requestOf([
          sum(
            [
              [1000, 2000, 5],
              [2000, 3000, 7],
            ],
            1,
          ),
        ]),
      ).rows.map(([, , , , ms, value]) => [ms, value]),
    ).toEqual([
      [1001, 0],
      [2000, 5],
      [3000, 12],
    ]);
    expect(
      rowsOf(
        reader,
        requestOf([
          sum(
            [
              [2000, 3000, 7],
              [3000, 4000, 1],
            ],
            "AGGREGATION_TEMPORALITY_DELTA",
          ),
        ]),
      ),
    ).toMatchObject({
      rows: [["beats", {}, "{beat}", "total", 4000, 13]],
      leftOut: { "a delta that was counted already": 1 },
    });
  });
  test("cumulative sums are totals where they only grow, levels where they do not", () => {
    expect(rowsOf(new OtlpReader(), requestOf([sum([[1000, 2000, 5]], 2)])).rows).toEqual([
      ["beats", {}, "{beat}", "total", 2000, 5],
    ]);
    expect(
      rowsOf(new OtlpReader(), requestOf([sum([[1000, 2000, -5]], "AGGREGATION_TEMPORALITY_CUMULATIVE", false)])).rows,
    ).toEqual([["beats", {}, "{beat}", "level", 2000, -5]]);
  });
  test("what cannot be taken is counted, with its reason", () => {
    const bad: Metric[] = [
      { name: "a", sum: { dataPoints: [{ timeUnixNano: nano(1), asInt: 1 }] } },
      { gauge: { dataPoints: [{ timeUnixNano: nano(1), asInt: 1 }] } },
      {
        name: "b",
        gauge: {
          dataPoints: [
            { asInt: 1 },
            { timeUnixNano: nano(1) },
            { timeUnixNano: nano(1), asDouble: "NaN" },
            { timeUnixNano: nano(1), flags: 1 },
          ],
        },
      },
      {
        name: "c",
        histogram: {
          aggregationTemporality: 2,
          dataPoints: [{ timeUnixNano: nano(1), bucketCounts: [1, 2], explicitBounds: [1, 2] }],
        },
      },
    ];
    expect(rowsOf(new OtlpReader(), requestOf(bad))).toEqual({
      rows: [],
      points: 7,
      rejected: 5,
      found: 7,
      leftOut: {
        "neither delta nor cumulative": 1,
        "a metric without a name": 1,
        "a point without a time": 1,
        "a point without a value": 1,
        "no number (NaN)": 1,
        "no recorded value": 1,
        "buckets that do not fit their bounds": 1,
      },
    });
  });
});

describe("exponential histograms", () => {
  const pointOf = (scale: number, offset: number, bucketCounts: number[], negative?: number[]) => ({
    timeUnixNano: nano(1),
    scale,
    positive: { offset, bucketCounts },
    ...(negative && { negative: { offset: 0, bucketCounts: negative } }),
  });
  const at = (reader: OtlpReader, point: object) => {
    const { rows } = rowsOf(
      reader,
      requestOf([{ name: "e", exponentialHistogram: { aggregationTemporality: 2, dataPoints: [point] } }]),
    );
    return Object.fromEntries(
      rows
        .filter(([counter]) => counter === "e")
        .map(([, tags, , , , value]) => [Number((tags as { le: string }).le.replace("+Inf", "Infinity")), value]),
    );
  };
  test("keep their own bounds; a coarser scale keeps those that it has as well", () => {
    const reader = new OtlpReader();
    // Scale 1: two buckets to each power of two; 2 is (2, 2.83], 3 is (2.83, 4], 4 is (4, 5.66].
    expect(at(reader, pointOf(1, 2, [1, 2, 5]))).toEqual({ 2: 0, [2 ** 1.5]: 1, 4: 3, [2 ** 2.5]: 8, Infinity: 8 });
    // Scale 0 has 2 and 4, and 8 is new; scale -1, whose bucket 0 is (1, 4], has 4 alone.
    expect(at(reader, pointOf(0, 1, [4, 6]))).toEqual({ 2: 0, 4: 4, 8: 10, Infinity: 10 });
    expect(at(reader, pointOf(-1, 0, [3]))).toEqual({ 1: 0, 4: 3, Infinity: 3 });
    // Negative bucket 0 of scale 0 is [-2, -1).
    expect(at(new OtlpReader(), pointOf(0, 0, [1], [2]))).toEqual({ "-2": 0, "-1": 2, 1: 2, 2: 3, Infinity: 3 });
  });
  test.each([
    [0, 1],
    [2, 2],
    [3, 3],
    [5, 4],
  ])("a quantile is off by no more than scale %d says (seed %d)", (scale, seed) => {
    const random = seeded(seed);
    const values = Array.from({ length: 4000 }, () => Math.exp(gaussian(random) * (scale > 4 ? 0.4 : 1.5))).sort(
      (a, b) => a - b,
    );
    const counts = new Map<number, number>();
    for (const v of values)
      counts.set(
        Math.ceil(Math.log2(v) * 2 ** scale) - 1,
        (counts.get(Math.ceil(Math.log2(v) * 2 ** scale) - 1) ?? 0) + 1,
      );
    const offset = Math.min(...counts.keys());
    const found = at(
      new OtlpReader(),
      pointOf(
        scale,
        offset,
        Array.from({ length: Math.max(...counts.keys()) - offset + 1 }, (_, k) => counts.get(offset + k) ?? 0),
      ),
    );
    const lines = Object.entries(found).map(([le, value]) => ({
      tags: { le: le === "Infinity" ? "+Inf" : le },
      values: Float64Array.of(value as number),
    }));
    for (const p of [0.01, 0.1, 0.5, 0.9, 0.95, 0.99, 0.999]) {
      const told = quantilesOfBuckets(lines, p).lines[0]?.values[0] as number;
      const true_ = values[Math.ceil(p * values.length) - 1] as number;
      expect(Math.abs(told / true_ - 1), `p ${p}: ${told} for ${true_}`).toBeLessThanOrEqual(2 ** (2 ** -scale) - 1);
    }
  });
  test("of a hostile one no more buckets are kept than 320 a side", () => {
    const found = at(
      new OtlpReader(),
      pointOf(
        20,
        -50_000,
        Array.from({ length: 100_000 }, () => 1),
      ),
    );
    expect(Object.keys(found).length).toBeLessThanOrEqual(322);
    expect(found["Infinity"]).toBe(100_000);
  });
});

describe("protobuf", () => {
  // Bytes by hand after the encoding document of protocol buffers: tag = number * 8 + wire type.
  const text = (number: number, value: string) => [number * 8 + 2, value.length, ...new TextEncoder().encode(value)];
  const message = (number: number, bytes: readonly number[]) => [number * 8 + 2, bytes.length, ...bytes];
  const fixed = (number: number, value: bigint) => [
    number * 8 + 1,
    ...new Uint8Array(new BigUint64Array([value]).buffer),
  ];
  test("a request written byte by byte is read", () => {
    const point = [
      ...fixed(3, 1_544_712_660_300_000_000n),
      ...fixed(6, 42n),
      ...message(7, [...text(1, "room"), ...message(2, text(1, "attic"))]),
    ];
    const metric = [...text(1, "lamps"), ...text(3, "1"), ...message(5, message(1, point))];
    const bytes = Uint8Array.from(
      message(1, [
        ...message(1, message(1, [...text(1, "host.name"), ...message(2, text(1, "mast"))])),
        ...message(2, message(2, metric)),
      ]),
    );
    expect(rowsOf(new OtlpReader(), readProtobufRequest(bytes)).rows).toEqual([
      ["lamps", { machine: "mast", room: "attic" }, "1", "level", 1544712660300, 42],
    ]);
    for (let cut = 1; cut < bytes.length; cut++)
      expect(() => readProtobufRequest(bytes.subarray(0, cut))).toThrow("this is no OTLP request in protobuf");
  });
  test("answers are the specification's: empty for full success, field 1 of a partial one; a Status for errors", () => {
    expect([...writeProtobufResponse({})]).toEqual([]);
    expect([...writeProtobufResponse({ partialSuccess: { rejectedDataPoints: 3, errorMessage: "no" } })]).toEqual([
      0x0a, 6, 0x08, 3, 0x12, 2, 0x6e, 0x6f,
    ]);
    expect([...writeProtobufStatus("no", 3)]).toEqual([0x08, 3, 0x12, 2, 0x6e, 0x6f]);
  });
});
