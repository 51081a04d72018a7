import type { Tags } from "../counters/counter.ts";
import { tagOf } from "../counters/set-tag.ts";
import { globOf } from "../counters/glob.ts";
import type { Condition } from "./document.ts";

/** Whether a series' tags meet every condition. A tag that a series lacks counts as the empty text. */
export function meets(tags: Tags, where: readonly Condition[]): boolean {
  return where.every((condition) => {
    const value = tagOf(tags, condition.tag) ?? "";
    if (condition.is && !condition.is.includes(value)) return false;
    if (condition.not?.includes(value)) return false;
    return condition.like === undefined || isLike(value, condition.like);
  });
}

/** Whether a text fits a pattern with * for any run of characters. */
export function isLike(value: string, pattern: string): boolean {
  return globOf(pattern).match(value) !== undefined;
}
