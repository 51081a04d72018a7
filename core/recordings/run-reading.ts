import type { ReadingAnswer, ReadingDocument, Sentence } from "../reading/document.ts";
import { evaluateReading } from "../reading/evaluate.ts";
import { type LineNumbers, numbersOf } from "./line-numbers.ts";
import { namedSentences, type RecordingDocument } from "./recording.ts";
import type { RunSeries } from "./run-series.ts";

export interface RunReading {
  readonly lines: readonly LineNumbers[];
  readonly reading: ReadingAnswer;
}

/** So many values of a line are drawn. */
const drawnPoints = 900;

/**
 * The lines of a run: their numbers by its interval, and the values to draw with each step's least and most. The
 * samples are those of the run alone; `[fromMs, toMs)` is the run.
 */
export function readRun(
  { sentences, everySeconds }: Pick<RecordingDocument, "sentences" | "everySeconds">,
  series: readonly RunSeries[],
  fromMs: number,
  toMs: number,
): RunReading {
  const named = namedSentences(sentences);
  const fetched = Object.fromEntries(
    Object.keys(named).map((name) => [name, series.filter(({ of }) => of.includes(name))]),
  );
  const document: ReadingDocument = {
    window: { from: fromMs, to: Math.max(toMs, fromMs + everySeconds * 1000) },
    sentences: Object.fromEntries(Object.entries(named).map(([name, sentence]) => [name, selected(sentence)])),
  };
  const exact = evaluateReading({ ...document, step: everySeconds, sums: true }, fetched);
  const kindOf = (name: string) => fetched[name]?.[0]?.kind;
  return {
    lines: exact.lines.map((line) => numbersOf(line, kindOf(line.of) === "total" && named[line.of]?.as !== "value")),
    reading: evaluateReading({ ...document, step: "auto", points: drawnPoints, extremes: true }, fetched),
  };
}

/** The sentence over the series that it was recorded of: its conditions hold for all of them. */
function selected({ where: _, earlier: __, ...sentence }: Sentence): Sentence {
  return sentence;
}
