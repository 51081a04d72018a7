import type { Tags } from "../counters/counter.ts";
import type { Condition, ReadingDocument, Sentence } from "../reading/document.ts";
import { stepWords } from "../reading/sentence-words.ts";

/**
 * A choice above a dashboard's tiles: of a tag's values (those there are, or a list of one's own), or of the length of
 * a step.
 */
export interface Picker {
  /** Unique in its dashboard; the address speaks of it. */
  readonly id: string;
  readonly title?: string;
  /** Whose values are picked; a picker without a tag picks a step. */
  readonly tag?: string;
  /** A list of one's own in the place of what there is. */
  readonly values?: readonly string[];
  /** Seconds, of a picker of steps. */
  readonly steps?: readonly number[];
  readonly choose: "one" | "several";
  /** What is picked at first; none: all, or the first where one is chosen. */
  readonly start?: readonly string[];
}

/** What is picked, by picker; an empty list is all. */
export type Picks = Readonly<Record<string, readonly string[]>>;

export const pickerTitle = ({ title, tag }: Picker): string => title || tag || "step";
/** Each picked value draws a tile of its own up to so many. */
export const mostRepeats = 24;

/**
 * What can be picked now: values of the tag among `present` (tags of what reports), within what is picked above it:
 * machines of the
 * picked site. What is picked stays among them, so that it can be taken back.
 */
export function choicesOf(
  picker: Picker,
  pickers: readonly Picker[],
  picks: Picks,
  present: readonly Tags[],
): readonly string[] {
  const picked = picks[picker.id] ?? [];
  const { tag } = picker;
  if (tag === undefined) return [...new Set([...(picker.steps ?? []).map(String), ...picked])];
  const above = pickers.slice(0, pickers.indexOf(picker));
  const fits = (tags: Tags) =>
    above.every(
      ({ id, tag: other }) =>
        other === undefined || (picks[id] ?? []).length === 0 || (picks[id] ?? []).includes(tags[other] ?? ""),
    );
  const there = new Set(present.flatMap((tags) => (tags[tag] !== undefined && fits(tags) ? [tags[tag]] : [])));
  // A list of one's own keeps its order; what is not there within the picks above is left out, unless nobody reports
  // the tag at all.
  const known = picker.values
    ? picker.values.filter((value) => there.has(value) || !present.some((tags) => tags[tag] === value))
    : [...there].sort((a, b) => a.localeCompare(b, "en", { numeric: true }));
  return [...new Set([...known, ...picked])];
}

/**
 * What is picked in fact: where one is chosen and nothing is said, the one of which most counters report (`weights`, by
 * combination of
 * `present`), the first of those by name.
 */
export function effectivePicks(
  pickers: readonly Picker[],
  picks: Picks,
  present: readonly Tags[],
  weights: readonly number[] = [],
): Picks {
  const made: Record<string, readonly string[]> = {};
  for (const picker of pickers) {
    const said = picks[picker.id] ?? [];
    const { tag } = picker;
    if (picker.choose !== "one" || tag === undefined || said.length > 0) {
      made[picker.id] = picker.choose === "one" ? said.slice(0, 1) : said;
      continue;
    }
    const weightOf = (value: string) =>
      present.reduce((most, tags, i) => (tags[tag] === value ? Math.max(most, weights[i] ?? 0) : most), 0);
    const choices = choicesOf(picker, pickers, made, present);
    const best = choices.reduce<string | undefined>(
      (a, b) => (a === undefined || weightOf(b) > weightOf(a) ? b : a),
      undefined,
    );
    made[picker.id] = best === undefined ? [] : [best];
  }
  return made;
}

/**
 * A reading within the picks, and which pickers changed it: those whose tag a sentence's counter has, and that the tile
 * does not leave aside.
 */
export function pickedReading<R extends Omit<ReadingDocument, "window">>(
  reading: R,
  pickers: readonly Picker[],
  picks: Picks,
  hasTag: (counter: string, tag: string) => boolean,
  ignores: readonly string[] = [],
): { readonly reading: R; readonly by: readonly Picker[] } {
  const used = new Set<Picker>();
  let picked = reading;
  for (const picker of pickers) {
    const values = picks[picker.id] ?? [];
    const { tag } = picker;
    if (values.length === 0 || ignores.includes(picker.id)) continue;
    if (tag === undefined) {
      picked = { ...picked, step: Number(values[0]) };
      used.add(picker);
      continue;
    }
    const sentences = Object.entries(picked.sentences).map(([name, sentence]): [string, Sentence] => {
      if (!hasTag(sentence.counter, tag)) return [name, sentence];
      used.add(picker);
      const more: Condition = { tag, is: values };
      return [name, { ...sentence, where: [...(sentence.where ?? []), more] }];
    });
    picked = { ...picked, sentences: Object.fromEntries(sentences) };
  }
  return { reading: picked, by: [...used] };
}

/** "all", "vault", "vault and hive", "3 of 7"; a step in its words. */
export function pickWords(picker: Picker, picked: readonly string[], of: number): string {
  const words = picked.map((value) => (picker.tag === undefined ? stepWords(Number(value)) : value || "nothing"));
  if (words.length === 0) return picker.tag === undefined ? "as it suits" : "all";
  return words.length <= 2 ? words.join(" and ") : `${words.length} of ${Math.max(of, words.length)}`;
}
