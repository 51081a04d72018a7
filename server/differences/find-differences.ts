import type { ApartLine, DifferencesView } from "../../core/api/differences.ts";
import { usualDays, usualStepMs } from "../../core/baseline/usual-range.ts";
import { foldMoved, type Moved } from "../../core/differences/fold.ts";
import { type Departure, leastDeviations } from "../../core/differences/line-difference.ts";
import { onsetOf } from "../../core/differences/onset.ts";
import { roundStepMs } from "../../core/reading/step.ts";
import type { Series } from "../store/series-registry.ts";
import type { Store } from "../store/store.ts";
import { atOnce } from "../work/at-once.ts";
import type { Executor } from "../work/executor.ts";
import { departuresKind } from "./departures.ts";
import { batchesOf, type HourlyPast } from "./hourly-past.ts";
import { byCounter, type Lines, linesOf, listsOf } from "./read-lines.ts";

const hourMs = 3_600_000;
const dayMs = 24 * hourMs;
/** From so many deviations of hourly means on, a line is looked at in steps of five minutes. */
const worthALook = 3.5;
/** So many lines are looked at closely, those that weigh most. */
const lookedAtClosely = 80;
/** Before the span, so long is looked at for when a line began to move, or as long as half the span. */
const leastQuietMs = hourMs;
/** The moment is told to a part of the span and what is before it. */
const onsetSteps = 360;

/** What share of the work each part is, about. */
const [ofReading, ofComparing, ofLooking] = [0.6, 0.25, 0.1];

export interface Span {
  readonly from: number;
  readonly to: number;
}

/** A line that may have left its usual. */
interface Candidate {
  readonly series: Series;
  readonly score: number;
}

/** A line as it was compared. */
interface Compared {
  readonly series: Series;
  readonly unit: string;
  readonly departure: Departure | undefined | null;
}
type Left = Compared & { readonly departure: Departure };

interface Asked {
  readonly store: Store;
  readonly executor: Executor;
  readonly span: Span;
  readonly zone: string;
  readonly past: HourlyPast;
  readonly signal: AbortSignal | undefined;
  /** Hears the share of the work that is done. */
  readonly progress: (share: number) => void;
}

export type Found = Pick<DifferencesView, "calm" | "rested" | "looked" | "apart"> & {
  readonly entries: ReturnType<typeof foldMoved>;
};

/**
 * Which lines of all machines left their usual in a span, folded by machine and subject. All lines are compared by
 * hourly means of eight weeks first, on worker threads; those that stand out by means of five minutes, as rules compare
 * (`UsualLine`), and in fine steps for the moment at which they began to move. Throws CancelledError.
 */
export async function findDifferences(
  { store, executor, past }: Pick<Asked, "store" | "executor" | "past">,
  span: Span,
  zone: string,
  { signal, progress = () => {} }: { readonly signal?: AbortSignal; readonly progress?: Asked["progress"] } = {},
): Promise<Found> {
  const from = Math.floor(span.from / usualStepMs) * usualStepMs;
  const to = Math.max(from + usualStepMs, Math.ceil(span.to / usualStepMs) * usualStepMs);
  await past.renew((share) => progress(share * ofReading), signal);
  const asked: Asked = { store, executor, span: { from, to }, zone, past, signal, progress };
  const candidates: Candidate[] = [];
  const apart = new Map<string, ApartLine>();
  let looked = 0;
  const batches = batchesOf(listsOf(store));
  let days = 0;
  let done = 0;
  const compare = async (lists: readonly (readonly Series[])[]) => {
    const compared = await departuresOf(asked, lists, hourMs, worthALook);
    progress(ofReading + (++done / batches.length) * ofComparing);
    return compared;
  };
  for (const found of await atOnce(batches, compare)) {
    looked += found.compared.length;
    days = Math.max(days, found.days);
    for (const { series, departure } of found.compared) {
      if (departure === null) note(apart, series);
      else if (departure) candidates.push({ series, score: departure.score });
    }
  }
  const close = candidates.sort((a, b) => b.score - a.score).slice(0, lookedAtClosely);
  // In two parts: a worker thread each.
  const halves = [close.filter((_, i) => i % 2 === 0), close.filter((_, i) => i % 2 === 1)].filter(
    (half) => half.length > 0,
  );
  const closely = await atOnce(halves, (half) => departuresOf(asked, byCounter(half), usualStepMs, leastDeviations));
  progress(ofReading + ofComparing + ofLooking);
  const left = closely.flatMap(({ compared }) => compared).filter((one): one is Left => !!one.departure);
  const moved = await atOnce(left, async ({ series, unit, departure }): Promise<Moved> => {
    return {
      counter: series.counter,
      tags: series.tags,
      unit,
      atMs: await onset(asked, series, departure.deviations > 0 ? 1 : -1),
      was: departure.was,
      usual: departure.usual,
      score: departure.score,
    };
  });
  const entries = foldMoved(moved);
  return {
    calm: entries.length === 0,
    rested: { weeks: Math.round(days / 7) },
    looked,
    entries,
    apart: [...apart.values()].sort((a, b) => b.series - a.series),
  };
}

