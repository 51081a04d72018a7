import { seriesKey } from "../counters/series-key.ts";
import { figures, present } from "../units/present.ts";
import type { LineNumbers } from "./line-numbers.ts";

/** A line that two runs have, and how the second stands to the first. */
export interface BesideLine {
  readonly first: LineNumbers;
  readonly second: LineNumbers;
  /** Second by first: of a total its growth, else the mean. Null where the first is none, or one is not known. */
  readonly times: number | null;
}

export interface BesideRuns {
  readonly lines: readonly BesideLine[];
  /** Lines that only one of the two has. */
  readonly onlyFirst: readonly LineNumbers[];
  readonly onlySecond: readonly LineNumbers[];
}

/** Nobody calls a tenth more another figure. */
const sameWithin = 0.1;

/** Lays the lines of two runs of one recording beside each other. */
export function besideRuns(first: readonly LineNumbers[], second: readonly LineNumbers[]): BesideRuns {
  const keyOf = ({ of, tags }: LineNumbers) => seriesKey(of, tags);
  const firsts = new Map(first.map((line) => [keyOf(line), line]));
  const seconds = new Set(second.map(keyOf));
  return {
    lines: second.flatMap((line) => {
      const other = firsts.get(keyOf(line));
      return other ? [{ first: other, second: line, times: timesOf(other, line) }] : [];
    }),
    onlyFirst: first.filter((line) => !seconds.has(keyOf(line))),
    onlySecond: second.filter((line) => !firsts.has(keyOf(line))),
  };
}

function timesOf(first: LineNumbers, second: LineNumbers): number | null {
  const before = figureOf(first);
  const after = figureOf(second);
  return before === null || after === null || before <= 0 ? null : after / before;
}

/** What a line is compared by. */
const figureOf = ({ sum, mean }: LineNumbers): number | null => (sum ? sum.value : mean);

/** The difference in words, for after a line's name: "2.1 times the run before". */
export function besideWords({ first, second, times }: BesideLine): string {
  const before = figureOf(first);
  const after = figureOf(second);
  const shown = ({ sum, mean, unit }: LineNumbers) => {
    const { text, unit: shownUnit } = sum ? present(sum.value, sum.unit) : present(mean, unit);
    return `${text} ${shownUnit}`.trim();
  };
  if (before === null || after === null) return "not known in both";
  if (times === null)
    return before === after ? "nothing, as before" : `${shown(second)}, ${shown(first)} the run before`;
  if (Math.abs(times - 1) <= sameWithin) return "about as in the run before";
  return `${figures(times)} times the run before`;
}
