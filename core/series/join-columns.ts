import { type Column, emptyColumn } from "./batch.ts";
import { mergeColumns } from "./merge-columns.ts";

/**
 * Joins each series' columns, given in ascending time (where they overlap, the later one in the list wins). Series
 * whose
 * columns have the same arrays of times get one joined array of times, so that work on times is done once for all of
 * them.
 */
export function joinColumns(parts: readonly (readonly Column[])[]): Column[] {
  const numbers = new Map<Float64Array, number>();
  const joined = new Map<string, Float64Array | undefined>();
  return parts.map((list) => {
    if (list.length === 0) return emptyColumn;
    if (list.length === 1) return list[0] as Column;
    let key = "";
    for (const { timeMs } of list) {
      let number = numbers.get(timeMs);
      if (number === undefined) numbers.set(timeMs, (number = numbers.size));
      key += `${number},`;
    }
    let timeMs = joined.get(key);
    if (timeMs === undefined && !joined.has(key))
      joined.set(key, (timeMs = inOrder(list) ? join(list, "timeMs") : undefined));
    return timeMs ? { timeMs, value: join(list, "value") } : list.reduce(mergeColumns);
  });
}

function inOrder(list: readonly Column[]): boolean {
  let last = Number.NEGATIVE_INFINITY;
  for (const { timeMs } of list) {
    if (timeMs.length === 0) continue;
    if (!(timeMs[0] > last)) return false;
    last = timeMs[timeMs.length - 1];
  }
  return true;
}

function join(list: readonly Column[], what: "timeMs" | "value"): Float64Array {
  let length = 0;
  for (const column of list) length += column[what].length;
  const whole = new Float64Array(length);
  let at = 0;
  for (const column of list) {
    whole.set(column[what], at);
    at += column[what].length;
  }
  return whole;
}