function note(apart: Map<string, ApartLine>, { counter, tags }: Series): void {
  const machine = tags["machine"] ?? "";
  const key = `${counter} ${machine}`;
  apart.set(key, { counter, machine, series: (apart.get(key)?.series ?? 0) + 1 });
}

/** How each line of lists of one counter left its usual, by steps of a length. */
async function departuresOf(
  { store, executor, past: kept, span: { from, to }, zone, signal }: Asked,
  lists: readonly (readonly Series[])[],
  pastStepMs: number,
  least: number,
): Promise<{ readonly compared: readonly Compared[]; readonly days: number }> {
  // A day more than is looked back: the clock may have been changed by an hour.
  const pastFromMs = Math.floor((from - (usualDays + 1) * dayMs - hourMs) / hourMs) * hourMs;
  const pastToMs = Math.ceil(to / pastStepMs) * pastStepMs - 22 * hourMs;
  const [past, span] = await Promise.all([
    (pastStepMs === hourMs ? kept.of(lists, pastFromMs, pastToMs) : undefined) ??
      linesOf(store, lists, { from: pastFromMs, to: pastToMs }, pastStepMs, signal),
    linesOf(store, lists, { from, to }, usualStepMs, signal),
  ]);
  const given = lists.map((list, i) => ({
    counter: list[0]?.counter ?? "",
    unit: (past[i] as Lines).unit,
    lines: list.length,
    past: (past[i] as Lines).values,
    span: (span[i] as Lines).values,
  }));
  const units = given.map(({ unit }) => unit);
  const task = { lists: given, pastFromMs, pastStepMs, fromMs: from, zone, least };
  const { found, days } = await executor.run(departuresKind, task, signal);
  const compared = lists.flatMap((list, i) =>
    list.map((series, k) => ({ series, unit: units[i] as string, departure: found[i]?.[k] })),
  );
  return { compared, days };
}

/** When a line began to move. */
async function onset({ store, span: { from, to }, signal }: Asked, series: Series, side: 1 | -1): Promise<number> {
  const quietMs = Math.max(leastQuietMs, (to - from) / 2);
  const [interval = Number.NaN] = store.intervalsMs([series.id]);
  const finest = Number.isFinite(interval) ? interval : 15_000;
  const stepMs = roundStepMs(Math.max(finest, (quietMs + to - from) / onsetSteps));
  const begins = Math.floor((from - quietMs) / stepMs) * stepMs;
  const [line] = await linesOf(store, [[series]], { from: begins, to }, stepMs, signal);
  if (!line) return from;
  const found = onsetOf(line.values, Math.round((from - line.fromMs) / line.stepMs), side);
  return found === undefined ? from : line.fromMs + found * line.stepMs;
}
