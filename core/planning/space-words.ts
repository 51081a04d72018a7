import type { SpaceView } from "../api/space.ts";
import { present } from "../units/present.ts";

const dayMs = 86_400_000;
/** What is full later than this is nobody's worry yet. */
const soonMs = 90 * dayMs;
const told = 3;
/** Why nothing is said of when something is full, where its past is too short or too noisy. */
export const unknownWhy = "too little is known of how it fills";
const tooLittle = "Too little is known yet to say when anything is full: a day or two of it will do.";

/** A span of days from now on, as "in 9 to 12 days". */
export function whenWords(fromMs: number | null, toMs: number | null, nowMs: number): string {
  if (fromMs === null || toMs === null) return "";
  const days = (ms: number) => Math.max(0, Math.round((ms - nowMs) / dayMs));
  const [from, to] = [days(fromMs), days(toMs)];
  if (to === 0) return "now";
  if (to > 3 * 365) return from > 3 * 365 ? "in more than three years" : `in ${from} days or much later`;
  return from === to ? `in ${to} ${to === 1 ? "day" : "days"}` : `in ${from} to ${to} days`;
}

/** What fills soonest, and what changed most this week, in sentences. */
export function spaceWords(all: readonly SpaceView[], nowMs: number): readonly string[] {
  const soon = all.filter(({ fullLikelyMs }) => fullLikelyMs !== null && fullLikelyMs - nowMs < soonMs).slice(0, told);
  const [changed] = all
    .filter(({ weekChange, size }) => weekChange !== null && Math.abs(weekChange) > 0.01 * size)
    .sort((a, b) => Math.abs((b.weekChange as number) / b.size) - Math.abs((a.weekChange as number) / a.size));
  const isKnown = all.some(
    ({ kind, why, fullLikelyMs }) => kind !== "tier" && (fullLikelyMs !== null || why !== unknownWhy),
  );
  return [
    ...soon.map(
      ({ machine, what, fullFromMs, fullToMs, perDay, unit }) =>
        `${machine}: ${what} is full ${whenWords(fullFromMs, fullToMs, nowMs)} at ${amount(perDay, unit)} a day.`,
    ),
    ...(soon.length === 0 && all.length > 0 ? [isKnown ? "Nothing is full within ninety days." : tooLittle] : []),
    ...(changed
      ? [
          `What changed most this week: ${changed.machine}'s ${changed.what}, ${(changed.weekChange as number) > 0 ? "up" : "down"} ${amount(Math.abs(changed.weekChange as number), changed.unit)}.`,
        ]
      : []),
  ];
}

/** An amount with its unit. */
export function amount(value: number, unit: string): string {
  const { text, unit: shown } = present(value, unit);
  return shown === "" ? text : `${text} ${shown}`;
}
