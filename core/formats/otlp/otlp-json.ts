import { type MetricsRequest, OtlpError } from "./otlp-messages.ts";

/** What stands at a name: a text, a number (64-bit ones as texts too), truth, a list of messages, a message. */
const shapes: Readonly<Record<string, "list" | "message" | "text" | "truth" | "number" | "numbers" | "whole or text">> =
  {
    resourceMetrics: "list",
    scopeMetrics: "list",
    metrics: "list",
    dataPoints: "list",
    attributes: "list",
    values: "list",
    quantileValues: "list",
    exemplars: "list",
    resource: "message",
    gauge: "message",
    sum: "message",
    histogram: "message",
    exponentialHistogram: "message",
    summary: "message",
    positive: "message",
    negative: "message",
    arrayValue: "message",
    kvlistValue: "message",
    name: "text",
    description: "text",
    unit: "text",
    key: "text",
    stringValue: "text",
    isMonotonic: "truth",
    boolValue: "truth",
    timeUnixNano: "number",
    startTimeUnixNano: "number",
    asInt: "number",
    asDouble: "number",
    count: "number",
    zeroCount: "number",
    scale: "number",
    offset: "number",
    zeroThreshold: "number",
    quantile: "number",
    intValue: "number",
    doubleValue: "number",
    flags: "number",
    bucketCounts: "numbers",
    explicitBounds: "numbers",
    aggregationTemporality: "whole or text",
  };
const deepest = 40;
const special = /^(NaN|-?Infinity)$/;
const decimal = /^-?\d+(\.\d+)?([eE][+-]?\d+)?$/;

/**
 * Reads a request in the JSON encoding (protocol buffers' JSON mapping: names in lowerCamelCase, 64-bit numbers also as
 * texts). Throws OtlpError with the field's path.
 */
export function readJsonRequest(text: string): MetricsRequest {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (error) {
    throw new OtlpError(`this is not JSON: ${(error as Error).message}`);
  }
  if (!isMessage(value)) throw new OtlpError("this is no OTLP request: it should be an object with resourceMetrics");
  check(value, "", 0);
  return value as MetricsRequest;
}

function check(message: Record<string, unknown>, path: string, depth: number): void {
  if (depth > deepest) throw new OtlpError(`${path}: this is nested more than ${deepest} deep`);
  for (const [name, value] of Object.entries(message)) {
    const at = path === "" ? name : `${path}.${name}`;
    // A histogram's sum is a number, a metric's a message.
    const shape =
      name === "sum" && typeof value !== "object"
        ? "number"
        : name === "value"
          ? typeof value === "object"
            ? "message"
            : "number"
          : shapes[name];
    if (shape === undefined) continue; // unknown fields are ignored (OTLP specification, "JSON Protobuf Encoding")
    if (value === null) {
      delete message[name]; // null is absent (protocol buffers' JSON mapping)
      continue;
    }
    if (shape === "list") {
      if (!Array.isArray(value)) throw wrong(at, "a list", value);
      for (const [i, one] of value.entries()) {
        if (!isMessage(one)) throw wrong(`${at}[${i}]`, "an object", one);
        check(one, `${at}[${i}]`, depth + 1);
      }
    } else if (shape === "message") {
      if (!isMessage(value)) throw wrong(at, "an object", value);
      check(value, at, depth + 1);
    } else if (shape === "numbers") {
      if (!Array.isArray(value)) throw wrong(at, "a list of numbers", value);
      value.forEach((one, i) => {
        if (!isNumber(one)) throw wrong(`${at}[${i}]`, "a number", one);
      });
    } else if (
      (shape === "number" && !isNumber(value)) ||
      (shape === "text" && typeof value !== "string") ||
      (shape === "truth" && typeof value !== "boolean") ||
      (shape === "whole or text" && typeof value !== "number" && typeof value !== "string")
    ) {
      throw wrong(at, shape === "truth" ? "true or false" : `a ${shape}`, value);
    }
  }
}

function isMessage(value: unknown): value is Record<string, unknown> {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}

function isNumber(value: unknown): boolean {
  return typeof value === "number" || (typeof value === "string" && (decimal.test(value) || special.test(value)));
}

function wrong(path: string, expected: string, got: unknown): OtlpError {
  return new OtlpError(`${path}: ${expected} should stand here, not ${JSON.stringify(got)?.slice(0, 60)}`);
}
