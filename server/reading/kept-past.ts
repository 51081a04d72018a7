import type { Sentence } from "../../core/reading/document.ts";
import type { LineValues } from "../../core/reading/line-values.ts";
import type { ReadingPlan, SentencePlan } from "../../core/reading/plan.ts";

const hourMs = 3_600_000;

/** What a document wants read: of each sentence, the series by number. */
export interface PlannedReading {
  readonly plan: ReadingPlan;
  readonly asked: readonly { readonly plan: SentencePlan; readonly ids: readonly number[] }[];
}

/** Hourly means of past weeks that are kept in memory. */
export interface KeptPast {
  /** Of series by number, over a window of whole hours; undefined where one of them, or the window, is not kept. */
  hours(ids: readonly number[], fromMs: number, toMs: number): readonly Float32Array[] | undefined;
}

/**
 * The values of a reading's lines as they are kept, so that nothing need be read: of plain lines by the hour. Undefined
 * of all others.
 */
export function linesKept(
  past: KeptPast,
  sentences: Readonly<Record<string, Sentence>>,
  { plan, asked }: PlannedReading,
): readonly (readonly LineValues[])[] | undefined {
  const { grid } = plan;
  if (!isHourly(grid) || !Object.values(sentences).every(isPlain)) return undefined;
  const found: LineValues[][] = [];
  for (const { plan: sentence, ids } of asked) {
    const lines = plan.lineTags[sentence.name] ?? [];
    if (lines.length !== ids.length) return undefined;
    const kept = past.hours(ids, grid.fromMs, grid.fromMs + grid.count * hourMs);
    if (!kept) return undefined;
    const own = new Array<LineValues>(lines.length);
    for (const [k, values] of kept.entries()) own[sentence.lineOf[k] as number] = onlyValues(Float64Array.from(values));
    found.push(own);
  }
  return found;
}

const isHourly = ({ fromMs, stepMs, edgesMs }: ReadingPlan["grid"]): boolean =>
  !edgesMs && stepMs === hourMs && fromMs % hourMs === 0;

/** Whether a sentence asks for the lines of a counter as they are. */
const isPlain = ({ counter: _, where: __, lines, ...more }: Sentence): boolean =>
  lines === "each" && Object.values(more).every((value) => value === undefined);

const onlyValues = (values: LineValues["values"]): LineValues => ({
  values,
  least: Number.NaN,
  most: Number.NaN,
  mean: Number.NaN,
  newest: Number.NaN,
  newestUntilMs: Number.NaN,
  sum: Number.NaN,
  toldUntilMs: Number.POSITIVE_INFINITY,
  infinite: 0,
});
