import { quantile } from "../series/quantile.ts";

/** Something that ran for a while: told by a script, or found as a habit. */
export interface Job {
  readonly name: string;
  readonly machine: string;
  readonly fromMs: number;
  readonly toMs: number;
}

/** How much of something that has a limit was in use, as shares of the limit: a machine's disks, its processors, its network. */
export interface LimitLine {
  readonly machine: string;
  /** What it is of, such as "disks". */
  readonly words: string;
  readonly fromMs: number;
  readonly stepMs: number;
  /** NaN where nothing is known. */
  readonly values: Float64Array;
}

/** Two jobs that fought for something, and what it would help to move one of them. */
export interface Overlap {
  readonly first: Job;
  readonly second: Job;
  readonly line: Pick<LimitLine, "machine" | "words">;
  /** When both ran, ms. */
  readonly fromMs: number;
  readonly toMs: number;
  /** Which of the two is moved, by how many minutes: later where above 0. */
  readonly moves: "first" | "second";
  readonly shiftMinutes: number;
  /** The highest use while one of the two runs, in percent of the limit: measured, and as it would be. */
  readonly highestNow: number;
  readonly highestThen: number;
}

/** From so much of the limit on it is at its limit; common practice, no source: queues grow beyond. */
const atLimit = 0.9;
/** A job that takes less of the limit than this is not what it is about. */
const leastExcess = 0.1;
const leastOverlapMs = 300_000;
const shiftStepMs = 900_000;
const hourMs = 3_600_000;
const dayMs = 24 * hourMs;
/** Moving must help by so much of the limit. */
const leastGain = 0.1;
/** Starts whose highest use differs by no more are alike: the nearest is taken. */
const alike = 0.03;
/** High use for moments is no fight: so much of the time is left aside. */
const highestShare = 0.95;

/**
 * Whether two jobs ran at once with a line at its limit, and where one of them would be quietest. What each takes is
 * measured where it ran alone, above what the line had before and after both; where one ran only beside the other it
 * is what was left. One of them is then moved in steps of a quarter of an hour over a day, and the start with the
 * lowest highest use is taken, of equal ones the nearest. `line` holds the day around them; moments beyond it are as
 * the same clock time within it. Undefined where they did not overlap, nothing was at its limit, or moving would not
 * help.
 */
export function overlapOf(first: Job, second: Job, line: LimitLine): Overlap | undefined {
  const fromMs = Math.max(first.fromMs, second.fromMs);
  const toMs = Math.min(first.toMs, second.toMs);
  if (toMs - fromMs < leastOverlapMs) return undefined;
  const day = new DayOf(line);
  const both = day.between(fromMs, toMs);
  const highestBoth = highOf(both);
  if (!(highestBoth >= atLimit)) return undefined;
  const base = day.quiet(first, second);
  const a = excessOf(day, first, second, base);
  const b = excessOf(day, second, first, base);
  const [own, other] = [a ?? highestBoth - base - (b ?? 0), b ?? highestBoth - base - (a ?? 0)];
  if (own < leastExcess || other < leastExcess) return undefined;
  const excess = { first: own, second: other };
  const highestNow = highestBoth;
  const starts = (["second", "first"] as const).flatMap((moves) => startsOf(day, { first, second, moves, excess }));
  const lowest = Math.min(...starts.map(({ highest }) => highest));
  const best = starts
    .filter(({ highest }) => highest <= lowest + alike)
    .reduce((x, y) => (Math.abs(y.shiftMs) < Math.abs(x.shiftMs) ? y : x));
  if (highestNow - best.highest < leastGain) return undefined;
  return {
    first,
    second,
    line: { machine: line.machine, words: line.words },
    fromMs,
    toMs,
    moves: best.moves,
    shiftMinutes: best.shiftMs / 60_000,
    highestNow: Math.round(highestNow * 100),
    highestThen: Math.round(Math.min(1, best.highest) * 100),
  };
}

interface Moving {
  readonly first: Job;
  readonly second: Job;
  readonly moves: "first" | "second";
  readonly excess: { readonly first: number; readonly second: number };
}

interface Start {
  readonly moves: "first" | "second";
  readonly shiftMs: number;
  /** The highest use while either runs. */
  readonly highest: number;
}

