import { tagOf } from "../counters/set-tag.ts";
import type { Tags } from "../counters/counter.ts";
import { globOf } from "../counters/glob.ts";
import type { FileSeries } from "../pages/file-series.ts";

/**
 * Which series a rule is for: a counter's name and tags, with * for any characters. A tag that is not there is as if it
 * were empty.
 */
interface Which {
  readonly counter: string;
  readonly where?: Tags;
}

/**
 * One thing to do with what a source sends. Rules run from the first to the last; each sees what those before it made.
 */
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

/** What becomes of a series under rules; undefined where it is left. */
export function applyTakeRules(rules: readonly TakeRule[], series: FileSeries): TakenSeries | undefined {
  let { counter, unit } = series;
  let tags: Record<string, string> = { ...series.tags };
  let factor = 1;
  let taken = true;
  for (const rule of rules) {
    const stars = globOf(rule.counter).match(counter);
    if (
      !stars ||
      !Object.entries(rule.where ?? {}).every(([tag, pattern]) => globOf(pattern).match(tagOf(tags, tag) ?? ""))
    )
      continue;
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
