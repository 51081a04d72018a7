import type { NamedReading } from "../../sentence/named-reading.ts";
import type { CounterView } from "../../../../core/api/counters.ts";
import { answersTo, typedWords } from "../../../../core/text/typed-words.ts";
import { ofAllMachines } from "./band.ts";
import { bands } from "./bands.ts";

/** What people mean by a word, worked out of counters of every machine: "processor busy", a line each. */
export interface NamedFigure extends NamedReading {
  readonly unit: string;
}

/** The figures of the bands for all machines, of which all counters are gathered; in the bands' order. */
export function namedFigures(counters: readonly Pick<CounterView, "name">[]): readonly NamedFigure[] {
  const names = new Set(counters.map(({ name }) => name));
  return bands.flatMap(({ id, title, figure }): NamedFigure[] => {
    const reading = figure.reading("");
    if (!Object.values(reading.sentences).every(({ counter }) => names.has(counter))) return [];
    return [
      {
        id,
        words: figure.words,
        subject: title,
        explains: figure.explains ?? figure.words,
        unit: figure.unit,
        reading: ofAllMachines(reading),
      },
    ];
  });
}

/** Those that answer to what is typed, in any order of words; all where nothing is. */
export function findFigures(figures: readonly NamedFigure[], typed: string): readonly NamedFigure[] {
  const wanted = typedWords(typed);
  return figures.filter(({ words, subject }) => answersTo(wanted, `${words} ${subject}`) > 0);
}
