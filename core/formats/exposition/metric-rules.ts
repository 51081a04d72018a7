import { TextError } from "../../pages/text-error.ts";
import type { LineHead } from "./sample-line.ts";

/** Suffixes that samples of a type have besides their family's name (OpenMetrics 1.0). */
export const suffixes: Readonly<Record<string, readonly string[]>> = {
  counter: ["_total", "_created"],
  histogram: ["_bucket", "_count", "_sum", "_created"],
  gaugehistogram: ["_bucket", "_gcount", "_gsum"],
  summary: ["", "_count", "_sum", "_created"],
  info: ["_info"],
};

/** What a metric of a family has been told of: where its samples stand that need another one beside them. */
interface Told {
  /** Something besides its time of creation. */
  own: boolean;
  buckets: boolean;
  negative: boolean;
  /** The first line that needs buckets, or something of its own. */
  needs: { readonly name: string; readonly line: number } | undefined;
  sum: number | undefined;
  trueStates: number;
}

/**
 * Holds the samples of one family to OpenMetrics' rules about what stands beside what. One for each family of a page.
 */
export class MetricRules {
  readonly #metrics = new Map<string, Told>();

  /** `value` is that of the line; of one that was read before, 0. Throws TextError. */
  sample(type: string, suffix: string, family: string, head: LineHead, value: number, line: number): void {
    const fail = (message: string) => new TextError(message, line, 1);
    if (type === "info" && value !== 1) throw fail(`the value of the info ${family} is always 1`);
    if (type === "stateset" && value !== 0 && value !== 1) throw fail(`a state of ${family} is 0 or 1`);
    if (!["counter", "histogram", "gaugehistogram", "summary", "stateset"].includes(type)) return;
    const told = this.#of(type, family, head);
    if (type === "stateset") {
      told.trueStates += value;
      if (told.trueStates > 1) throw fail(`two states of ${family} are 1 at once`);
      return;
    }
    if (suffix === "_created") told.needs ??= { name: head.name, line };
    else told.own = true;
    if (suffix === "_bucket") {
      told.buckets = true;
      const le = Number(head.labels.find(([label]) => label === "le")?.[1]);
      told.negative ||= le < 0;
    } else if (type.endsWith("histogram")) told.needs ??= { name: head.name, line };
    if (suffix === "_sum") told.sum = line;
    if (type === "histogram" && told.negative && told.sum !== undefined)
      throw fail(`the histogram ${family} has buckets below 0, so it has no sum: that would not only grow`);
  }

  /** The family is over. Throws TextError. */
  end(type: string): void {
    for (const { needs, own, buckets } of this.#metrics.values()) {
      if (!needs) continue;
      if (type.endsWith("histogram") && !buckets)
        throw new TextError(`${needs.name} stands there without buckets`, needs.line, 1);
      if (!own)
        throw new TextError(`${needs.name} stands there alone: a time of creation belongs to a value`, needs.line, 1);
    }
  }

  #of(type: string, family: string, { labels }: LineHead): Told {
    const apart = type === "stateset" ? family : type === "summary" ? "quantile" : "le";
    const key = JSON.stringify(labels.filter(([label]) => label !== apart));
    let told = this.#metrics.get(key);
    if (!told)
      this.#metrics.set(
        key,
        (told = { own: false, buckets: false, negative: false, needs: undefined, sum: undefined, trueStates: 0 }),
      );
    return told;
  }
}
