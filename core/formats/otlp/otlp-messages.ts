/**
 * A request of OTLP metrics as both encodings give it (opentelemetry-proto, collector/metrics/v1 and metrics/v1): names
 * as in the JSON
 * encoding. Whole numbers of 64 bits are numbers here: counts beyond 2^53 and nanoseconds lose their last digits, which
 * no chart shows.
 */
export interface MetricsRequest {
  readonly resourceMetrics?: readonly ResourceMetrics[];
}

interface ResourceMetrics {
  readonly resource?: { readonly attributes?: readonly KeyValue[] };
  readonly scopeMetrics?: readonly { readonly metrics?: readonly Metric[] }[];
}

export interface Metric {
  readonly name?: string;
  readonly description?: string;
  readonly unit?: string;
  readonly gauge?: { readonly dataPoints?: readonly NumberPoint[] };
  readonly sum?: {
    readonly dataPoints?: readonly NumberPoint[];
    readonly aggregationTemporality?: Temporality;
    readonly isMonotonic?: boolean;
  };
  readonly histogram?: {
    readonly dataPoints?: readonly HistogramPoint[];
    readonly aggregationTemporality?: Temporality;
  };
  readonly exponentialHistogram?: {
    readonly dataPoints?: readonly ExponentialPoint[];
    readonly aggregationTemporality?: Temporality;
  };
  readonly summary?: { readonly dataPoints?: readonly SummaryPoint[] };
}

/** 0 unspecified, 1 delta, 2 cumulative; in JSON also by name. */
export type Temporality = number | string;
type Whole = number | string;

export interface Point {
  readonly attributes?: readonly KeyValue[];
  readonly startTimeUnixNano?: Whole;
  readonly timeUnixNano?: Whole;
  readonly flags?: number;
  readonly exemplars?: readonly unknown[];
}
export interface NumberPoint extends Point {
  readonly asDouble?: number | string;
  readonly asInt?: Whole;
}
export interface HistogramPoint extends Point {
  readonly count?: Whole;
  readonly sum?: number;
  readonly bucketCounts?: readonly Whole[];
  readonly explicitBounds?: readonly number[];
}
export interface ExponentialPoint extends Point {
  readonly count?: Whole;
  readonly sum?: number;
  readonly scale?: number;
  readonly zeroCount?: Whole;
  readonly zeroThreshold?: number;
  readonly positive?: Buckets;
  readonly negative?: Buckets;
}
export interface Buckets {
  readonly offset?: number;
  readonly bucketCounts?: readonly Whole[];
}
export interface SummaryPoint extends Point {
  readonly count?: Whole;
  readonly sum?: number;
  readonly quantileValues?: readonly { readonly quantile?: number; readonly value?: number }[];
}
export interface KeyValue {
  readonly key?: string;
  readonly value?: AnyValue;
}
export interface AnyValue {
  readonly stringValue?: string;
  readonly boolValue?: boolean;
  readonly intValue?: Whole;
  readonly doubleValue?: number;
  readonly arrayValue?: { readonly values?: readonly AnyValue[] };
  readonly kvlistValue?: { readonly values?: readonly KeyValue[] };
  readonly bytesValue?: unknown;
}

/** A body that is no request of OTLP; the message says where. */
export class OtlpError extends Error {
  override name = "OtlpError";
}
