import type { Tags } from "../counters/counter.ts";
import type { ReadingDocument, Sentence } from "./document.ts";

/**
 * A reading of the one line with these tags: every sentence is asked where the tags by which it makes its lines have
 * their values. What a line's series have in common besides says nothing of another sentence's.
 */
export function narrowed(reading: Omit<ReadingDocument, "window">, tags: Tags): Omit<ReadingDocument, "window"> {
  const pinned = (sentence: Sentence): Sentence => {
    const where = Object.entries(tags).flatMap(([tag, value]) => (tells(sentence, tag) ? [{ tag, is: [value] }] : []));
    return where.length === 0 ? sentence : { ...sentence, where: [...(sentence.where ?? []), ...where] };
  };
  return {
    ...reading,
    sentences: Object.fromEntries(
      Object.entries(reading.sentences).map(([name, sentence]) => [name, pinned(sentence)]),
    ),
  };
}

/** Whether a sentence's lines are told apart by a tag. */
function tells({ lines = "each" }: Sentence, tag: string): boolean {
  return lines === "each" || (lines !== "together" && lines.per.includes(tag));
}
