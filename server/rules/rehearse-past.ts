import { DateTime } from "luxon";
import type { Tags } from "../../core/counters/counter.ts";
import { fillExtremes } from "../../core/rules/block-extremes.ts";
import { type Rehearsal, type RehearsedRule, rehearse } from "../../core/rules/rehearse.ts";
import { workKind } from "../work/work-kind.ts";

const hourMs = 3_600_000;

/** `count` figures in shared memory, and place for the extremes of their blocks. */
export interface PastLine {
  readonly tags: Tags;
  readonly gauges: SharedArrayBuffer;
  readonly extremes: SharedArrayBuffer;
  readonly count: number;
}

/**
 * Figures of the past that are run through a rule. They stand in shared memory, so that a limit can be moved without
 * their being sent again.
 */
export interface RehearsePastTask {
  readonly rule: RehearsedRule;
  readonly lines: readonly PastLine[];
  /** The extremes of the lines' blocks are not filled in yet: this work does it first. */
  readonly isFresh: boolean;
  /** The moment of the first figures, ms. */
  readonly firstMs: number;
  readonly stepMs: number;
  readonly from: number;
  readonly to: number;
  /** IANA, by whose clock the hours of the week are counted. */
  readonly zone: string;
}

export const rehearsePastKind = workKind<RehearsePastTask, Rehearsal>("rehearse-past");

/** Steps through figures that are there already; touches nothing of the store. */
export function rehearsePast({ rule, lines, isFresh, firstMs, stepMs, from, to, zone }: RehearsePastTask): Rehearsal {
  const hours = new Map<number, number>();
  // Zones' offsets are looked up once an hour of the past, not once an incident.
  const hourOfWeek = (ms: number) => {
    const key = Math.floor(ms / hourMs);
    let hour = hours.get(key);
    if (hour === undefined) {
      const at = DateTime.fromMillis(ms, { zone });
      hours.set(key, (hour = (at.weekday - 1) * 24 + at.hour));
    }
    return hour;
  };
  return rehearse(
    rule,
    lines.map((line) => {
      const gauges = new Float64Array(line.gauges, 0, line.count);
      const extremes = new Float64Array(line.extremes);
      if (isFresh) fillExtremes(gauges, extremes);
      return { tags: line.tags, run: { gauges, firstMs, stepMs, extremes } };
    }),
    from,
    to,
    hourOfWeek,
  );
}
