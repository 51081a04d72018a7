import type { CounterKind } from "../../counters/counter.ts";
import { seriesKey } from "../../counters/series-key.ts";
import type { Page } from "../../pages/page.ts";
import type { FileSeries } from "../../pages/file-series.ts";
import { type BoundCounts, ExponentialBounds } from "./exponential-bounds.ts";
import { type HostContext, type HostPoint, hostPoint, hostUnit, isHostMetric, partOf } from "./host-metrics.ts";
import type {
  AnyValue,
  ExponentialPoint,
  HistogramPoint,
  KeyValue,
  Metric,
  MetricsRequest,
  NumberPoint,
  Point,
  SummaryPoint,
  Temporality,
} from "./otlp-messages.ts";

/**
 * Attributes of a resource that tell its series apart and become tags; the others say what it is made of and are left.
 * `host.name` becomes the machine that the sender names.
 */
const resourceTags: readonly string[] = [
  "service.name",
  "service.namespace",
  "service.instance.id",
  "deployment.environment.name",
  "deployment.environment",
  "container.name",
  "container.id",
  "k8s.namespace.name",
  "k8s.pod.name",
  "k8s.node.name",
  "device.id",
];

/** Data point flag (metrics.proto, DataPointFlags). */
const noRecordedValue = 1;

interface Running {
  total: number;
  timeMs: number;
}

/**
 * Turns requests of OTLP into pages. Cumulative sums that only grow are totals, others levels. Deltas are added up
 * here, per series, starting
 * from a 0 just after their start, which readers take for a restart: what is added up anew after a restart of the
 * server counts once.
 * Histograms become counts up to each bound (`le`), with `.count` and `.sum`; exponential ones keep their own bounds;
 * summaries become levels by `quantile`.
 */
export class OtlpReader {
  readonly series: FileSeries[] = [];
  readonly help = new Map<string, string>();
  readonly #indexes = new Map<string, number>();
  readonly #running: (Running | undefined)[] = [];
  readonly #bounds = new Map<string, ExponentialBounds>();
  readonly #mostTags: number;
  readonly #mostNewSeries: number;
  #newSeries = 0;
  #which: number[] = [];
  #timeMs: number[] = [];
  #value: number[] = [];
  #leftOut = new Map<string, number>();
  /** Of a resource: what its memory's states are together, by their moment. */
  #sizes = new Map<
    string,
    { readonly tags: Readonly<Record<string, string>>; readonly timeMs: number; readonly value: number }
  >();
  #points = 0;
  #rejected = 0;

  constructor(mostTags = 40, mostNewSeries = 50_000) {
    this.#mostTags = mostTags;
    this.#mostNewSeries = mostNewSeries;
  }

