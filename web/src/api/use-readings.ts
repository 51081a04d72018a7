import { type UseQueryResult, useQueries } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import type { ReadingAnswer, ReadingDocument } from "../../../core/reading/document.ts";
import { readingQuery } from "./queries.ts";

/**
 * The answers to several readings. Each keeps what it showed while a newer window is fetched: several queries at once
 * know nothing of what stood in their place before,
 * as one alone does.
 */
export function useReadings(documents: readonly ReadingDocument[]): readonly UseQueryResult<ReadingAnswer>[] {
  const kept = useRef<ReadonlyMap<string, ReadingAnswer>>(new Map());
  const names = documents.map(({ window: _, ...open }) => JSON.stringify(open));
  const answers = useQueries({
    queries: documents.map((document, i) => ({
      ...readingQuery(document),
      placeholderData: () => kept.current.get(names[i] as string),
    })),
  });
  useEffect(() => {
    kept.current = new Map(answers.flatMap(({ data }, i) => (data ? [[names[i] as string, data]] : [])));
  });
  return answers;
}
