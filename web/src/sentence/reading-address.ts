import type { ReadingDocument } from "../../../core/reading/document.ts";
import { type Drawn, drawnNames } from "../../../core/drawing/drawings.ts";

/** A reading without its window: that is the rail's. */
export type OpenReading = Omit<ReadingDocument, "window">;

/** The part of an address that opens a reading in Counters. */
export function readingAddress(reading: OpenReading, drawn: Drawn): string {
  const { points: _, extremes: __, ...said } = reading;
  return `/counters?reading=${encodeURIComponent(JSON.stringify(said))}${drawn === "lines" ? "" : `&drawn=${drawn}`}`;
}

/**
 * The reading that an address speaks of; undefined where it speaks of none or cannot be read. What it holds is checked
 * by the server.
 */
export function readingFromSearch(search: URLSearchParams): OpenReading | undefined {
  const text = search.get("reading");
  if (text === null) return undefined;
  try {
    return readingFromText(text);
  } catch {
    return undefined;
  }
}

/** Reads a document's JSON; its window, if it has one, is left out. Throws a sentence that says what is wrong. */
export function readingFromText(text: string): OpenReading {
  let read: unknown;
  try {
    read = JSON.parse(text);
  } catch (error) {
    throw new Error(`This is not JSON: ${(error as Error).message}.`);
  }
  const { window: _, ...reading } = (typeof read === "object" && read !== null ? read : {}) as ReadingDocument;
  if (
    typeof reading.sentences !== "object" ||
    reading.sentences === null ||
    Object.keys(reading.sentences).length === 0
  )
    throw new Error(
      '"sentences" is missing: an object with a sentence under each name, such as {"sentences": {"a": {"counter": "system.network.io"}}}.',
    );
  for (const [name, sentence] of Object.entries(reading.sentences))
    if (typeof sentence?.counter !== "string")
      throw new Error(`"sentences.${name}.counter" is missing: the name of a counter.`);
  return reading;
}

export function drawnFromSearch(search: URLSearchParams): Drawn {
  return drawnNames.find((name) => name === search.get("drawn")) ?? "lines";
}
