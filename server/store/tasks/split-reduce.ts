import type { Combine } from "../../../core/reading/document.ts";
import { joinLineValues, type LineValues } from "../../../core/reading/line-values.ts";
import type { Values } from "../../../core/reading/steps.ts";
import { subSnapshot } from "../head-snapshot.ts";
import type { ReduceTask, SentenceTask } from "./task.ts";

/** Work that is smaller is not worth a second thread. */
const leastSamples = 100_000;
const leastSeries = 32;

/**
 * Cuts a large reading of one sentence into as many tasks as it is given threads, each with a share of the series. One
 * task where it cannot be cut.
 */
export function splitReduce(task: ReduceTask, samples: number, threads: number): readonly ReduceTask[] {
  const sentence = task.sentences[0];
  if (
    threads < 2 ||
    samples < leastSamples ||
    task.sentences.length !== 1 ||
    !sentence ||
    sentence.ids.length < leastSeries
  )
    return [task];
  if (!canJoin(sentence.plan.combine) && sentence.plan.lineCount !== sentence.ids.length) return [task];
  const size = Math.ceil(sentence.ids.length / threads);
  return Array.from({ length: Math.ceil(sentence.ids.length / size) }, (_, i) => ({
    ...task,
    sentences: [shareOf(sentence, i * size, Math.min(sentence.ids.length, (i + 1) * size))],
  }));
}

function shareOf({ plan, ids, snapshot }: SentenceTask, from: number, to: number): SentenceTask {
  return {
    plan: {
      ...plan,
      totals: plan.totals.slice(from, to),
      falls: plan.falls.slice(from, to),
      intervalsMs: plan.intervalsMs.slice(from, to),
      latesMs: plan.latesMs.slice(from, to),
      lineOf: plan.lineOf.slice(from, to),
    },
    ids: ids.slice(from, to),
    snapshot: subSnapshot(snapshot, from, to),
  };
}

/** Whether lines of shares can be made lines of all. */
function canJoin(combine: Combine): boolean {
  return combine === "sum" || combine === "min" || combine === "max" || combine === "count";
}

/** Joins what the tasks of `splitReduce` answered, line by line. */
export function joinLines(results: readonly (readonly LineValues[])[], combine: Combine): readonly LineValues[] {
  const joined = [...(results[0] as readonly LineValues[])];
  for (const lines of results.slice(1)) {
    lines.forEach((line, i) => {
      joined[i] = joinLineValues(joined[i] as LineValues, line, (into, values) => joinValues(into, values, combine));
    });
  }
  return joined;
}

function joinValues(into: Values, values: Values, combine: Combine): void {
  for (let i = 0; i < into.length; i++) {
    const v = values[i] as number;
    const before = into[i] as number;
    if (Number.isNaN(v)) continue;
    if (Number.isNaN(before)) into[i] = v;
    else if (combine === "min") into[i] = Math.min(before, v);
    else into[i] = combine === "max" ? Math.max(before, v) : before + v;
  }
}
