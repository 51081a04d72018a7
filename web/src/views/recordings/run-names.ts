import type { CounterView } from "../../../../core/api/counters.ts";
import type { Sentence } from "../../../../core/reading/document.ts";
import { conditionWords } from "../../../../core/reading/sentence-words.ts";
import { lineNames, type NamedLine } from "../../charts/line-names.ts";

/**
 * Names the lines of a run: by the counter's words where several sentences are drawn, and by the tags in which the
 * lines of a sentence differ.
 */
export function runLineNames(
  lines: readonly NamedLine[],
  sentences: Readonly<Record<string, Sentence>>,
  counters: readonly Pick<CounterView, "name" | "words">[],
): (line: NamedLine) => string {
  const words = sentenceNames(sentences, counters);
  const several = new Set(lines.map(({ of }) => of)).size > 1;
  const own = new Map(
    [...new Set(lines.map(({ of }) => of))].map((name) => {
      const its = lines.filter(({ of }) => of === name);
      return [name, { name: lineNames(its), alone: its.length === 1 }] as const;
    }),
  );
  return (line) => {
    const of = own.get(line.of);
    const value = of?.name(line) ?? "";
    const sentence = words.get(line.of) ?? line.of;
    if (!several) return of?.alone && Object.keys(line.tags).length === 0 ? sentence : value || sentence;
    // What differs comes first: names are cut where there is little room.
    return of?.alone ? sentence : `${value}, ${sentence}`;
  };
}

/** Each sentence by its counter's words, with its conditions where another has the same counter. */
function sentenceNames(
  sentences: Readonly<Record<string, Sentence>>,
  counters: readonly Pick<CounterView, "name" | "words">[],
): ReadonlyMap<string, string> {
  const all = Object.entries(sentences);
  return new Map(
    all.map(([name, { counter, where = [] }]) => {
      const words = counters.find((one) => one.name === counter)?.words ?? counter;
      const isRepeated = all.filter(([, other]) => other.counter === counter).length > 1;
      return [name, isRepeated && where.length > 0 ? `${words} (${where.map(conditionWords).join(", ")})` : words];
    }),
  );
}
