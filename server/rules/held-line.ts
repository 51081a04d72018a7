import { further } from "../../core/rules/rehearse.ts";
import type { Effect, LineState, Rule } from "../../core/rules/rule.ts";
import { isStill, lineStateFor, openSeverity, stepLine } from "../../core/rules/step-line.ts";
import type { Tags } from "../../core/counters/counter.ts";
import type { StoredLine } from "./incident-rows.ts";

/** What of a held line changes. */
interface Standing {
  readonly state: LineState;
  /** Its open incident; null where there is none, or it was closed by hand. */
  readonly incidentId: number | null;
  readonly value: number | null;
  readonly unit: string;
  /** The furthest value beyond the limit since it was raised. */
  readonly furthest: number | null;
  /** The moment of the newest figure that was checked, ms. */
  readonly checkedMs: number;
  /** Since when nobody tells of it, ms; undefined while somebody does. */
  readonly missingMs: number | undefined;
}

/** A step that changed where a line stands; its effect is what becomes of the incident, if anything does. */
export interface Stepped {
  readonly effect: Effect | undefined;
}

/**
 * One line of a rule between checks. It is moved by these and nothing else:
 *
 *  - `answer`: its rule's reading has it; it is not missed any more.
 *  - `miss`: the reading has it no more.
 *  - `step`: a figure, or that there is none, was looked at.
 *  - `keep`: which incident is open of it now, once that is stored.
 *  - `rebase`: the clock was set back.
 */
export class HeldLine {
  readonly key: string;
  readonly tags: Tags;
  #standing: Standing = {
    state: { notice: null, urgent: null },
    incidentId: null,
    value: null,
    unit: "1",
    furthest: null,
    checkedMs: Number.NEGATIVE_INFINITY,
    missingMs: undefined,
  };

  constructor(key: string, tags: Tags) {
    this.key = key;
    this.tags = tags;
  }

  /** As it stands in the database. What was checked since its last change changed nothing: checking it again changes nothing either. */
  static stored({ line, tags, state, incidentId }: StoredLine): HeldLine {
    const held = new HeldLine(line, tags);
    held.#move({ state, incidentId, checkedMs: sinceMs(state) });
    return held;
  }

  get state(): LineState {
    return this.#standing.state;
  }

  get incidentId(): number | null {
    return this.#standing.incidentId;
  }

  get value(): number | null {
    return this.#standing.value;
  }

  get unit(): string {
    return this.#standing.unit;
  }

  get furthest(): number | null {
    return this.#standing.furthest;
  }

  get checkedMs(): number {
    return this.#standing.checkedMs;
  }

  answer(unit: string): void {
    this.#move({ unit, missingMs: undefined });
  }

  /** Since when it is missed. */
  miss(nowMs: number): number {
    const missingMs = this.#standing.missingMs ?? nowMs;
    this.#move({ missingMs });
    return missingMs;
  }

  /** Looks at a figure, null where there is none at that moment. Undefined where the line stands as before. */
  step(rule: Rule, given: number | null, atMs: number): Stepped | undefined {
    const before = this.#standing;
    const value = given !== null && Number.isFinite(given) ? given : null;
    this.#move({ value, checkedMs: atMs });
    const state = lineStateFor(rule, before.state, atMs);
    const isNew = state.notice !== before.state.notice || state.urgent !== before.state.urgent;
    if (given !== null && !isNew && isStill(rule, state, given)) return undefined;
    const next = stepLine(rule, state, given, atMs);
    this.#move({ state: next.state, furthest: furthestOf(rule, next.state, before.furthest, value) });
    return next.effect || isNew || next.state !== before.state ? { effect: next.effect } : undefined;
  }

  keep(incidentId: number | null): void {
    this.#move({ incidentId });
  }

  /** Nothing was checked, or began, after the present. */
  rebase(nowMs: number): void {
    this.#move({ checkedMs: Math.min(this.checkedMs, nowMs), state: begunBy(this.state, nowMs) });
  }

  #move(to: Partial<Standing>): void {
    this.#standing = { ...this.#standing, ...to };
  }
}

function furthestOf(rule: Rule, state: LineState, before: number | null, value: number | null): number | null {
  if (openSeverity(state) === null) return null;
  return value === null ? before : further(rule.compare, rule.notice ?? rule.urgent ?? {}, before, value);
}

const sinceMs = ({ notice, urgent }: LineState) =>
  Math.max(notice?.sinceMs ?? Number.NEGATIVE_INFINITY, urgent?.sinceMs ?? Number.NEGATIVE_INFINITY);

const begunBy = ({ notice, urgent }: LineState, nowMs: number): LineState => ({
  notice: notice && { ...notice, sinceMs: Math.min(notice.sinceMs, nowMs) },
  urgent: urgent && { ...urgent, sinceMs: Math.min(urgent.sinceMs, nowMs) },
});
