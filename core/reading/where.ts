import type { Tags } from "../counters/counter.ts";
import type { Condition } from "./document.ts";

/** Whether a series' tags meet every condition. A tag that a series lacks counts as the empty text. */
export function meets(tags: Tags, where: readonly Condition[]): boolean {
  return where.every((condition) => {
    const value = tags[condition.tag] ?? "";
    if (condition.is && !condition.is.includes(value)) return false;
    if (condition.not?.includes(value)) return false;
    return condition.like === undefined || isLike(value, condition.like);
  });
}

/** Matches `*` for any run of characters, in linear time: the pieces between stars must follow one another. */
export function isLike(value: string, pattern: string): boolean {
  const pieces = pattern.split("*");
  const head = pieces[0] as string;
  const tail = pieces[pieces.length - 1] as string;
  if (pieces.length === 1) return value === pattern;
  if (!value.startsWith(head)) return false;
  let at = head.length;
  for (let i = 1; i < pieces.length - 1; i++) {
    const found = value.indexOf(pieces[i] as string, at);
    if (found < 0) return false;
    at = found + (pieces[i] as string).length;
  }
  return value.length - at >= tail.length && value.endsWith(tail);
}
