import type { ReadingAnswer, ReadingDocument, Sentence } from "../../core/reading/document.ts";
import { earlierDocument, joinEarlier } from "../../core/reading/beside.ts";
import { isCalendarStep } from "../../core/reading/calendar.ts";
import { assembleReading } from "../../core/reading/evaluate.ts";
import { parseFigure } from "../../core/reading/figure.ts";
import { planReading, type PlanSurroundings } from "../../core/reading/plan.ts";
import { meets } from "../../core/reading/where.ts";
import { type KeptPast, linesKept, type PlannedReading } from "./kept-past.ts";
import { withUsual } from "./usual-lines.ts";
import type { MachineNames } from "../machines/machine-names.ts";
import type { Series } from "../store/series-registry.ts";
import type { Store } from "../store/store.ts";

/** What of a plan's surroundings others than charts decide, and what is kept of the past for what is usual. */
export interface ReadingHow extends Pick<PlanSurroundings, "nowMs" | "waitsForEnd"> {
  readonly past?: KeptPast;
}

/**
 * Answers a reading: plans what to read, has the store read and reduce it, assembles the answer. Throws FigureError for
 * arithmetic that
 * cannot be worked out, CancelledError where `signal` is raised.
 * With `names`, sentences may speak of the tags of machines; `how` says when it is and when a step is whole, for rules.
 */
export async function answerReading(
  store: Store,
  document: ReadingDocument,
  signal?: AbortSignal,
  names?: MachineNames,
  how: ReadingHow = {},
): Promise<ReadingAnswer> {
  const answering = answerBeside(store, document, signal, names, how);
  if (document.usual !== true) return await answering;
  const { plan } = plannedReading(store, document, names, how);
  return await withUsual((past) => answerPast(store, past, how.past, signal, names), document, answering, plan);
}

async function answerBeside(
  store: Store,
  document: ReadingDocument,
  signal?: AbortSignal,
  names?: MachineNames,
  how: ReadingHow = {},
): Promise<ReadingAnswer> {
  const before = earlierDocument(document);
  const answer = await answerOne(store, document, signal, names, how);
  if (!before) return answer;
  // Both share a grid: the past may be kept coarser only.
  const earlier = await answerOne(
    store,
    { ...before, step: isCalendarStep(document.step) ? document.step : answer.stepMs / 1000 },
    signal,
    names,
  );
  const present =
    earlier.stepMs === answer.stepMs
      ? answer
      : await answerOne(store, { ...document, step: earlier.stepMs / 1000 }, signal, names);
  return joinEarlier(present, earlier, document.beside as string);
}

async function answerOne(
  store: Store,
  document: ReadingDocument,
  signal?: AbortSignal,
  names?: MachineNames,
  how: ReadingHow = {},
): Promise<ReadingAnswer> {
  const { plan, asked } = plannedReading(store, document, names, how);
  return assembleReading(document, plan, await store.reduce(asked, plan.samples, signal));
}

/** The same of weeks that may be kept in memory. */
async function answerPast(
  store: Store,
  document: ReadingDocument,
  past: KeptPast | undefined,
  signal?: AbortSignal,
  names?: MachineNames,
): Promise<ReadingAnswer> {
  const planned = plannedReading(store, document, names);
  const { plan, asked } = planned;
  const kept = past && document.figure === undefined ? linesKept(past, document.sentences, planned) : undefined;
  return assembleReading(document, plan, kept ?? (await store.reduce(asked, plan.samples, signal)));
}

/** What a document wants read. Throws FigureError for arithmetic that cannot be read. */
export function plannedReading(
  store: Store,
  document: ReadingDocument,
  names?: MachineNames,
  how: ReadingHow = {},
): PlannedReading {
  // before anything is read
  if (document.figure !== undefined) parseFigure(document.figure, Object.keys(document.sentences));
  const found: Record<string, readonly Series[]> = {};
  const ids: Record<string, readonly number[]> = {};
  const intervals: Record<string, Float64Array> = {};
  const lates: Record<string, Float64Array> = {};
  const machineTags = names?.tagNames();
  for (const [name, sentence] of Object.entries(document.sentences)) {
    const { counter } = sentence;
    const matching = seriesOfSentence(store, sentence, names, machineTags, document.window);
    const boundUnit =
      matching[0]?.kind === "distribution" ? store.series.ofCounter(`${counter}.sum`)[0]?.unit : undefined;
    const series = boundUnit === undefined ? matching : matching.map((one) => ({ ...one, boundUnit }));
    found[name] = series;
    ids[name] = series.map(({ id }) => id);
    intervals[name] = store.intervalsMs(ids[name]);
    lates[name] = store.latesMs(ids[name]);
  }
  const plan = planReading(document, found, {
    reach: store.reach(),
    intervalsMs: intervals,
    latesMs: lates,
    nowMs: store.nowMs(),
    ...how,
  });
  return { plan, asked: plan.sentences.map((sentence) => ({ plan: sentence, ids: ids[sentence.name] ?? [] })) };
}

/**
 * The series that a sentence is of. Where it speaks of tags of machines, they have these among their own; `machineTags`
 * are the names of those there are. With `window` those are left out that had ended before it.
 */
export function seriesOfSentence(
  store: Store,
  sentence: Sentence,
  names: MachineNames | undefined,
  machineTags = names?.tagNames(),
  window?: ReadingDocument["window"],
): readonly Series[] {
  const { counter, where } = sentence;
  const plain = window ? aliveIn(store, counter, window) : store.series.ofCounter(counter);
  const all =
    names && machineTags && asksFor(sentence, machineTags)
      ? plain.map((one) => ({ ...one, tags: names.tagsWith(one.tags) }))
      : plain;
  return where && where.length > 0 ? all.filter((one) => meets(one.tags, where)) : all;
}

/** Where none was there in the window, one stands for all: that there is such a counter is known, and is said. */
function aliveIn(store: Store, counter: string, { from, to }: ReadingDocument["window"]): readonly Series[] {
  const alive = store.seriesAlive(counter, from, to);
  return alive.length > 0 ? alive : store.series.ofCounter(counter).slice(0, 1);
}

/** Whether a sentence speaks of tags that machines have: only then are they looked up for every series. */
function asksFor({ where = [], lines }: Sentence, machineTags: ReadonlySet<string>): boolean {
  return (
    where.some(({ tag }) => machineTags.has(tag)) ||
    (typeof lines === "object" && lines.per.some((tag) => machineTags.has(tag)))
  );
}
