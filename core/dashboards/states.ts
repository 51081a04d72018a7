import { figures } from "../units/present.ts";
import type { Severity } from "../rules/rule.ts";
import { passedLimit, type TileLimit } from "./limits.ts";

/** From this value on (up to the next one's) a line is in this state. */
export interface StateWord {
  readonly from: number;
  readonly words: string;
  readonly signal?: Severity;
}

/** A stretch in one state; times in ms, half-open. */
export interface StateSpell {
  readonly fromMs: number;
  readonly toMs: number;
  readonly words: string;
  readonly signal: Severity | null;
}

const mostPlain = 8;

/**
 * The states of a line over time: steps in the same state join, a step without a value is in none. Where no words are
 * given, limits make
 * the states, and without those each whole number of a few is one. Null where the values are too many to be states.
 */
export function stateSpells(
  values: readonly (number | null)[],
  firstMs: number,
  stepMs: number,
  states: readonly StateWord[] = [],
  limits: readonly TileLimit[] = [],
): readonly StateSpell[] | null {
  const ordered = [...states].sort((a, b) => a.from - b.from);
  if (ordered.length === 0 && limits.length === 0) {
    const distinct = new Set(values.filter((value) => value !== null));
    if (distinct.size > mostPlain || [...distinct].some((value) => !Number.isInteger(value))) return null;
  }
  const spells: StateSpell[] = [];
  values.forEach((value, i) => {
    if (value === null) return;
    const { words, signal } = stateOf(value, ordered, limits);
    const fromMs = firstMs + i * stepMs;
    const before = spells.at(-1);
    if (before && before.toMs === fromMs && before.words === words)
      spells[spells.length - 1] = { ...before, toMs: fromMs + stepMs };
    else spells.push({ fromMs, toMs: fromMs + stepMs, words, signal });
  });
  return spells;
}

function stateOf(
  value: number,
  ordered: readonly StateWord[],
  limits: readonly TileLimit[],
): { readonly words: string; readonly signal: Severity | null } {
  if (ordered.length > 0) {
    const state = ordered.findLast(({ from }) => value >= from);
    return { words: state?.words ?? `below ${figures(ordered[0]?.from ?? 0)}`, signal: state?.signal ?? null };
  }
  const passed = passedLimit(limits, value);
  return limits.length > 0
    ? { words: passed ?? "within its limits", signal: passed }
    : { words: figures(value), signal: null };
}
