import { hasUsual } from "../../core/differences/materiality.ts";
import type { ReadingDocument } from "../../core/reading/document.ts";
import { planReading, type SentencePlan } from "../../core/reading/plan.ts";
import type { Series } from "../store/series-registry.ts";
import type { Store } from "../store/store.ts";

/** So many lines are read at once: an answer holds only so many values. */
const linesAtOnce = 160;

/** Lines of one counter, one after the other. */
export interface Lines {
  readonly values: Float64Array;
  readonly unit: string;
  readonly stepMs: number;
  readonly fromMs: number;
}

/** The lines of lists of series of one counter, each for itself, as charts have them. */
export async function linesOf(
  store: Store,
  lists: readonly (readonly Series[])[],
  window: { readonly from: number; readonly to: number },
  stepMs: number,
  signal: AbortSignal | undefined,
): Promise<readonly Lines[]> {
  const reach = store.reach();
  const nowMs = store.nowMs();
  const asked = lists.map((list) => {
    const ids = list.map(({ id }) => id);
    const document: ReadingDocument = {
      window,
      step: stepMs / 1000,
      sentences: { a: { counter: list[0]?.counter ?? "", lines: "each" } },
    };
    const surroundings = {
      reach,
      nowMs,
      intervalsMs: { a: store.intervalsMs(ids) },
      latesMs: { a: store.latesMs(ids) },
    };
    const plan = planReading(document, { a: list }, surroundings);
    return { plan, sentence: plan.sentences[0] as SentencePlan, ids };
  });
  // Buckets are no samples, but they are work: what is more than a few lines is read on a worker thread.
  const steps = (window.to - window.from) / stepMs;
  const samples = asked.reduce((sum, { plan, ids }) => sum + Math.max(plan.samples, ids.length * steps), 0);
  const read = await store.reduce(
    asked.map(({ sentence, ids }) => ({ plan: sentence, ids })),
    samples,
    signal,
  );
  return asked.map(({ plan, sentence, ids }, i) => {
    const lines = read[i] ?? [];
    const steps = Math.max(0, ...lines.map(({ values }) => values.length));
    const values = new Float64Array(ids.length * steps).fill(Number.NaN);
    for (let k = 0; k < ids.length; k++) {
      const line = lines[sentence.lineOf[k] as number];
      if (line) values.set(line.values as Float64Array, k * steps);
    }
    return { values, unit: plan.units["a"] ?? "1", stepMs: plan.grid.stepMs, fromMs: plan.grid.fromMs };
  });
}

/** Series whose values have a usual, in lists of one counter. Nubrel's own are left aside. */
export function* listsOf(store: Store): Generator<readonly Series[]> {
  for (const list of byCounter(store.series.all().map((series) => ({ series })))) {
    const [first] = list;
    if (!first || first.kind === "distribution") continue;
    if (!hasUsual(first.counter)) continue;
    for (let at = 0; at < list.length; at += linesAtOnce) yield list.slice(at, at + linesAtOnce);
  }
}

export function byCounter(all: readonly { readonly series: Series }[]): readonly (readonly Series[])[] {
  const lists = new Map<string, Series[]>();
  for (const { series } of all) {
    const list = lists.get(series.counter);
    if (list) list.push(series);
    else lists.set(series.counter, [series]);
  }
  return [...lists.values()];
}
