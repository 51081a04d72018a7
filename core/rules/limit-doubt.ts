import { figures } from "../units/present.ts";

/**
 * What is doubtful about a limit, in a sentence; undefined where nothing is. A share is told in per cent of a whole: what
 * has never been seen beyond 0 to 100 % will not pass a limit that lies beyond. `value` and `most`, the greatest that
 * was seen, are in the unit.
 */
export function limitDoubt(unit: string, value: number | undefined, most: number): string | undefined {
  if (unit !== "%" || value === undefined || (value >= 0 && value <= 100) || most > 100) return undefined;
  return `${figures(value)} % is never passed: its values lie between 0 and 100 %.`;
}
