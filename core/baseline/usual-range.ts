import { quantile } from "../series/quantile.ts";
import { medianOfSorted } from "../series/median-of-sorted.ts";
import { medianOf } from "../series/select.ts";
import { distancesFrom, sortFew } from "./sorted-distances.ts";
import { stepsAhead } from "./steps-ahead.ts";

const dayMs = 86_400_000;
const hourMs = 3_600_000;
/** So many days back is looked: eight weeks. */
export const usualDays = 56;
/**
 * A value is compared as the mean of this long with means of this long: a single one is too noisy to say anything
 * (tried: 30 min raise falsely up to three times in 60 days of noise, 40 min twice).
 */
export const usualWindowMs = 2_400_000;
/** Values are told apart by this much at the finest. */
export const usualStepMs = 300_000;
/** Days at a clock time, or weeks at a weekday's, below which nothing is said. */
const leastDays = 10;
const leastWeeks = 2;
/** Weeks from which on a weekday is trusted to be unlike the other days. */
const trustedWeeks = 3;
/** Clock times beside one that are compared with it as well. */
const besideMs = 600_000;
/** How variable a line is, is told by the clock times up to this far from one. */
const pooledMs = 2 * hourMs;
const pooledEveryMs = 1_800_000;
/**
 * Of a normal distribution, the standard deviation is so many times the median absolute deviation (Rousseeuw & Croux,
 * JASA 88, 1993).
 */
export const deviationShare = 1.4826;
/** A clock time is taken to be more variable than those around it from this factor on. */
const moreVariable = 1.5;
/** A weekday is taken to be unlike the other days from so many deviations on. */
const unlikeDeviations = 2;
/** What has been there on so many days (weeks), and so large a share of them, near the clock time, is usual. */
const seenDays = 3;
const seenWeeks = 2;
const seenShare = 0.1;
const seenWithinMs = 1_800_000;
/** What differs by less than a tenth is never unusual. */
const leastSpreadShare = 0.1;

/** What a line mostly is at a moment. */
export interface Usual {
  /** The median of the same clock time of earlier days, in the line's unit. */
  readonly mid: number;
  /** One standard deviation below and above it, estimated robustly. */
  readonly low: number;
  readonly high: number;
  /** How many days of past that rests on. */
  readonly days: number;
}

/**
 * What is usual of a line at each moment, from its values of up to 56 earlier days at the same clock time, neighbouring
 * clock times within ten minutes, and
 * apart from them the same weekday. Centre: median. Spread: 1.4826 median absolute deviations from the medians of their
 * own clock times, over two hours on each
 * side, or of the clock time itself where that is more variable. Where all are above 0, on the logarithm: what varies
 * by factors is not symmetrical.
 */
export class UsualLine {
  readonly #startMs: number;
  readonly #stepMs: number;
  readonly #values: Float64Array;
  /** How many steps the clock is ahead of UTC where step i begins, and two days beyond the last one. */
  readonly #ahead: Int32Array;
  /** The mean of the forty minutes that ends where step i begins. */
  readonly #means: Float64Array;
  /** The same on the scale on which they are compared. */
  readonly #scaled: Float64Array;
  readonly #isLog: boolean;
  readonly #floor: number;
  readonly #spreads = new Map<number, number>();
  readonly #clocks = new Map<number, ClockTime>();
  /** The hours beside each other are about as variable. */
  #lastPooled = 0;
  /** Steps beside a clock time that are compared with it as well. */
  readonly #beside: number;

