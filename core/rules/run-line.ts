import { blockLength } from "./block-extremes.ts";
import type { Effect, LineState } from "./rule.ts";
import { type SteppedRule, stepLine } from "./step-line.ts";

/** Figures of one line at evenly spaced moments: figure i is of `firstMs + i * stepMs`. */
export interface GaugeRun {
  readonly gauges: Float64Array;
  readonly firstMs: number;
  readonly stepMs: number;
  /** Of its blocks, by which what does not concern a limit is passed over; figures alone are looked at without. */
  readonly extremes?: Float64Array | undefined;
}

/** A rule is checked at whole multiples of this many ms; with every step where it says nothing. */
export const checkEveryMs = (everySeconds: number, stepMs: number): number =>
  Math.max(stepMs, Math.ceil((everySeconds * 1000) / stepMs) * stepMs);

/**
 * Runs a line's figures through the rule, from a state on; tells every effect and where it ends up. The same in live
 * checks and in rehearsals.
 */
export function runLine(
  rule: SteppedRule & { readonly everySeconds: number },
  begin: LineState,
  run: GaugeRun,
  tell: (effect: Effect, index: number) => void,
): LineState {
  const { gauges, firstMs, stepMs } = run;
  const everyMs = checkEveryMs(rule.everySeconds, stepMs);
  let state = begin;
  let still = stillRange(rule, state);
  const stride = everyMs / stepMs;
  const late = ((firstMs % everyMs) + everyMs) % everyMs;
  const count = gauges.length;
  for (let i = late === 0 ? 0 : (everyMs - late) / stepMs; ; i += stride) {
    i = firstMoving(run, i, stride, Math.min(count, (still.untilMs - firstMs) / stepMs), still);
    if (i >= count) return state;
    const gauge = gauges[i];
    const next = stepLine(rule, state, Number.isNaN(gauge) ? null : gauge, firstMs + i * stepMs);
    if (next.state !== state) {
      state = next.state;
      still = stillRange(rule, state);
    }
    if (next.effect) tell(next.effect, i);
  }
}

/**
 * The first figure from `i` on, in strides, that is not in the range, or the first at or after `end`. Mostly nothing
 * happens: four comparisons cost a fiftieth of a step, and of a block whose extremes are in the range none of its
 * figures is looked at.
 */
function firstMoving(
  { gauges, extremes }: GaugeRun,
  i: number,
  stride: number,
  end: number,
  { gt, ge, lt, le }: StillRange,
): number {
  const blocks = extremes ? extremes.length / 2 : 0;
  let at = i;
  while (at < end) {
    const block = Math.floor(at / blockLength);
    const next = Math.min(end, (block + 1) * blockLength);
    if (extremes && block < blocks) {
      const least = extremes[2 * block];
      const greatest = extremes[2 * block + 1];
      if (least > gt && least >= ge && greatest < lt && greatest <= le) {
        at += Math.ceil((next - at) / stride) * stride;
        continue;
      }
    }
    while (at < next && gauges[at] > gt && gauges[at] >= ge && gauges[at] < lt && gauges[at] <= le) at += stride;
    if (at < next) return at;
  }
  return at;
}

/** Figures that leave a state as it is, before a moment: greater than `gt`, at least `ge`, less than `lt`, at most `le`. */
interface StillRange {
  untilMs: number;
  gt: number;
  ge: number;
  lt: number;
  le: number;
}

const nothing: StillRange = { untilMs: 0, gt: Number.POSITIVE_INFINITY, ge: 0, lt: 0, le: 0 };

/**
 * What is quiet stays so while its limit is not passed, and so does for a time what is easing; what is raised while it
 * is passed (by the clearing limit), and so does for a time what must last. Where that is no one range, nothing is
 * skipped.
 */
function stillRange(
  { compare, notice, urgent, mustLastSeconds, staysRaisedSeconds }: SteppedRule,
  state: LineState,
): StillRange {
  const range: StillRange = {
    untilMs: Number.POSITIVE_INFINITY,
    gt: Number.NEGATIVE_INFINITY,
    ge: Number.NEGATIVE_INFINITY,
    lt: Number.POSITIVE_INFINITY,
    le: Number.POSITIVE_INFINITY,
  };
  for (const [limit, one] of [
    [notice, state.notice],
    [urgent, state.urgent],
  ] as const) {
    if (limit === null || one === null) continue;
    const { mode, open, sinceMs } = one;
    const isPassed = mode === "raised" || mode === "building";
    if (!isPassed && mode !== "easing" && (mode !== "quiet" || open)) return nothing;
    if (mode === "building") range.untilMs = Math.min(range.untilMs, sinceMs + mustLastSeconds * 1000);
    if (mode === "easing") range.untilMs = Math.min(range.untilMs, sinceMs + staysRaisedSeconds * 1000);
    const low = (open ? limit.clearLow : undefined) ?? limit.low ?? Number.NEGATIVE_INFINITY;
    const high = (open ? limit.clearHigh : undefined) ?? limit.high ?? Number.POSITIVE_INFINITY;
    if (compare === "above" && isPassed) range.gt = Math.max(range.gt, high);
    else if (compare === "above") range.le = Math.min(range.le, high);
    else if (compare === "below" && isPassed) range.lt = Math.min(range.lt, low);
    else if (compare === "below") range.ge = Math.max(range.ge, low);
    else if (compare === "outside" && !isPassed) {
      range.ge = Math.max(range.ge, low);
      range.le = Math.min(range.le, high);
    } else if (compare === "inside" && isPassed) {
      range.gt = Math.max(range.gt, low);
      range.lt = Math.min(range.lt, high);
    } else return nothing;
  }
  return range;
}
