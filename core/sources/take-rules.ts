import type { Tags } from "../counters/counter.ts";
import type { FileSeries } from "../formats/samples/sample-format.ts";

/** Which series a rule is for: a counter's name and tags, with * for any characters. A tag that is not there is as if it were empty. */
export interface Which {
  readonly counter: string;
  readonly where?: Tags;
}

/** One thing to do with what a source sends. Rules run from the first to the last; each sees what those before it made. */
export type TakeRule =
  /** The last of these two that fits decides; what none fits is taken. */
  | ({ readonly do: "take" | "leave" } & Which)
  /** `to` may use the pieces that the stars of `counter` stood for, as *, in their order. */
  | ({ readonly do: "rename"; readonly to: string } & Which)
  /** Sets a tag, also over one that is there. */
  | ({ readonly do: "tag"; readonly tag: string; readonly value: string } & Which)
  | ({ readonly do: "rename tag"; readonly tag: string; readonly to: string } & Which)
  | ({ readonly do: "drop tag"; readonly tag: string } & Which)
  /** Multiplies, and says in which unit the result is. */
  | ({ readonly do: "scale"; readonly factor: number; readonly unit: string } & Which);

export interface TakenSeries extends FileSeries {
  /** What values are multiplied with. */
  readonly factor: number;
}

/** Names and values matched by a text with stars. */
export interface Glob {
  /** What the stars stood for; undefined where the text does not fit. */
  match(text: string): readonly string[] | undefined;
}

const globs = new Map<string, Glob>();
const mostGlobs = 2000;

/** A text with * for any characters, also none. It takes time in proportion to the length, whatever the stars. */
export function globOf(pattern: string): Glob {
  const known = globs.get(pattern);
  if (known) return known;
  const made = makeGlob(pattern.split("*"));
  if (globs.size >= mostGlobs) globs.clear();
  globs.set(pattern, made);
  return made;
}

/** Between stars each piece stands at its first place after the one before; the last piece stands at the end. */
function makeGlob(pieces: readonly string[]): Glob {
  const [first = "", ...rest] = pieces;
  const last = rest.pop();
  return {
    match(text) {
      if (last === undefined) return text === first ? [] : undefined;
      if (!text.startsWith(first) || !text.endsWith(last) || text.length < first.length + last.length) return undefined;
      const stars: string[] = [];
      let at = first.length;
      const end = text.length - last.length;
      for (const piece of rest) {
        const found = text.indexOf(piece, at);
        if (found < 0 || found + piece.length > end) return undefined;
        stars.push(text.slice(at, found));
        at = found + piece.length;
      }
      stars.push(text.slice(at, end));
      return stars;
    },
  };
}

/** What becomes of a series under rules; undefined where it is left. */
export function applyTakeRules(rules: readonly TakeRule[], series: FileSeries): TakenSeries | undefined {
  let { counter, unit } = series;
  let tags: Record<string, string> = { ...series.tags };
  let factor = 1;
  let taken = true;
  for (const rule of rules) {
    const stars = globOf(rule.counter).match(counter);
    if (!stars || !Object.entries(rule.where ?? {}).every(([tag, pattern]) => globOf(pattern).match(tags[tag] ?? ""))) continue;
    switch (rule.do) {
      case "take":
      case "leave":
        taken = rule.do === "take";
        break;
      case "rename": {
        let i = 0;
        counter = rule.to.replace(/\*/g, () => stars[i++] ?? "");
        break;
      }
      case "tag":
        tags = { ...tags, [rule.tag]: rule.value };
        break;
      case "rename tag":
      case "drop tag": {
        const { [rule.tag]: value, ...others } = tags;
        tags = value === undefined || rule.do === "drop tag" ? others : { ...others, [rule.to]: value };
        break;
      }
      case "scale":
        factor *= rule.factor;
        unit = rule.unit;
        break;
    }
  }
  return taken ? { counter, tags, unit, kind: series.kind, factor } : undefined;
}
