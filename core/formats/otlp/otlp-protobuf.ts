import protobuf from "protobufjs/light.js";
import { type MetricsRequest, OtlpError } from "./otlp-messages.ts";

type Field = readonly [number: number, type: string, rule?: "repeated"];

/**
 * Field numbers of opentelemetry-proto 1.x: collector/metrics/v1/metrics_service.proto, metrics/v1/metrics.proto,
 * resource/v1, common/v1; google/rpc/status.proto.
 */
const messages: Readonly<Record<string, Readonly<Record<string, Field>>>> = {
  MetricsRequest: { resourceMetrics: [1, "ResourceMetrics", "repeated"] },
  ResourceMetrics: { resource: [1, "Resource"], scopeMetrics: [2, "ScopeMetrics", "repeated"] },
  Resource: { attributes: [1, "KeyValue", "repeated"] },
  ScopeMetrics: { metrics: [2, "Metric", "repeated"] },
  Metric: {
    name: [1, "string"],
    description: [2, "string"],
    unit: [3, "string"],
    gauge: [5, "Gauge"],
    sum: [7, "Sum"],
    histogram: [9, "Histogram"],
    exponentialHistogram: [10, "ExponentialHistogram"],
    summary: [11, "Summary"],
  },
  Gauge: { dataPoints: [1, "NumberPoint", "repeated"] },
  Sum: { dataPoints: [1, "NumberPoint", "repeated"], aggregationTemporality: [2, "int32"], isMonotonic: [3, "bool"] },
  Histogram: { dataPoints: [1, "HistogramPoint", "repeated"], aggregationTemporality: [2, "int32"] },
  ExponentialHistogram: { dataPoints: [1, "ExponentialPoint", "repeated"], aggregationTemporality: [2, "int32"] },
  Summary: { dataPoints: [1, "SummaryPoint", "repeated"] },
  NumberPoint: {
    attributes: [7, "KeyValue", "repeated"],
    startTimeUnixNano: [2, "fixed64"],
    timeUnixNano: [3, "fixed64"],
    asDouble: [4, "double"],
    asInt: [6, "sfixed64"],
    exemplars: [5, "Ignored", "repeated"],
    flags: [8, "uint32"],
  },
  HistogramPoint: {
    attributes: [9, "KeyValue", "repeated"],
    startTimeUnixNano: [2, "fixed64"],
    timeUnixNano: [3, "fixed64"],
    count: [4, "fixed64"],
    sum: [5, "double"],
    bucketCounts: [6, "fixed64", "repeated"],
    explicitBounds: [7, "double", "repeated"],
    exemplars: [8, "Ignored", "repeated"],
    flags: [10, "uint32"],
  },
  ExponentialPoint: {
    attributes: [1, "KeyValue", "repeated"],
    startTimeUnixNano: [2, "fixed64"],
    timeUnixNano: [3, "fixed64"],
    count: [4, "fixed64"],
    sum: [5, "double"],
    scale: [6, "sint32"],
    zeroCount: [7, "fixed64"],
    positive: [8, "Buckets"],
    negative: [9, "Buckets"],
    flags: [10, "uint32"],
    exemplars: [11, "Ignored", "repeated"],
    zeroThreshold: [14, "double"],
  },
  Buckets: { offset: [1, "sint32"], bucketCounts: [2, "uint64", "repeated"] },
  SummaryPoint: {
    attributes: [7, "KeyValue", "repeated"],
    startTimeUnixNano: [2, "fixed64"],
    timeUnixNano: [3, "fixed64"],
    count: [4, "fixed64"],
    sum: [5, "double"],
    quantileValues: [6, "QuantileValue", "repeated"],
    flags: [8, "uint32"],
  },
  QuantileValue: { quantile: [1, "double"], value: [2, "double"] },
  KeyValue: { key: [1, "string"], value: [2, "AnyValue"] },
  AnyValue: {
    stringValue: [1, "string"],
    boolValue: [2, "bool"],
    intValue: [3, "int64"],
    doubleValue: [4, "double"],
    arrayValue: [5, "ArrayValue"],
    kvlistValue: [6, "KeyValueList"],
    bytesValue: [7, "bytes"],
  },
  ArrayValue: { values: [1, "AnyValue", "repeated"] },
  KeyValueList: { values: [1, "KeyValue", "repeated"] },
  Ignored: {},
  MetricsResponse: { partialSuccess: [1, "PartialSuccess"] },
  PartialSuccess: { rejectedDataPoints: [1, "int64"], errorMessage: [2, "string"] },
  Status: { code: [1, "int32"], message: [2, "string"] },
};

const root = new protobuf.Root();
for (const [name, fields] of Object.entries(messages)) {
  const type = new protobuf.Type(name);
  for (const [field, [id, kind, rule]] of Object.entries(fields)) type.add(new protobuf.Field(field, id, kind, rule));
  root.add(type);
}
const typeOf = (name: keyof typeof messages) => root.lookupType(name);

/** Values that were not in the message are absent here as well: a sum of 0 and no sum are different things. */
const asPlain = { longs: Number, defaults: false, arrays: false } as const;

/** Reads a request in the protobuf encoding. Throws OtlpError. */
export function readProtobufRequest(bytes: Uint8Array): MetricsRequest {
  const type = typeOf("MetricsRequest");
  try {
    return type.toObject(type.decode(bytes), asPlain) as MetricsRequest;
  } catch (error) {
    throw new OtlpError(`this is no OTLP request in protobuf: ${(error as Error).message}`);
  }
}

export interface MetricsResponse {
  readonly partialSuccess?: { readonly rejectedDataPoints: number; readonly errorMessage: string };
}

export function writeProtobufResponse(response: MetricsResponse): Uint8Array {
  return typeOf("MetricsResponse").encode(response).finish();
}

/** The body of an error in the protobuf encoding: google.rpc.Status. */
export function writeProtobufStatus(message: string, code: number): Uint8Array {
  return typeOf("Status").encode({ code, message }).finish();
}

/** A request in the protobuf encoding. */
export function writeProtobufRequest(request: MetricsRequest): Uint8Array {
  const type = typeOf("MetricsRequest");
  return type.encode(type.fromObject(request)).finish();
}

/** Reads what a receiver answers in the protobuf encoding; undefined where that is no answer of OTLP. */
export function readProtobufResponse(bytes: Uint8Array): MetricsResponse | undefined {
  const type = typeOf("MetricsResponse");
  try {
    return type.toObject(type.decode(bytes), { longs: Number, defaults: true }) as MetricsResponse;
  } catch {
    return undefined;
  }
}
