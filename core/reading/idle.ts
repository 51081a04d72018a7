import type { Condition, ReadingDocument, Sentence } from "./document.ts";

/** Says nothing: no value has been chosen. */
export const isIdle = ({ is, not, like }: Condition): boolean =>
  (is ?? not)?.length === 0 || (is === undefined && not === undefined && (like === undefined || like === "*"));

/** A sentence as it is asked: conditions for which nothing has been chosen yet are left out. */
function asked(sentence: Sentence): Sentence {
  const where = (sentence.where ?? []).filter((condition) => !isIdle(condition));
  const { where: _, ...rest } = sentence;
  return where.length > 0 ? { ...rest, where } : rest;
}

/** A reading without conditions that say nothing yet. */
export function withoutIdle<R extends Pick<ReadingDocument, "sentences">>(reading: R): R {
  return {
    ...reading,
    sentences: Object.fromEntries(Object.entries(reading.sentences).map(([name, sentence]) => [name, asked(sentence)])),
  };
}
