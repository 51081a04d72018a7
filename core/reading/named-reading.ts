import { presentSpan } from "../units/present.ts";
import type { ReadingDocument } from "./document.ts";

/** The counters of a reading, in words; the same for readings that differ in their window alone. */
export function countersOfReading({ sentences }: Pick<ReadingDocument, "sentences">): string {
  return [...new Set(Object.values(sentences).map(({ counter }) => counter))].join(", ");
}

/** What a reading is of, in words: its counters and how long its window is. */
export function namedReading(document: ReadingDocument): string {
  return `${countersOfReading(document)} over ${presentSpan(document.window.to - document.window.from)}`;
}
