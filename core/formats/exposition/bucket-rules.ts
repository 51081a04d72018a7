import { TextError } from "../../pages/text-error.ts";
import type { LineHead } from "./sample-line.ts";

interface Bucketed {
  readonly of: string;
  upTo: number;
  count: number;
}

/**
 * Holds the buckets of one metric to OpenMetrics' rules: bounds ascend, counts do not fall, the last bound is +Inf and
 * has the metric's count.
 */
export class BucketRules {
  #open: Bucketed | undefined;

  /** Whether the bucket is the first of its metric at its time. */
  bucket(head: LineHead, upTo: number, count: number, grows: boolean, line: number): boolean {
    const of = keyOf(head, "_bucket");
    const isOther = this.#open?.of !== of;
    if (isOther) {
      this.end(line);
      this.#open = { of, upTo: Number.NEGATIVE_INFINITY, count: 0 };
    }
    const open = this.#open as Bucketed;
    const again = !(upTo > open.upTo) && open.upTo === Number.POSITIVE_INFINITY; // the same metric at its next time
    if (again) Object.assign(open, { upTo: Number.NEGATIVE_INFINITY, count: 0 });
    if (!(upTo > open.upTo))
      throw new TextError(`the buckets of ${head.name} are not in ascending order of le`, line, 1);
    if (grows && count < open.count)
      throw new TextError(
        `the buckets of ${head.name} hold ${count} up to ${upTo}, and ${open.count} up to less`,
        line,
        1,
      );
    open.upTo = upTo;
    open.count = count;
    return isOther || again;
  }

  /** Whether a sample is the count of the buckets that were read last. */
  isCount(head: LineHead): boolean {
    return (
      this.#open !== undefined &&
      this.#open.upTo === Number.POSITIVE_INFINITY &&
      keyOf(head, "_count") === this.#open.of
    );
  }

  other(head: LineHead, value: number, line: number): void {
    const open = this.#open;
    if (!open) return;
    if (keyOf(head, "_count") === open.of && open.upTo === Number.POSITIVE_INFINITY && value !== open.count) {
      throw new TextError(`${head.name} is ${value}, and its bucket +Inf ${open.count}`, line, 1);
    }
    if (keyOf(head, /_(count|sum|gcount|gsum|created)$/.exec(head.name)?.[0] ?? "") !== open.of) this.end(line);
  }

  end(line: number): void {
    const open = this.#open;
    this.#open = undefined;
    if (open && open.upTo !== Number.POSITIVE_INFINITY)
      throw new TextError(`the buckets of ${open.of.split("{")[0]} have none for +Inf`, line);
  }
}

function keyOf({ name, labels }: LineHead, suffix: string): string {
  return `${suffix !== "" && name.endsWith(suffix) ? name.slice(0, -suffix.length) : name}{${JSON.stringify(labels.filter(([label]) => label !== "le"))}`;
}
