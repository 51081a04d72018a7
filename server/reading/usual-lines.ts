import { bandGrain, usualBand } from "../../core/baseline/usual-band.ts";
import { usualDays, UsualLine, usualStepMs, usualWindowMs } from "../../core/baseline/usual-range.ts";
import type { Tags } from "../../core/counters/counter.ts";
import { seriesKey } from "../../core/counters/series-key.ts";
import type { ReadingAnswer, ReadingDocument } from "../../core/reading/document.ts";
import type { ReadingPlan } from "../../core/reading/plan.ts";
import { zoneOffsets } from "../../core/time/zone-offsets.ts";

const dayMs = 86_400_000;

/** The moments at which it is asked what is usual: a window, by `stepMs`. */
export interface UsualMoments {
  readonly fromMs: number;
  readonly toMs: number;
  readonly stepMs: number;
}

/** What is usual at a moment is of the days before it, two hours around it, whichever way the clock was changed. */
const untilBeforeMs = 20 * 3_600_000;
/** A band takes some ms of this thread: more than these would hold up everybody else, and none could be told apart. */
const mostBands = 40;

type Read = (document: ReadingDocument) => Promise<ReadingAnswer>;

/**
 * What is usual of a reading's lines at the moments of a window, worked out of eight weeks before it and of itself, by
 * the clock of the reading's zone (the server's without one). `read` answers a reading.
 */
export async function usualLines(
  read: Read,
  reading: Omit<ReadingDocument, "window">,
  { fromMs, toMs, stepMs }: UsualMoments,
): Promise<ReadonlyMap<string, { readonly tags: Tags; readonly usual: UsualLine }>> {
  const step = Math.max(usualStepMs, stepMs);
  // A day more than is looked back: the clock may have been changed by an hour.
  const from = Math.floor((fromMs - (usualDays + 1) * dayMs - usualWindowMs) / step) * step;
  const to = Math.ceil(toMs / step) * step;
  const offsetMs = zoneOffsets(reading.zone ?? Intl.DateTimeFormat().resolvedOptions().timeZone);
  const { beside: _, extremes: __, sums: ___, usual: ____, points: _____, ...plain } = reading;
  const answer = await read({ ...plain, window: { from, to }, step: step / 1000 });
  return new Map(
    answer.lines.map((line) => [
      seriesKey(line.of, line.tags),
      {
        tags: line.tags,
        usual: new UsualLine(
          Float64Array.from(line.values, (value) => value ?? Number.NaN),
          answer.from,
          answer.stepMs,
          offsetMs,
        ),
      },
    ]),
  );
}

type Grid = ReadingPlan["grid"];
type Plan = Pick<ReadingPlan, "grid" | "lineTags">;

/**
 * The answer with what is usual of each of its lines. Steps of days and longer have none: they are no time of day. What
 * is usual is read while the answer is, as far as its plan tells its steps.
 */
export async function withUsual(
  read: Read,
  document: ReadingDocument,
  answering: Promise<ReadingAnswer>,
  { grid, lineTags }: Plan,
): Promise<ReadingAnswer> {
  const planned = Object.values(lineTags).reduce((sum, lines) => sum + lines.length, 0);
  const ahead = isTold(grid) && planned <= mostBands ? usualOf(read, document, grid) : undefined;
  ahead?.catch(() => {}); // told where it is awaited
  const answer = await answering;
  const { from: fromMs, stepMs, count, edges } = answer;
  const steps: Grid = { fromMs, stepMs, count, ...(edges && { edgesMs: Float64Array.from(edges) }) };
  if (!isTold(steps))
    return { ...answer, notes: [...answer.notes, "What is usual is told for steps shorter than a day."] };
  if (answer.lines.length > mostBands)
    return { ...answer, notes: [...answer.notes, `What is usual is told for ${mostBands} lines at most.`] };
  const isAsPlanned = grid.fromMs === fromMs && grid.stepMs === stepMs && grid.count === count;
  const usual = await (ahead && isAsPlanned ? ahead : usualOf(read, document, steps));
  const grain = bandGrain(count * stepMs);
  return {
    ...answer,
    lines: answer.lines.map((line) => {
      const found = line.earlier === undefined ? usual.get(seriesKey(line.of, line.tags)) : undefined;
      return found ? { ...line, usual: usualBand(found.usual, { fromMs, stepMs, count }, grain) } : line;
    }),
  };
}

const isTold = ({ edgesMs, stepMs, count }: Grid): boolean => !edgesMs && stepMs < dayMs && count > 0;

/** What is usual over the steps of an answer. Of its last hours nothing is compared. */
function usualOf(
  read: Read,
  document: ReadingDocument,
  { fromMs, stepMs, count }: Grid,
): ReturnType<typeof usualLines> {
  const toMs = fromMs + count * stepMs;
  return usualLines(read, document, {
    fromMs,
    toMs: toMs - untilBeforeMs,
    stepMs: bandGrain(toMs - fromMs).pastStepMs,
  });
}
