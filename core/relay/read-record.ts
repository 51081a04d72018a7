import { catalogue } from "../counters/catalogue.ts";
import { isStorable } from "../text/storable.ts";
import type { RelayRecord } from "./relay-wire.ts";

/** A line that a relay sent is no record. */
export class RecordError extends Error {
  override name = "RecordError";
}

const kinds = new Set(["readings", "page", "failed"]);
const farthestMs = 8.64e15;

/** One line of what a relay sends. What JSON cannot say of a value (NaN, infinity) comes as null. Throws RecordError. */
export function readRecord(line: string): RelayRecord {
  let record: Record<string, unknown>;
  try {
    record = JSON.parse(line) as Record<string, unknown>;
  } catch {
    throw new RecordError("it is not JSON");
  }
  if (!isObject(record)) throw new RecordError("it is no object");
  for (const name of ["seq", "source"] as const) must(isCount(record[name]), `"${name}" is no number from 1 on`);
  must(isNumber(record["atMs"]) && Math.abs(record["atMs"] as number) < farthestMs, '"atMs" is no time');
  must(isNumber(record["tookMs"]), '"tookMs" is no number');
  must(kinds.has(record["kind"] as string), '"kind" is none of readings, page, failed');
  must(record["stored"] === undefined || isStored(record["stored"]), '"stored" does not say what was stored');
  if (record["kind"] === "failed") must(isFailure(record["failure"]), '"failure" says no kind, words and remedy');
  if (record["kind"] === "page") {
    must(record["dialect"] === "openmetrics" || record["dialect"] === "text", '"dialect" is not known');
    must(isText(record["bytes"]) && isText(record["contentType"]), '"bytes" or "contentType" is missing');
  }
  if (record["kind"] !== "readings") return record as unknown as RelayRecord;
  must(isText(record["raw"]) && isText(record["rawType"]), '"raw" or "rawType" is missing');
  must(Array.isArray(record["leftOut"]) && record["leftOut"].every(isCounted), '"leftOut" is no list of reasons');
  must(Array.isArray(record["events"]) && record["events"].every(isEvent), '"events" is no list of events');
  must(Array.isArray(record["readings"]) && record["readings"].every(isReading), '"readings" is no list of readings');
  const readings = (record["readings"] as { value: number | null }[]).map((reading) =>
    reading.value === null ? { ...reading, value: Number.NaN } : reading,
  );
  return { ...record, readings } as unknown as RelayRecord;
}

function must(holds: boolean, words: string): void {
  if (!holds) throw new RecordError(words);
}

const isObject = (value: unknown): value is Record<string, unknown> =>
  typeof value === "object" && value !== null && !Array.isArray(value);
const isNumber = (value: unknown) => typeof value === "number" && Number.isFinite(value);
const isCount = (value: unknown) => Number.isSafeInteger(value) && (value as number) > 0;
const isText = (value: unknown) => typeof value === "string";
const isStorableText = (value: unknown) => typeof value === "string" && value !== "" && isStorable(value);
const isCounted = (value: unknown) => Array.isArray(value) && isText(value[0]) && isNumber(value[1]);
const isFailure = (value: unknown) =>
  isObject(value) &&
  isText(value["kind"]) &&
  isText(value["words"]) &&
  isText(value["remedy"]) &&
  isNumber(value["atMs"]);

const isStored = (value: unknown) =>
  isObject(value) &&
  isNumber(value["found"]) &&
  isNumber(value["taken"]) &&
  isObject(value["leftOut"]) &&
  Object.values(value["leftOut"]).every(isNumber);

const isTexts = (value: unknown): value is Record<string, string> =>
  isObject(value) && Object.values(value).every(isText);

function isTags(value: unknown): boolean {
  if (!isObject(value)) return false;
  for (const tag in value)
    if (!isStorable(tag) || !isText(value[tag]) || !isStorable(value[tag] as string)) return false;
  return true;
}

/** What cannot be stored of it is left by itself, as of what is asked here, and the rest is taken. */
function isReading(value: unknown): boolean {
  if (!isObject(value)) return false;
  const { counter, tags, unit, kind } = value;
  return (
    isText(counter) &&
    counter !== "" &&
    isTexts(tags) &&
    (value["value"] === null || isNumber(value["value"])) &&
    // What the catalogue does not know says its own unit and kind.
    ((isText(unit) && kind !== undefined) || catalogue.has(counter as string)) &&
    (kind === undefined || kind === "total" || kind === "level" || kind === "state")
  );
}

const isEvent = (value: unknown) =>
  isObject(value) &&
  isNumber(value["fromMs"]) &&
  isNumber(value["toMs"]) &&
  isStorableText(value["kind"]) &&
  isStorableText(value["text"]) &&
  isTags(value["tags"]);