  /**
   * `values` are the means of steps of `stepMs` (5 min where they come so often), the first from `startMs` on, NaN for
   * gaps; `offsetMs` tells how far the clock is ahead of UTC at a moment.
   */
  constructor(values: Float64Array, startMs: number, stepMs: number, offsetMs: (ms: number) => number) {
    this.#startMs = startMs;
    this.#stepMs = stepMs;
    this.#values = values;
    this.#beside = Math.floor(besideMs / stepMs);
    this.#ahead = stepsAhead(offsetMs, startMs, stepMs, values.length);
    const window = Math.max(1, Math.round(usualWindowMs / stepMs));
    this.#means = new Float64Array(values.length + 1).fill(Number.NaN);
    // Each window is added up anew: what is added and taken away again leaves a rest, and a rest above 0 is no idle
    // line.
    for (let end = window; end <= values.length; end++) this.#means[end] = meanOf(values, end - window, end);
    this.#isLog = leastOf(this.#means) > 0;
    this.#scaled = this.#isLog ? this.#means.map(Math.log) : this.#means;
    // A line that is mostly 0 has a spread of its own all the same: a twentieth of what it has at its busiest.
    this.#floor = this.#isLog ? 0 : busiest(this.#means) / 20;
  }

  /** The mean of the forty minutes that ends at a moment; NaN where less than half of it is known. */
  meanBefore(endMs: number): number {
    return this.#means[Math.round((endMs - this.#startMs) / this.#stepMs)] ?? Number.NaN;
  }

  /** What is usual of the forty minutes that ends at a moment; undefined where the past is too short. */
  at(endMs: number): Usual | undefined {
    const found = this.#at(endMs);
    return (
      found && {
        mid: this.#out(found.mid),
        low: this.#out(found.mid - found.spread),
        high: this.#out(found.mid + found.spread),
        days: found.days,
      }
    );
  }

  /**
   * How many deviations a value lies from what is usual of the forty minutes that ends at a moment; NaN where the past
   * is too short.
   */
  deviations(value: number, endMs: number): number {
    const scaled = this.#isLog ? Math.log(Math.max(value, Number.MIN_VALUE)) : value;
    const found = this.#at(endMs, scaled);
    return found ? (scaled - found.mid) / found.spread : Number.NaN;
  }