/** What would be if one of the two began at another time: later and earlier by quarters of an hour. */
function startsOf(day: DayOf, { first, second, moves, excess }: Moving): readonly Start[] {
  const [moved, stays] = moves === "first" ? [first, second] : [second, first];
  const [movedTakes, staysTakes] = moves === "first" ? [excess.first, excess.second] : [excess.second, excess.first];
  const quarters = dayMs / 2 / shiftStepMs;
  return Array.from({ length: 2 * quarters }, (_, i) => (i % 2 === 0 ? 1 : -1) * ((i >> 1) + 1) * shiftStepMs).map(
    (shiftMs) => {
      const at = { fromMs: moved.fromMs + shiftMs, toMs: moved.toMs + shiftMs };
      const use: number[] = [];
      for (const run of [at, stays])
        for (let ms = run.fromMs; ms < run.toMs; ms += day.stepMs) {
          const rest = day.without(ms, first, second, excess);
          if (!Number.isNaN(rest))
            use.push(rest + (within(ms, at) ? movedTakes : 0) + (within(ms, stays) ? staysTakes : 0));
        }
      return { moves, shiftMs, highest: highOf(use) };
    },
  );
}

const within = (ms: number, { fromMs, toMs }: Pick<Job, "fromMs" | "toMs">) => ms >= fromMs && ms < toMs;

function highOf(values: readonly number[]): number {
  return quantile(
    [...values].sort((x, y) => x - y),
    highestShare,
  );
}

function medianOf(values: readonly number[]): number | undefined {
  return values.length === 0
    ? undefined
    : quantile(
        [...values].sort((x, y) => x - y),
        0.5,
      );
}

/** What a job takes where the other did not run; undefined where it never ran alone. */
function excessOf(day: DayOf, job: Job, other: Job, base: number): number | undefined {
  const alone = [
    ...day.between(job.fromMs, Math.min(job.toMs, other.fromMs)),
    ...day.between(Math.max(job.fromMs, other.toMs), job.toMs),
  ];
  const median = medianOf(alone);
  return median === undefined ? undefined : Math.max(0, median - base);
}

/** A line's day: moments beyond it are as the same clock time within it. */
class DayOf {
  readonly #line: LimitLine;
  readonly #perDay: number;

  constructor(line: LimitLine) {
    this.#line = line;
    this.#perDay = Math.round(dayMs / line.stepMs);
  }

  get stepMs(): number {
    return this.#line.stepMs;
  }

  #at(ms: number): number {
    const { fromMs, stepMs, values } = this.#line;
    const i = Math.floor((ms - fromMs) / stepMs);
    if (i >= 0 && i < values.length && !Number.isNaN(values[i] as number)) return values[i] as number;
    for (const days of [-1, 1, -2, 2]) {
      const other = values[i + days * this.#perDay];
      if (other !== undefined && !Number.isNaN(other)) return other;
    }
    return Number.NaN;
  }

  /** What is known from one moment to another, each step that lies in it whole. */
  between(fromMs: number, toMs: number): readonly number[] {
    const { fromMs: first, stepMs } = this.#line;
    const found: number[] = [];
    for (let ms = first + Math.ceil((fromMs - first) / stepMs) * stepMs; ms + stepMs <= toMs; ms += stepMs) {
      const value = this.#at(ms);
      if (!Number.isNaN(value)) found.push(value);
    }
    return found;
  }

  /** What the line had in the hour before both, or in the hour after: the less. */
  quiet(first: Job, second: Job): number {
    const begins = Math.min(first.fromMs, second.fromMs);
    const ends = Math.max(first.toMs, second.toMs);
    const around = [this.between(begins - hourMs, begins), this.between(ends, ends + hourMs)];
    return Math.min(1, ...around.flatMap((values) => medianOf(values) ?? []));
  }

  /** What the line would have had at a moment without either; where it was at its limit, what it has around them. */
  without(ms: number, first: Job, second: Job, excess: Moving["excess"]): number {
    const value = this.#at(ms);
    // By the clock: a moment of another day at which the job ran then, too.
    const runs = (job: Job) => [-dayMs, 0, dayMs].some((shift) => within(ms + shift, job));
    const takes = (runs(first) ? excess.first : 0) + (runs(second) ? excess.second : 0);
    return Math.max(0, value - takes);
  }
}
