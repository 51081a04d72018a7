import { typedWords } from "../text/typed-words.ts";

/** What counters are found by. */
export interface Findable {
  readonly name: string;
  readonly words: string;
  readonly explains: string;
  readonly machines: readonly string[];
  readonly tags: readonly { readonly tag: string; readonly values: readonly string[] }[];
}

/**
 * The counters that have every typed word somewhere: in their plain words, their name, what explains them, a tag or one
 * of its values; a word, or another that people say for it. What is found in the
 * words stands first, then in the name, then elsewhere; each in order of their words. Nothing typed finds all.
 */
export function findCounters<T extends Findable>(counters: readonly T[], typed: string): readonly T[] {
  const wanted = typedWords(typed);
  const found: { readonly counter: T; readonly rank: number }[] = [];
  for (const counter of counters) {
    let rank = 0;
    for (const { word, others } of wanted)
      rank += Math.min(placeOf(counter, word), ...others.map((other) => saidOtherwise + placeOf(counter, other)));
    if (rank < nowhere) found.push({ counter, rank });
  }
  return found
    .sort((a, b) => a.rank - b.rank || a.counter.words.localeCompare(b.counter.words, "en", { numeric: true }))
    .map(({ counter }) => counter);
}

const nowhere = Number.POSITIVE_INFINITY;
/** What another word finds stands as far behind. */
const saidOtherwise = 1.5;

function placeOf({ name, words, explains, machines, tags }: Findable, word: string): number {
  const has = (text: string) => text.toLowerCase().includes(word);
  if (words.toLowerCase().startsWith(word)) return 0;
  if (has(words)) return 1;
  if (has(name)) return 2;
  if (tags.some(({ tag }) => has(tag)) || machines.some(has) || tags.some(({ values }) => values.some(has))) return 4;
  return has(explains) ? 5 : nowhere;
}
