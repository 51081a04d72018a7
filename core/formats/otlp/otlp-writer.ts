import type { CounterKind, Tags } from "../../counters/counter.ts";
import type { KeyValue, Metric, MetricsRequest, NumberPoint } from "./otlp-messages.ts";

/** A series and some of its samples. */
export interface WrittenSeries {
  readonly counter: string;
  readonly unit: string;
  readonly kind: CounterKind;
  readonly tags: Tags;
  readonly timeMs: ArrayLike<number>;
  readonly value: ArrayLike<number>;
}

/** AGGREGATION_TEMPORALITY_CUMULATIVE of opentelemetry-proto, metrics/v1. */
const cumulative = 2;
/** The attribute of a resource by which semantic conventions name a machine. */
const hostName = "host.name";

/**
 * A request of OTLP metrics: a resource for each machine, a metric for each counter. What only grows is a monotonic sum
 * since a moment that is not known, all else a gauge.
 */
export function metricsRequestOf(written: readonly WrittenSeries[]): MetricsRequest {
  const byMachine = new Map<string, Map<string, Metric & { points: NumberPoint[] }>>();
  for (const { counter, unit, kind, tags, timeMs, value } of written) {
    const { machine = "", ...others } = tags;
    const metrics = byMachine.get(machine) ?? new Map<string, Metric & { points: NumberPoint[] }>();
    byMachine.set(machine, metrics);
    const key = `${counter}\0${unit}\0${kind === "total"}`;
    let metric = metrics.get(key);
    if (!metric) {
      const points: NumberPoint[] = [];
      const data =
        kind === "total"
          ? { sum: { dataPoints: points, aggregationTemporality: cumulative, isMonotonic: true } }
          : { gauge: { dataPoints: points } };
      metrics.set(key, (metric = { name: counter, unit, ...data, points }));
    }
    const attributes = attributesOf(others);
    for (let i = 0; i < timeMs.length; i++)
      metric.points.push({
        attributes,
        timeUnixNano: `${Math.round(timeMs[i] as number)}000000`,
        asDouble: value[i] as number,
      });
  }
  return {
    resourceMetrics: [...byMachine].map(([machine, metrics]) => ({
      resource: { attributes: attributesOf(machine === "" ? {} : { [hostName]: machine }) },
      scopeMetrics: [{ metrics: [...metrics.values()].map(({ points: _, ...metric }) => metric) }],
    })),
  };
}

const attributesOf = (tags: Tags): readonly KeyValue[] =>
  Object.entries(tags).map(([key, stringValue]) => ({ key, value: { stringValue } }));
