import { presentSpan } from "../units/present.ts";
import type { Overlap } from "./overlap.ts";

/** Two jobs that overlap, in words; `clock` tells a moment. */
export function overlapWords(
  { first, second, line, fromMs, toMs, moves, shiftMinutes, highestNow, highestThen }: Overlap,
  clock: (ms: number) => string,
): string {
  const moved = moves === "first" ? first : second;
  const begins = moved.fromMs + shiftMinutes * 60_000;
  const way = shiftMinutes > 0 ? "later" : "earlier";
  return (
    `${line.machine}: ${first.name} and ${second.name} overlap from ${clock(fromMs)} to ${clock(toMs)}, with the ${line.words} at ${highestNow} %. ` +
    `Begun ${presentSpan(Math.abs(shiftMinutes) * 60_000)} ${way}, at ${clock(begins)}, ${moved.name} would leave them at ${highestThen} % at the most.`
  );
}
