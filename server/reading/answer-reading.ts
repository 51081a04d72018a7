import type { ReadingAnswer, ReadingDocument } from "../../core/reading/document.ts";
import { evaluateReading, type SeriesColumn, spanToFetch } from "../../core/reading/evaluate.ts";
import { meets } from "../../core/reading/where.ts";
import type { Store } from "../store/store.ts";

/** Answers a reading: plans what to fetch, fetches it, evaluates. Throws FigureError for arithmetic that cannot be worked out. */
export async function answerReading(store: Store, document: ReadingDocument): Promise<ReadingAnswer> {
  const fetched = await Promise.all(
    Object.entries(document.sentences).map(async ([name, sentence]) => {
      const series = store.series.ofCounter(sentence.counter).filter((one) => meets(one.tags, sentence.where ?? []));
      const { fromMs, toMs } = spanToFetch(document, sentence);
      const columns = await store.read(series.map((one) => one.id), fromMs, toMs);
      const found: SeriesColumn[] = [];
      series.forEach((one, i) => {
        const column = columns[i];
        if (column && column.timeMs.length > 0) found.push({ tags: one.tags, unit: one.unit, kind: one.kind, column });
      });
      return [name, found] as const;
    }),
  );
  return evaluateReading(document, Object.fromEntries(fetched));
}
