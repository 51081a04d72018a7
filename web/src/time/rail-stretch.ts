import { day, hour, type Span } from "./time-window.ts";

/** The rail cuts its stretch into this many parts; each is a whole number of minutes, or ten seconds. */
export const railParts = 360;

/** The lengths that the rail can have, from the nearest to the farthest. */
export const railLengths: readonly (readonly [words: string, ms: number])[] = [
  ["1 h", hour],
  ["6 h", 6 * hour],
  ["1 day", day],
  ["7 days", 7 * day],
  ["30 days", 30 * day],
  ["90 days", 90 * day],
  ["1 year", 366 * day],
  ["3 years", 1098 * day],
];

/** What a person has chosen of the rail: how much it shows, and where it ends; with now where `toMs` is null. */
export interface RailChoice {
  readonly lengthMs: number;
  readonly toMs: number | null;
}

const usualMs = 30 * day;
/** A window takes no more of the rail than this, so that it can be drawn out. */
const mostShare = 0.9;

const lengthFrom = (ms: number): number =>
  (railLengths.find(([, length]) => length >= ms) ??
    (railLengths[railLengths.length - 1] as (typeof railLengths)[0]))[1];

/** How much the rail shows where nobody has chosen: thirty days, or as much as has been gathered where that is less. */
export function defaultRailMs(span: Span, nowMs: number, gatheredFromMs: number | null): number {
  const gathered = gatheredFromMs === null ? usualMs : Math.min(usualMs, nowMs - gatheredFromMs);
  return lengthFrom(Math.max(gathered, (span.toMs - span.fromMs) / mostShare));
}

/**
 * The stretch that the rail shows: where a person has moved it; else ending with now where the window lies in that,
 * else around the window. It ends on a whole part of itself.
 */
export function railStretch(choice: RailChoice, span: Span, nowMs: number): Span {
  const length = Math.max(choice.lengthMs, lengthFrom((span.toMs - span.fromMs) / mostShare));
  const grain = length / railParts;
  const latest = Math.ceil(nowMs / grain) * grain;
  const toMs = choice.toMs === null ? latest : Math.min(latest, Math.ceil(choice.toMs / grain) * grain);
  if (choice.toMs !== null) return { fromMs: toMs - length, toMs };
  if (span.fromMs >= toMs - length && span.toMs <= toMs) return { fromMs: toMs - length, toMs };
  const quarter = length / 4;
  const moved = Math.min(latest, Math.ceil((span.toMs + quarter) / grain) * grain);
  return { fromMs: moved - length, toMs: moved };
}

/** The next nearer (-1) or farther (1) length; the moment stays where it is on the rail. */
export function zoomedRail(rail: Span, atMs: number, direction: -1 | 1, nowMs: number): RailChoice {
  const before = rail.toMs - rail.fromMs;
  const at = railLengths.findIndex(([, ms]) => ms >= before - 1);
  const lengthMs = (
    railLengths[Math.min(railLengths.length - 1, Math.max(0, at + direction))] as (typeof railLengths)[0]
  )[1];
  const toMs = atMs + ((rail.toMs - atMs) / before) * lengthMs;
  return { lengthMs, toMs: toMs >= nowMs ? null : toMs };
}

/** The same length, moved by a share of itself; not beyond now. */
export function pannedRail(rail: Span, share: number, nowMs: number): RailChoice {
  const lengthMs = rail.toMs - rail.fromMs;
  const toMs = rail.toMs + share * lengthMs;
  return { lengthMs, toMs: toMs >= nowMs ? null : toMs };
}
