import { meanOf, type UsualLine, usualStepMs, usualWindowMs } from "../baseline/usual-range.ts";
import { matters, weightOf } from "./materiality.ts";

/** A line with its past. */
export interface LineWithPast {
  readonly counter: string;
  readonly unit: string;
  /** What is usual of it. */
  readonly usual: UsualLine;
  /** Its means of five minutes in the span, the first from the span's beginning on; NaN for gaps. */
  readonly values: Float64Array;
}

/** How a line left its usual inside a span. */
export interface Departure {
  /** The mean over the stretch that was furthest from the usual, and what is usual then. */
  readonly was: number;
  readonly usual: number;
  readonly deviations: number;
  /** For what share of the span it was on that side of its usual. */
  readonly share: number;
  readonly score: number;
  /** How many days of past the usual rests on. */
  readonly days: number;
}

/**
 * So many deviations are no accident of one line among thousands: by the tests' fleets, whose noise is correlated and
 * varies by factors. Rules look at one line for months, and use less.
 */
export const leastDeviations = 6;
/** A step is counted as beyond the usual from so many deviations on. */
const beyond = 2;
/** Deviations beyond this say no more. */
const mostDeviations = 64;

const mostSteps = Math.round(usualWindowMs / usualStepMs);

/**
 * Lengths of the stretches that are compared, in steps: forty minutes, and halves of it, for what was short. The spread
 * of the usual is that of forty minutes; of a shorter stretch it is taken as much wider as it would be of values that
 * do not depend on each other (the standard error of a mean, NIST/SEMATECH e-Handbook 1.3.5.2). None is shorter than
 * `finest`, what the past was sampled by.
 */
function windowsIn(steps: number, finest: number): readonly number[] {
  const windows = [mostSteps, mostSteps / 2, mostSteps / 4, 1].filter((window) => window <= steps);
  const known = windows.filter((window) => window >= finest);
  return known.length > 0 ? known : windows.slice(0, 1);
}

/**
 * How a line left its usual in a span that begins at `fromMs`: undefined where it did not, null where its past is too
 * short to say. What is compared is the mean of forty minutes, as rules do (`UsualLine`), and of shorter stretches. The
 * score is how far (logarithm of deviations), times how long (root of the share), times how much it matters. `least`
 * deviations are no accident.
 */
export function departureOf(line: LineWithPast, fromMs: number, least = leastDeviations): Departure | undefined | null {
  const { counter, unit, usual, values } = line;
  let best:
    | { readonly was: number; readonly at: number; readonly deviations: number; readonly window: number }
    | undefined;
  let known = false;
  const finest = usual.finestMs(fromMs + values.length * usualStepMs) / usualStepMs;
  for (const window of windowsIn(values.length, finest))
    for (let end = window; end <= values.length; end++) {
      const was = meanOf(values, end - window, end);
      const atMs = fromMs + end * usualStepMs;
      const deviations = usual.deviations(was, atMs) * Math.sqrt(window / mostSteps);
      if (Number.isNaN(deviations)) continue;
      known = true;
      if (!best || Math.abs(deviations) > Math.abs(best.deviations)) best = { was, at: atMs, deviations, window };
    }
  if (!known || !best) return values.some((v) => !Number.isNaN(v)) ? null : undefined;
  const found = usual.at(best.at);
  if (!found || Math.abs(best.deviations) < least || !matters(unit, best.was, found.mid)) return undefined;
  if (usual.isSeen(best.was, best.at, best.window * usualStepMs)) return undefined;
  const share = shareBeyond(line, fromMs, Math.sign(best.deviations));
  const far = Math.log2(Math.min(Math.abs(best.deviations), mostDeviations) / leastDeviations) + 1;
  return {
    was: best.was,
    usual: found.mid,
    deviations: best.deviations,
    share,
    score: far * Math.sqrt(share) * weightOf(counter, unit, best.was, found.mid),
    days: found.days,
  };
}

function shareBeyond({ usual, values }: LineWithPast, fromMs: number, side: number): number {
  let known = 0;
  let outside = 0;
  values.forEach((value, i) => {
    const deviations = usual.deviations(value, fromMs + (i + 1) * usualStepMs);
    if (Number.isNaN(deviations)) return;
    known++;
    if (deviations * side > beyond) outside++;
  });
  return known === 0 ? 0 : Math.max(1, outside) / known;
}
