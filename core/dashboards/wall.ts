/** A screen that shows the same for months: what is on it, how long each, and when it is dark around it. */
export interface WallShow {
  /** Dashboards by number, or by "ready:" and the name of a ready-made one, in the order in which they come. */
  readonly show: readonly string[];
  readonly everySeconds: number;
  /** Hours of the day at which the night theme begins and ends; null: as the device has it. */
  readonly night: { readonly from: number; readonly to: number } | null;
}

export const shortestTurnSeconds = 5;
export const defaultTurnSeconds = 30;
export const longestTurnSeconds = 86_400;
/** So far things move from their place, px: further than a line is wide, too little to be seen. */
const reach = 6;
const minuteMs = 60_000;

/** Whether it is night at an hour of the day; over midnight where it begins later than it ends. */
export function isNightHour({ from, to }: NonNullable<WallShow["night"]>, hour: number): boolean {
  return from < to ? hour >= from && hour < to : hour >= from || hour < to;
}

/**
 * How far the whole page stands from its place in a minute, px, so that no edge burns in: a figure that passes
 * everywhere within reach and never jumps.
 */
export function wallShift(nowMs: number): { readonly x: number; readonly y: number } {
  const minute = Math.floor(nowMs / minuteMs);
  return {
    x: Math.round(reach * Math.sin((2 * Math.PI * minute) / 61)),
    y: Math.round(reach * Math.sin((2 * Math.PI * minute) / 47)),
  };
}
