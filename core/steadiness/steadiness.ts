/** What made a machine unsteady, for how long; times in ms. */
export interface Disturbance {
  readonly machine: string;
  readonly cause: DisturbanceCause;
  /** Of an incident its number, of an event that; 0 of what has none. */
  readonly id: number;
  readonly words: string;
  readonly fromMs: number;
  readonly toMs: number;
}
export type DisturbanceCause = "notice" | "urgent" | "silence" | "restart" | "power loss" | "drive";

/** How many points a disturbance costs: some when it begins, more for each hour that it lasts, so many at most a day. */
export const costs: Readonly<
  Record<DisturbanceCause, { readonly begins: number; readonly perHour: number; readonly most: number }>
> = {
  notice: { begins: 2, perHour: 1, most: 10 },
  urgent: { begins: 5, perHour: 2, most: 30 },
  silence: { begins: 5, perHour: 2, most: 30 },
  restart: { begins: 10, perHour: 0, most: 10 },
  "power loss": { begins: 10, perHour: 6, most: 25 },
  drive: { begins: 10, perHour: 1, most: 20 },
};
/** Half of what is missing to a hundred has come back after so many quiet days. */
export const halfBackDays = 3;

/** What a disturbance took of one day. */
export interface Dip {
  readonly cause: DisturbanceCause;
  readonly id: number;
  readonly words: string;
  readonly atMs: number;
  readonly points: number;
}

export interface SteadyDay {
  /** Where the day begins, ms. */
  readonly day: number;
  /** 0 to 100 at its end. */
  readonly value: number;
  readonly dips: readonly Dip[];
}

const hourMs = 3_600_000;

/**
 * A machine's steadiness at the end of each day: a definition of our own. It begins at 100; each day half of what is
 * missing comes back in three days, and what happened that day is taken off:
 * value = max(0, before + (100 - before) (1 - 2^(-1/3)) - points). `bounds` are the days' beginnings and the end of the
 * last one.
 */
export function steadiness(disturbances: readonly Disturbance[], bounds: readonly number[]): readonly SteadyDay[] {
  const back = 1 - 2 ** (-1 / halfBackDays);
  let value = 100;
  return bounds.slice(0, -1).map((day, i) => {
    const end = bounds[i + 1];
    const dips = disturbances
      .flatMap((one) => dipOf(one, day, end))
      .sort((a, b) => b.points - a.points || a.atMs - b.atMs);
    const points = dips.reduce((sum, dip) => sum + dip.points, 0);
    value = Math.max(0, value + (100 - value) * back - points);
    return { day, value: Math.round(value * 10) / 10, dips };
  });
}

/** What a disturbance takes of the day `[day, end)`: nothing where it lies outside. */
function dipOf({ cause, id, words, fromMs, toMs }: Disturbance, day: number, end: number): readonly Dip[] {
  if (fromMs >= end || toMs < day) return [];
  const { begins, perHour, most } = costs[cause];
  const hours = Math.max(0, Math.min(end, toMs) - Math.max(day, fromMs)) / hourMs;
  const points = Math.min(most, (fromMs >= day ? begins : 0) + perHour * hours);
  return points < 0.05 ? [] : [{ cause, id, words, atMs: Math.max(day, fromMs), points: Math.round(points * 10) / 10 }];
}
