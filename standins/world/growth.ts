import { noise, wander } from "./noise.ts";

const minute = 60;
const week = 7 * 86_400;
/** 1970-01-01 was a Thursday; weeks here begin on Monday. */
const mondayOffset = 3 * 86_400;

/** How strongly something goes on at a moment, and how much of it there has been since 1970, at once for any moment. */
export interface Shape {
  rate(second: number): number;
  /** Integral of the rate. */
  since(second: number): number;
}

export const always: Shape = { rate: () => 1, since: (second) => second };

/** A habit of the week in local time, told minute by minute; `offsetSeconds` is the zone's. */
export function weekly(offsetSeconds: number, rate: (day: number, secondOfDay: number) => number): Shape {
  const sums = new Float64Array(week / minute + 1);
  for (let i = 0; i < week / minute; i++)
    sums[i + 1] = (sums[i] as number) + minute * rate(Math.floor((i * minute) / 86_400), (i * minute) % 86_400);
  const whole = sums[sums.length - 1] as number;
  const local = (second: number) => second + offsetSeconds + mondayOffset;
  return {
    rate: (second) => {
      const at = Math.floor((((local(second) % week) + week) % week) / minute);
      return ((sums[at + 1] as number) - (sums[at] as number)) / minute;
    },
    since: (second) => {
      const weeks = Math.floor(local(second) / week);
      const inside = (local(second) - weeks * week) / minute;
      const at = Math.floor(inside);
      return weeks * whole + (sums[at] as number) + (inside - at) * ((sums[at + 1] as number) - (sums[at] as number));
    },
  };
}

/** On from `from` to `to` of every `period`, all in seconds. */
export function pulses(period: number, from: number, to: number): Shape {
  return {
    rate: (second) => (second % period >= from && second % period < to ? 1 : 0),
    since: (second) =>
      Math.floor(second / period) * (to - from) + Math.min(Math.max((second % period) - from, 0), to - from),
  };
}

export type Term = readonly [amount: number, shape: Shape];

/**
 * A total that grows by shapes, and unevenly: its growth wanders around what always goes on, by `unrest` of it, without
 * ever turning back.
 * Any moment can be asked at once: nothing is added up piece by piece.
 */
export class Growth {
  readonly #terms: readonly Term[];
  readonly #seed: number;
  /** Machines are asked for many totals at one moment, since one start: both are worked out once. */
  #from = Number.NaN;
  #sinceFrom = 0;
  #asked = Number.NaN;
  #sinceAsked = 0;
  readonly #waves: readonly (readonly [period: number, amount: number])[];

  constructor(seed: number, terms: readonly Term[], unrest = 0.6) {
    const base = terms.reduce((sum, [amount, shape]) => (shape === always ? sum + amount : sum), 0);
    this.#terms = terms;
    this.#seed = seed;
    // The slope of `wander` is at most 1.5 divided by its period.
    this.#waves = [10, 75, 900, 14_400].map((period) => [period, (unrest / 4 / 1.5) * period * base]);
  }

  /** What has been counted since `from`, whole. */
  at(second: number, from: number): number {
    if (from !== this.#from) {
      this.#from = from;
      this.#sinceFrom = this.#since(from);
    }
    if (second !== this.#asked) {
      this.#asked = second;
      this.#sinceAsked = this.#since(second);
    }
    return Math.floor(this.#sinceAsked - this.#sinceFrom);
  }

  /** Growth a second, over the last few seconds. */
  rate(second: number): number {
    return (this.#since(second) - this.#since(second - 5)) / 5;
  }

  #since(second: number): number {
    let sum = 0;
    for (const [amount, shape] of this.#terms) sum += amount * shape.since(second);
    for (const [period, amount] of this.#waves) sum += amount * wander(this.#seed, second, period);
    return sum;
  }
}

/** A level that wanders between two values. */
export function between(low: number, high: number, seed: number, second: number, period: number): number {
  return low + (high - low) * (0.7 * wander(seed, second, period) + 0.3 * noise(seed + 1, Math.floor(second / 7)));
}
