import { expect, test } from "vitest";
import type { CounterKind } from "../../counters/counter.ts";
import { readProtobufRequest, writeProtobufRequest } from "./otlp-protobuf.ts";
import { OtlpReader } from "./otlp-reader.ts";
import { metricsRequestOf } from "./otlp-writer.ts";

// The reader is held to the official exporter's requests by host-metrics.test.ts, and takes the host's name for the
// machine: what it reads back is what was meant.

const series = (
  counter: string,
  kind: CounterKind,
  tags: Readonly<Record<string, string>>,
  value: readonly number[],
) => ({
  ...{ counter, kind, unit: kind === "total" ? "s" : "By", tags, value },
  timeMs: value.map((_, i) => 1_796_000_000_000 + i * 5000),
});
const written = [
  series("system.cpu.time", "total", { machine: "vault", mode: "user" }, [10.5, 11.25]),
  series("system.cpu.time", "total", { machine: "vault", mode: "idle" }, [90, 91]),
  series("pool.size", "level", { machine: "hive" }, [2 ** 40 + 1, 0]),
];

test("what is written is read back: names, units, kinds, tags, times to the millisecond, values to the last bit", () => {
  const reader = new OtlpReader();
  const { page } = reader.read(readProtobufRequest(writeProtobufRequest(metricsRequestOf(written))));
  const rows = Array.from({ length: page.length }, (_, i) => {
    const { counter, tags, unit, kind } = reader.series[page.which[i] as number] as (typeof reader.series)[0];
    return [counter, unit, kind, JSON.stringify(tags), page.timeMs[i], page.value[i]];
  });
  const meant = written.flatMap(({ counter, unit, kind, tags: { machine, ...tags }, timeMs, value }) =>
    value.map((one, i) => [counter, unit, kind, JSON.stringify({ machine, ...tags }), timeMs[i], one]),
  );
  const sorted = (list: readonly unknown[][]) => list.map((row) => row.join(" ")).sort();
  expect(sorted(rows)).toEqual(sorted(meant));
});

test("a machine is a resource, a counter one metric of it with all its lines (opentelemetry-proto metrics/v1)", () => {
  const { resourceMetrics } = metricsRequestOf(written);
  expect(resourceMetrics?.map(({ resource }) => resource?.attributes)).toEqual([
    [{ key: "host.name", value: { stringValue: "vault" } }],
    [{ key: "host.name", value: { stringValue: "hive" } }],
  ]);
  const [metric, ...others] = resourceMetrics?.[0]?.scopeMetrics?.[0]?.metrics ?? [];
  expect(others).toEqual([]);
  expect(metric?.sum).toMatchObject({ aggregationTemporality: 2, isMonotonic: true });
  expect(metric?.sum?.dataPoints).toHaveLength(4);
});

test("nothing is a request of nothing", () => {
  expect(metricsRequestOf([])).toEqual({ resourceMetrics: [] });
});
