import type { ReadingAnswer, ReadingDocument } from "../../core/reading/document.ts";
import { assembleReading } from "../../core/reading/evaluate.ts";
import { parseFigure } from "../../core/reading/figure.ts";
import { planReading, type SeriesInfo } from "../../core/reading/plan.ts";
import { meets } from "../../core/reading/where.ts";
import type { Series } from "../store/series-registry.ts";
import type { Store } from "../store/store.ts";

/**
 * Answers a reading: plans what to read, has the store read and reduce it, assembles the answer. Throws FigureError for arithmetic that
 * cannot be worked out, CancelledError where `signal` is raised.
 */
export async function answerReading(store: Store, document: ReadingDocument, signal?: AbortSignal): Promise<ReadingAnswer> {
  if (document.figure !== undefined) parseFigure(document.figure, Object.keys(document.sentences)); // before anything is read
  const found = Object.fromEntries(Object.entries(document.sentences).map(([name, sentence]) => [name, store.series.ofCounter(sentence.counter).filter((one) => meets(one.tags, sentence.where ?? []))]));
  const plan = planReading(document, Object.fromEntries(Object.entries(found).map(([name, series]) => [name, withIntervals(store, series)])), store.reach());
  const results = await store.reduce(
    plan.sentences.map((sentence) => ({ plan: sentence, ids: (found[sentence.name] ?? []).map(({ id }) => id) })),
    plan.samples,
    signal,
  );
  return assembleReading(document, plan, results);
}

function withIntervals(store: Store, series: readonly Series[]): readonly SeriesInfo[] {
  const intervals = store.intervalsMs(series.map(({ id }) => id));
  return series.map(({ tags, unit, kind }, i) => ({ tags, unit, kind, intervalMs: intervals[i] as number }));
}