  /** What a request says. `points` of it were data points, `rejected` of those could not be taken. */
  read({ resourceMetrics = [] }: MetricsRequest): {
    readonly page: Page;
    readonly points: number;
    readonly rejected: number;
  } {
    this.#which = [];
    this.#timeMs = [];
    this.#value = [];
    this.#leftOut = new Map();
    this.#points = 0;
    this.#rejected = 0;
    this.#newSeries = 0;
    for (const { resource, scopeMetrics = [] } of resourceMetrics) {
      const attributes = tagsOf(resource?.attributes ?? []);
      const own = tagsOfResource(attributes);
      const all = scopeMetrics.flatMap(({ metrics = [] }) => metrics);
      const host = contextOf(all);
      this.#sizes = new Map();
      for (const metric of all)
        this.#metric(metric, metric.name?.startsWith("process.") ? { ...own, ...processTags(attributes) } : own, host);
      // A host's memory is as large as its states together, where its size is not told.
      if (!all.some(({ name }) => name === "system.memory.limit"))
        for (const { tags, timeMs, value } of this.#sizes.values())
          this.#give({ counter: "system.memory.limit", kind: "level", unit: "By", tags }, timeMs, value, null);
    }
    const length = this.#which.length;
    const left = [...this.#leftOut.values()].reduce((sum, n) => sum + n, 0);
    const page = {
      which: Uint32Array.from(this.#which),
      timeMs: Float64Array.from(this.#timeMs),
      value: Float64Array.from(this.#value),
      length,
      found: length + left,
      leftOut: this.#leftOut,
    };
    return { page, points: this.#points, rejected: this.#rejected };
  }

  // biome-ignore lint/complexity/noExcessiveLinesPerFunction: one pass over a page, without a call a line
  #metric(metric: Metric, own: Readonly<Record<string, string>>, host: HostContext): void {
    const { name = "", unit = "", description, gauge, sum, histogram, exponentialHistogram, summary } = metric;
    const points: readonly Point[] =
      gauge?.dataPoints ??
      sum?.dataPoints ??
      histogram?.dataPoints ??
      exponentialHistogram?.dataPoints ??
      summary?.dataPoints ??
      [];
    this.#points += points.length;
    const temporality = temporalityOf(
      sum?.aggregationTemporality ?? histogram?.aggregationTemporality ?? exponentialHistogram?.aggregationTemporality,
    );
    if (name === "") {
      this.#reject(points.length, "a metric without a name");
      return;
    }
    if ((sum || histogram || exponentialHistogram) && temporality === undefined) {
      this.#reject(points.length, "neither delta nor cumulative");
      return;
    }
    if (description) this.help.set(name, description);
    const isDelta = temporality === "delta";
    for (const point of points) {
      const timeMs = millisecondsOf(point.timeUnixNano);
      if (timeMs === undefined) {
        this.#reject(1, "a point without a time");
        continue;
      }
      if (((point.flags ?? 0) & noRecordedValue) !== 0) {
        this.#leave("no recorded value");
        continue;
      }
      const kept: HostPoint = isHostMetric(name)
        ? hostPoint(name, tagsOf(point.attributes ?? []), host)
        : { counter: name, tags: tagsOf(point.attributes ?? []) };
      if (kept.leave !== undefined) {
        this.#leave(kept.leave);
        continue;
      }
      const tags = { ...own, ...kept.tags };
      if (Object.keys(tags).length > this.#mostTags) {
        this.#reject(1, "more tags than allowed");
        continue;
      }
      const startMs = millisecondsOf(point.startTimeUnixNano);
      const give = (
        counter: string,
        kind: CounterKind,
        of: string,
        more: Readonly<Record<string, string>>,
        value: number,
      ) =>
        this.#give(
          { counter, kind, unit: of || "1", tags: { ...tags, ...more } },
          timeMs,
          value,
          isDelta && kind !== "level" ? startMs : null,
        );
      if (gauge || sum) {
        const value = numberOf((point as NumberPoint).asDouble ?? (point as NumberPoint).asInt);
        if (value === undefined) this.#reject(1, "a point without a value");
        else if (sum && isDelta)
          this.#give(
            {
              counter: kept.counter,
              kind: sum.isMonotonic ? "total" : "level",
              unit: hostUnit(kept.counter, unit) || "1",
              tags,
            },
            timeMs,
            value,
            startMs,
          );
        else give(kept.counter, sum?.isMonotonic ? "total" : "level", hostUnit(kept.counter, unit), {}, value);
        if (kept.counter === "system.memory.usage" && value !== undefined && !isDelta)
          this.#addSize(own, timeMs, value);
      } else if (summary) this.#summary(name, unit, point as SummaryPoint, give);
      else {
        const buckets = histogram
          ? explicitBuckets(point as HistogramPoint)
          : this.#exponentialBuckets(seriesKey(name, tags), point as ExponentialPoint);
        if (!buckets) this.#reject(1, "buckets that do not fit their bounds");
        else this.#buckets(name, unit, point as HistogramPoint, buckets, give);
      }
    }
  }

  #addSize(tags: Readonly<Record<string, string>>, timeMs: number, value: number): void {
    const key = `${timeMs} ${seriesKey("", tags)}`;
    this.#sizes.set(key, { tags, timeMs, value: (this.#sizes.get(key)?.value ?? 0) + value });
  }

  #buckets(
    name: string,
    unit: string,
    { count, sum }: HistogramPoint,
    buckets: readonly (readonly [upTo: number, count: number])[],
    give: Give,
  ): void {
    let below = 0;
    for (const [upTo, n] of buckets) {
      below += n;
      give(name, "distribution", "1", { le: upTo === Number.POSITIVE_INFINITY ? "+Inf" : String(upTo) }, below);
    }
    give(`${name}.count`, "total", "1", {}, numberOf(count) ?? below);
    const total = numberOf(sum);
    if (total !== undefined) give(`${name}.sum`, "total", unit, {}, total);
  }

  #summary(name: string, unit: string, { count, sum, quantileValues = [] }: SummaryPoint, give: Give): void {
    for (const { quantile = 0, value = 0 } of quantileValues)
      give(name, "level", unit, { quantile: String(quantile) }, Number(value));
    give(`${name}.count`, "total", "1", {}, numberOf(count) ?? 0);
    give(`${name}.sum`, "total", unit, {}, numberOf(sum) ?? 0);
  }

