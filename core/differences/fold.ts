import type { Tags } from "../counters/counter.ts";
import { subjectOf } from "../counters/subject.ts";

/** A line that left its usual, with the moment from which on it did. */
export interface Moved {
  readonly counter: string;
  readonly tags: Tags;
  readonly unit: string;
  readonly atMs: number;
  readonly was: number;
  readonly usual: number;
  readonly score: number;
}

/** What of one machine's subject was different: lines of one cause are one entry. */
export interface DifferenceEntry {
  readonly machine: string;
  readonly subject: string;
  /** When the first of its weighty lines moved. */
  readonly atMs: number;
  readonly score: number;
  /** By rank. */
  readonly lines: readonly Moved[];
}

/** Lines with at least this share of their entry's highest score say when it began. */
const weighty = 0.5;
/** What weighs less is told to nobody: a job that did not run at this hour, of which there are some in every house. */
const leastScore = 0.8;
/** What many lines of a subject that moved together add to the score of the first, for each doubling. */
const perDoubling = 0.15;

/** The higher score first; of equal ones by name, so that the same lines are always told in the same order. */
function byRank(a: Moved, b: Moved): number {
  return b.score - a.score || (a.counter < b.counter ? -1 : a.counter > b.counter ? 1 : 0);
}

/** Folds lines by machine and subject, by rank: the highest score of a line, and a little for how many moved with it. */
export function foldMoved(moved: readonly Moved[]): readonly DifferenceEntry[] {
  const groups = new Map<string, Moved[]>();
  for (const line of moved) {
    const key = JSON.stringify([line.tags["machine"] ?? "", subjectOf(line.counter)]);
    const group = groups.get(key);
    if (group) group.push(line);
    else groups.set(key, [line]);
  }
  return [...groups]
    .map(([key, group]): DifferenceEntry => {
      const [machine, subject] = JSON.parse(key) as [string, string];
      const lines = group.sort(byRank);
      const top = (lines[0] as Moved).score;
      const first = lines.filter(({ score }) => score >= top * weighty);
      return {
        machine,
        subject,
        atMs: Math.min(...first.map(({ atMs }) => atMs)),
        score: top * (1 + perDoubling * Math.log2(lines.length)),
        lines,
      };
    })
    .filter(({ score }) => score >= leastScore)
    .sort((a, b) => b.score - a.score);
}