  /**
   * Whether a value that lies far from the middle has been there often enough to be usual all the same: on at least
   * three earlier days, and a tenth of those known (of a weekday that is unlike the others on two), within half an hour
   * of the clock time. What is now this, now that, has a middle that says little. A value is the mean of a stretch of
   * `lengthMs` and is looked for among stretches as long, as far as the past is known so finely: what comes and goes
   * within minutes is steady over forty of them.
   */
  isSeen(value: number, endMs: number, lengthMs = usualWindowMs): boolean {
    const scaled = this.#isLog ? Math.log(Math.max(value, Number.MIN_VALUE)) : value;
    const found = this.#at(endMs, scaled);
    if (!found) return false;
    const index = Math.round((endMs - this.#startMs) / this.#stepMs);
    const reach = Math.max(0, Math.round(seenWithinMs / this.#stepMs));
    const stretch = Math.max(1, Math.round(lengthMs / this.#stepMs));
    const side = Math.sign(scaled - found.mid);
    // A little short of it is as far.
    const far = this.#out(scaled - side * found.spread);
    let [known, seen] = [0, 0];
    for (let day = found.everyDays; day <= usualDays; day += found.everyDays) {
      const at = this.#earlier(index, day);
      let [isKnown, isFar] = [false, false];
      for (let i = Math.max(stretch, at - reach); i <= at + reach && !isFar; i++) {
        const mean = meanOf(this.#values, i - stretch, i);
        if (Number.isNaN(mean)) continue;
        isKnown = true;
        isFar = (mean - far) * side >= 0;
      }
      if (isKnown) known++;
      if (isFar) seen++;
    }
    return seen >= (found.everyDays === 1 ? seenDays : seenWeeks) && seen >= seenShare * known;
  }

  /**
   * How short a stretch, ms, can be compared with this past at the clock time of a moment: as far apart as samples were
   * on at least ten earlier days. A sample that stands for ten minutes shows nothing of what happens within them. 0
   * where the past is given in coarser steps than five minutes: that is a sieve for what is looked at again.
   */
  finestMs(endMs: number): number {
    if (this.#stepMs > usualStepMs) return 0;
    const index = Math.round((endMs - this.#startMs) / this.#stepMs);
    const reach = Math.round(seenWithinMs / this.#stepMs);
    const lengths: number[] = [];
    for (let day = 1; day <= usualDays; day++) {
      const at = this.#earlier(index, day);
      if (at < reach) break;
      const length = stepsEach(this.#values, at - reach, Math.min(this.#values.length, at + reach));
      if (!Number.isNaN(length)) lengths.push(length);
    }
    lengths.sort((a, b) => a - b);
    return (lengths[Math.min(leastDays, lengths.length) - 1] ?? 1) * this.#stepMs;
  }

  #out(v: number): number {
    return this.#isLog ? Math.exp(v) : v;
  }

  /** Centre and spread; where days and weekdays are alike, of the two the one that is nearer to `value`. */
  #at(endMs: number, value?: number): Centre | undefined {
    const index = Math.round((endMs - this.#startMs) / this.#stepMs);
    // Before anything is found: what is found is overwritten by the next search.
    const pooled = this.#pooled(endMs);
    const ofDays = this.#ofDays(index, pooled);
    const weeks = this.#sameClock(index, 7, this.#beside);
    const ofWeeks = weeks.days < leastWeeks ? undefined : { ...this.#centre(weeks, pooled), everyDays: 7 };
    if (!ofDays || !ofWeeks) return ofDays ?? ofWeeks;
    if (
      weeks.days >= trustedWeeks &&
      Math.abs(ofWeeks.mid - ofDays.mid) > unlikeDeviations * this.#atLeast(pooled, ofDays.mid)
    )
      return ofWeeks;
    return value !== undefined &&
      Math.abs(value - ofWeeks.mid) * ofDays.spread < Math.abs(value - ofDays.mid) * ofWeeks.spread
      ? ofWeeks
      : ofDays;
  }

  /** Of all earlier days. Where nothing stands beside a clock time, that was worked out for the hours around it already. */
  #ofDays(index: number, pooled: number): Centre | undefined {
    if (this.#beside === 0) {
      const { mid, own, days } = this.#clockAt(index);
      return days < leastDays ? undefined : this.#around(mid, own, days, pooled);
    }
    const found = this.#sameClock(index, 1, this.#beside);
    return found.days < leastDays ? undefined : this.#centre(found, pooled);
  }

  #centre({ values, count, days }: Found, pooled: number): Centre {
    const mid = medianOf(values, count);
    for (let i = 0; i < count; i++) values[i] = Math.abs(values[i] - mid);
    return this.#around(mid, medianOf(values, count), days, pooled);
  }

  /** `residual` is the median of how far what was found lies from `mid`. */
  #around(mid: number, residual: number, days: number, pooled: number): Centre {
    const own = deviationShare * residual;
    return { mid, spread: this.#atLeast(own > moreVariable * pooled ? own : pooled, mid), days, everyDays: 1 };
  }

  #atLeast(spread: number, mid: number): number {
    const least = this.#isLog
      ? Math.log(1 + leastSpreadShare)
      : Math.max(leastSpreadShare * Math.abs(mid), this.#floor);
    return Math.max(spread, least, Number.MIN_VALUE);
  }

  /** The values at the clock time of a moment, and so many steps beside it, of every so many days before. */
  #sameClock(index: number, everyDays: number, beside: number): Found {
    const { values } = scratch;
    let count = 0;
    let days = 0;
    for (let day = everyDays; day <= usualDays; day += everyDays) {
      const at = this.#earlier(index, day);
      const before = count;
      for (let i = Math.max(0, at - beside); i <= at + beside; i++) {
        const v = this.#scaled[i];
        if (v - v === 0) values[count++] = v;
      }
      if (count > before) days++;
    }
    return { values, count, days };
  }

  /** The same clock time so many days before. */
  #earlier(index: number, days: number): number {
    const plain = Math.round(index - (days * dayMs) / this.#stepMs);
    return plain + this.#aheadAt(index) - this.#aheadAt(plain);
  }

  #aheadAt(index: number): number {
    return this.#ahead[Math.max(0, Math.min(this.#ahead.length - 1, index))];
  }

  /** The values at one clock time; hours beside each other share most of them. */
  #clockAt(index: number): ClockTime {
    let clock = this.#clocks.get(index);
    if (!clock) {
      const { values, count, days } = this.#sameClock(index, 1, 0);
      sortFew(values, count);
      const sorted = values.subarray(0, count);
      const mid = quantile(sorted, 0.5);
      const residuals = distancesFrom(mid, sorted);
      const own = quantile(residuals, 0.5);
      this.#clocks.set(index, (clock = { mid, own, residuals, days }));
    }
    return clock;
  }

  /** How variable the clock times around a moment are, each around its own median; worked out once an hour. */
  #pooled(endMs: number): number {
    const hour = Math.floor(endMs / hourMs);
    const known = this.#spreads.get(hour);
    if (known !== undefined) return known;
    const around: Float64Array[] = [];
    for (let shift = -pooledMs; shift <= pooledMs; shift += Math.max(pooledEveryMs, this.#stepMs)) {
      const atMs = hour * hourMs + hourMs / 2 + shift;
      around.push(this.#clockAt(Math.round((atMs - this.#startMs) / this.#stepMs)).residuals);
    }
    const middle = medianOfSorted(around, this.#lastPooled);
    if (!Number.isNaN(middle)) this.#lastPooled = middle;
    const spread = Number.isNaN(middle) ? 0 : deviationShare * middle;
    this.#spreads.set(hour, spread);
    return spread;
  }
}

/**
 * How many steps a sample stands for in `[from, to)`, where a gap, or the same number again, belongs to the one before;
 * 1 where all are the same; NaN where nothing is known.
 */
function stepsEach(values: Float64Array, from: number, to: number): number {
  let different = 0;
  let last = Number.NaN;
  for (let i = from; i < to; i++) {
    const v = values[i];
    if (Number.isNaN(v) || v === last) continue;
    different++;
    last = v;
  }
  return different === 0 ? Number.NaN : different === 1 ? 1 : Math.round((to - from) / different);
}

/** The least of the numbers; NaN where there is none. */
function leastOf(values: Float64Array): number {
  let least = Number.NaN;
  for (let i = 0; i < values.length; i++) if (!Number.isNaN(values[i]) && !(values[i] >= least)) least = values[i];
  return least;
}

/** What 95 % of the numbers stay below; 0 where there are none. */
function busiest(values: Float64Array): number {
  const known = values.filter((v) => !Number.isNaN(v)).sort();
  return known.length === 0 ? 0 : Math.abs(quantile(known, 0.95));
}

/** The mean of the finite numbers in `[from, to)`; NaN where less than half are. */
export function meanOf(values: Float64Array, from: number, to: number): number {
  let sum = 0;
  let count = 0;
  for (let i = from; i < to; i++) {
    const v = values[i];
    if (v - v !== 0) continue; // NaN and infinities
    sum += v;
    count++;
  }
  return count * 2 >= to - from && count > 0 ? sum / count : Number.NaN;
}

interface Centre {
  readonly mid: number;
  readonly spread: number;
  readonly days: number;
  /** 1 where all days were compared, 7 where the same weekdays were. */
  readonly everyDays: number;
}

/** The values at a clock time of earlier days: their median, how far each lies from it, and on how many days. */
interface ClockTime {
  readonly mid: number;
  /** Sorted; `own` is their median. */
  readonly residuals: Float64Array;
  readonly own: number;
  readonly days: number;
}

/** `values[0..count)` are what was found, on so many days. They are overwritten by the next search. */
interface Found {
  readonly values: Float64Array;
  readonly count: number;
  readonly days: number;
}

const scratch = {
  values: new Float64Array(usualDays * ((2 * besideMs) / usualStepMs + 1)),
};
