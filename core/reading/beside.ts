import type { ReadingAnswer, ReadingDocument } from "./document.ts";
import { spanMs, spanOfMs } from "./step.ts";

/** The document that reads the same that much earlier as `beside` says; undefined where nothing is to stand beside. */
export function earlierDocument(document: ReadingDocument): ReadingDocument | undefined {
  if (document.beside === undefined) return undefined;
  const shift = spanMs(document.beside) ?? 0;
  const sentences = Object.fromEntries(
    Object.entries(document.sentences).map(([name, sentence]) => [
      name,
      {
        ...sentence,
        earlier: spanOfMs(shift + (sentence.earlier === undefined ? 0 : (spanMs(sentence.earlier) ?? 0))),
      },
    ]),
  );
  const { beside: _, extremes: __, ...rest } = document;
  return { ...rest, sentences };
}

/** One answer of the present lines and then of those that were read earlier on the same grid. */
export function joinEarlier(present: ReadingAnswer, before: ReadingAnswer, earlier: string): ReadingAnswer {
  const coarser = present.tier === "1h" || before.tier === "raw" ? present.tier : before.tier;
  return {
    ...present,
    tier: coarser,
    lines: [...present.lines, ...before.lines.map((line) => ({ ...line, earlier }))],
    notes: [...new Set([...present.notes, ...before.notes])],
  };
}
