import type { Condition, Sentence } from "../reading/document.ts";
import type { Dashboard, Tile } from "./dashboard.ts";

/** A counter that there is here. */
export interface KnownCounter {
  readonly name: string;
  readonly unit: string;
  readonly tags: readonly { readonly tag: string; readonly values: readonly string[] }[];
}

/** A counter, or a tag's value, that a dashboard speaks of and that is not here, and what is likest to it. */
export interface Missing {
  readonly kind: "counter" | "value";
  /** The counter, or the tag. */
  readonly name: string;
  /** Of a tag. */
  readonly value?: string;
  /** Titles of the tiles that read it. */
  readonly tiles: readonly string[];
  /** What is here, the likest first. */
  readonly choices: readonly string[];
}

/** What stands for what is missing: by counter's name, and by `tag=value`. Nothing chosen leaves it as it is. */
export type Matches = Readonly<Record<string, string>>;
export const matchKey = ({ kind, name, value }: Pick<Missing, "kind" | "name" | "value">): string =>
  kind === "counter" ? name : `${name}=${value}`;

/**
 * What a dashboard's sentences speak of and nobody reports here. A value is missing where no counter's tag has it; of
 * counters with very many values not all are known.
 */
export function missingHere(
  { tiles }: Dashboard,
  known: readonly KnownCounter[],
  mostValues: number,
): readonly Missing[] {
  const names = new Set(known.map(({ name }) => name));
  const values = new Map<string, Set<string>>();
  const open = new Set<string>();
  for (const { tags } of known) {
    for (const { tag, values: some } of tags) {
      values.set(tag, new Set([...(values.get(tag) ?? []), ...some]));
      if (some.length >= mostValues) open.add(tag);
    }
  }
  const found = new Map<string, Missing>();
  const add = (one: Omit<Missing, "tiles">, { title, id }: Tile) => {
    const key = matchKey(one);
    const before = found.get(key);
    found.set(key, { ...one, tiles: [...new Set([...(before?.tiles ?? []), title || id])] });
  };
  for (const tile of tiles) {
    for (const sentence of sentencesOf(tile)) {
      if (!names.has(sentence.counter))
        add({ kind: "counter", name: sentence.counter, choices: likest(sentence.counter, [...names]) }, tile);
      for (const { tag, is, not } of conditionsOf(sentence)) {
        if (open.has(tag)) continue;
        for (const value of [...(is ?? []), ...(not ?? [])])
          if (!values.get(tag)?.has(value))
            add({ kind: "value", name: tag, value, choices: likest(value, [...(values.get(tag) ?? [])]) }, tile);
      }
    }
  }
  return [...found.values()];
}

/** The dashboard with what was chosen in the place of what is missing. */
export function matched(document: Dashboard, matches: Matches): Dashboard {
  const chosenOf = (tag: string) => (value: string) => matches[matchKey({ kind: "value", name: tag, value })] || value;
  const conditionOf = (condition: Condition): Condition => ({
    ...condition,
    ...(condition.is && { is: condition.is.map(chosenOf(condition.tag)) }),
    ...(condition.not && { not: condition.not.map(chosenOf(condition.tag)) }),
  });
  const sentenceOf = (sentence: Sentence): Sentence => ({
    ...sentence,
    counter: matches[sentence.counter] || sentence.counter,
    ...(sentence.where && { where: conditionsOf(sentence).map(conditionOf) }),
  });
  const tileOf = (tile: Tile): Tile =>
    tile.reading
      ? {
          ...tile,
          reading: {
            ...tile.reading,
            sentences: Object.fromEntries(
              Object.entries(tile.reading.sentences).map(([name, sentence]) => [name, sentenceOf(sentence)]),
            ),
          },
        }
      : tile;
  return { ...document, tiles: document.tiles.map(tileOf) };
}

/** Files from elsewhere may hold anything: what is no sentence is left to the server's check. */
function sentencesOf({ reading }: Tile): readonly Sentence[] {
  return Object.values(reading?.sentences ?? {}).filter((sentence) => typeof sentence?.counter === "string");
}

function conditionsOf({ where }: Sentence): readonly Condition[] {
  return Array.isArray(where) ? where.filter((condition) => typeof condition?.tag === "string") : [];
}

const mostChoices = 200;

/** By how many pairs of neighbouring letters they have in common (Dice's coefficient, 1945); the likest first. */
function likest(wanted: string, all: readonly string[]): readonly string[] {
  const pairs = (text: string) =>
    new Set(Array.from({ length: Math.max(0, text.length - 1) }, (_, i) => text.slice(i, i + 2).toLowerCase()));
  const own = pairs(wanted);
  const likeness = (other: string) => {
    const theirs = pairs(other);
    const common = [...own].filter((pair) => theirs.has(pair)).length;
    return own.size + theirs.size === 0 ? 0 : (2 * common) / (own.size + theirs.size);
  };
  return all
    .map((one) => ({ one, like: likeness(one) }))
    .sort((a, b) => b.like - a.like || a.one.localeCompare(b.one))
    .slice(0, mostChoices)
    .map(({ one }) => one);
}
