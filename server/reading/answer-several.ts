import type { ReadingAnswer, ReadingDocument } from "../../core/reading/document.ts";
import { assembleReading } from "../../core/reading/evaluate.ts";
import type { MachineNames } from "../machines/machine-names.ts";
import type { Store } from "../store/store.ts";
import { answerReading, plannedReading, type ReadingHow } from "./answer-reading.ts";

/** Readings of more samples than this are answered one by one, after the others: they would hold them up. */
const lightSamples = 300_000;

export interface SeveralAnswers {
  /** Called once a document, in any order. */
  readonly answered: (index: number, answer: ReadingAnswer) => Promise<void> | void;
  readonly failed: (index: number, error: unknown) => void;
}

/**
 * Answers the readings of a whole page: light ones are read from the database together (twenty charts: one question a
 * tier instead of
 * twenty), heavy ones after them. Throws CancelledError where `signal` is raised.
 */
export async function answerSeveral(
  store: Store,
  documents: readonly ReadingDocument[],
  { answered, failed }: SeveralAnswers,
  signal?: AbortSignal,
  names?: MachineNames,
  how: ReadingHow = {},
): Promise<void> {
  const light: {
    readonly index: number;
    readonly document: ReadingDocument;
    readonly planned: ReturnType<typeof plannedReading>;
  }[] = [];
  const heavy: number[] = [];
  documents.forEach((document, index) => {
    try {
      const planned = plannedReading(store, document, names);
      if (document.beside !== undefined || document.usual === true || planned.plan.samples > lightSamples)
        heavy.push(index);
      else light.push({ index, document, planned });
    } catch (error) {
      failed(index, error);
    }
  });
  if (light.length > 0) {
    const asked = light.flatMap(({ planned }) => planned.asked);
    const results = await store.reduce(
      asked,
      light.reduce((sum, { planned }) => sum + planned.plan.samples, 0),
      signal,
    );
    let at = 0;
    for (const { index, document, planned } of light) {
      const own = results.slice(at, (at += planned.asked.length));
      try {
        await answered(index, assembleReading(document, planned.plan, own));
      } catch (error) {
        failed(index, error);
      }
    }
  }
  for (const index of heavy) {
    try {
      await answered(index, await answerReading(store, documents[index] as ReadingDocument, signal, names, how));
    } catch (error) {
      if (signal?.aborted) throw error;
      failed(index, error);
    }
  }
}