  #exponentialBuckets(key: string, point: ExponentialPoint): BoundCounts | undefined {
    let bounds = this.#bounds.get(key);
    if (!bounds) this.#bounds.set(key, (bounds = new ExponentialBounds()));
    return bounds.read(point);
  }

  /** `startMs` null: as it is. Else a delta, which began there (undefined: not said). */
  #give(series: FileSeries, timeMs: number, value: number, startMs: number | undefined | null): void {
    if (Number.isNaN(value)) {
      this.#leave("no number (NaN)");
      return;
    }
    const key = seriesKey(series.counter, series.tags);
    let index = this.#indexes.get(key);
    const known = index === undefined ? undefined : this.series[index];
    if (index === undefined || known?.kind !== series.kind || known.unit !== series.unit) {
      if (this.#newSeries++ >= this.#mostNewSeries) {
        this.#leave("more new series than a page may have");
        return;
      }
      index = this.series.push(series) - 1;
      this.#indexes.set(key, index);
    }
    if (startMs === null) {
      this.#put(index, timeMs, value);
      return;
    }
    const running = this.#running[index];
    if (running && timeMs <= running.timeMs) {
      this.#leave("a delta that was counted already");
      return;
    }
    if (!running)
      this.#put(index, Math.min(startMs === undefined || startMs <= 0 ? timeMs - 1 : startMs + 1, timeMs - 1), 0);
    const total = (running?.total ?? 0) + value;
    this.#running[index] = { total, timeMs };
    this.#put(index, timeMs, total);
  }

  #put(index: number, timeMs: number, value: number): void {
    this.#which.push(index);
    this.#timeMs.push(timeMs);
    this.#value.push(value);
  }

  #leave(reason: string): void {
    this.#leftOut.set(reason, (this.#leftOut.get(reason) ?? 0) + 1);
  }

  #reject(points: number, reason: string): void {
    if (points === 0) return;
    this.#rejected += points;
    this.#leftOut.set(reason, (this.#leftOut.get(reason) ?? 0) + points);
  }
}

type Give = (
  counter: string,
  kind: CounterKind,
  unit: string,
  more: Readonly<Record<string, string>>,
  value: number,
) => void;

function explicitBuckets({
  bucketCounts = [],
  explicitBounds = [],
  count,
}: HistogramPoint): readonly (readonly [number, number])[] | undefined {
  if (bucketCounts.length === 0) return [[Number.POSITIVE_INFINITY, numberOf(count) ?? 0]];
  if (
    bucketCounts.length !== explicitBounds.length + 1 ||
    explicitBounds.some((bound, i) => i > 0 && !(Number(bound) > Number(explicitBounds[i - 1])))
  )
    return undefined;
  return bucketCounts.map(
    (n, i) => [i < explicitBounds.length ? Number(explicitBounds[i]) : Number.POSITIVE_INFINITY, Number(n)] as const,
  );
}

function temporalityOf(of: Temporality | undefined): "delta" | "cumulative" | undefined {
  if (of === 1 || of === "AGGREGATION_TEMPORALITY_DELTA") return "delta";
  return of === 2 || of === "AGGREGATION_TEMPORALITY_CUMULATIVE" ? "cumulative" : undefined;
}

function millisecondsOf(nano: number | string | undefined): number | undefined {
  const value = Number(nano ?? 0);
  return value > 0 ? Math.round(value / 1e6) : undefined;
}

function numberOf(value: number | string | undefined): number | undefined {
  return value === undefined || value === null ? undefined : Number(value);
}

function tagsOf(attributes: readonly KeyValue[]): Record<string, string> {
  return Object.fromEntries(
    attributes.filter(({ key }) => key).map(({ key, value }) => [key as string, textOf(value ?? {})]),
  );
}

/** A process is told of by its resource. */
function processTags(all: Readonly<Record<string, string>>): Record<string, string> {
  const name = all["process.executable.name"] ?? all["process.command"] ?? all["service.name"] ?? "the sender itself";
  return { process: name, ...(all["process.pid"] && { pid: all["process.pid"] }) };
}

function contextOf(metrics: readonly Metric[]): HostContext {
  const found = { disks: new Set<string>(), interfaces: new Set<string>() };
  for (const { name = "", sum, gauge } of metrics) {
    if (!name.startsWith("system.disk.") && name !== "system.network.io") continue;
    for (const { attributes = [] } of sum?.dataPoints ?? gauge?.dataPoints ?? []) {
      const part = partOf(name, tagsOf(attributes));
      if (part) found[part.of].add(part.name);
    }
  }
  return found;
}

function tagsOfResource(all: Readonly<Record<string, string>>): Record<string, string> {
  const host = all["host.name"];
  return {
    ...Object.fromEntries(resourceTags.filter((name) => all[name]).map((name) => [name, all[name] as string])),
    ...(host && { machine: host }),
  };
}

function textOf(value: AnyValue): string {
  if (value.stringValue !== undefined) return value.stringValue;
  const plain = value.boolValue ?? value.intValue ?? value.doubleValue;
  if (plain !== undefined) return String(plain);
  if (value.arrayValue) return JSON.stringify((value.arrayValue.values ?? []).map(textOf));
  return value.kvlistValue ? JSON.stringify(tagsOf(value.kvlistValue.values ?? [])) : "";
}
