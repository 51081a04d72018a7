import { pulses, type Shape, weekly } from "./growth.ts";

const day = 86_400;
const hour = 3600;

export interface Span {
  readonly from: number;
  readonly to: number;
}

/**
 * Kestrel Quay, a volunteer-run local radio station, which exists nowhere: its habits and its month. Times are seconds
 * since 1970 UTC.
 */
export class World {
  /** When somebody began to look; its past lies before. */
  readonly began: number;
  readonly offsetSeconds: number;
  /** Live shows at 07–09 and 17–19. */
  readonly shows: Shape;
  /** Weekdays from 02:10: the copy of the day's recordings to the archive. */
  readonly archiveCopy: Shape;
  /** Weekdays from 02:20: the pool's integrity scan, which overlaps the copy. */
  readonly integrityScan: Shape;
  /** The recording of the last programme is encoded for a minute and a half every quarter of an hour. */
  readonly encodes = pulses(900, 240, 330);
  /** Office hours at the desk. */
  readonly office: Shape;

  constructor(beganSeconds: number, offsetSeconds: number) {
    this.began = beganSeconds;
    this.offsetSeconds = offsetSeconds;
    this.shows = weekly(
      offsetSeconds,
      (weekday, second) => Math.max(bump(second, 7, 9), bump(second, 17, 19)) * (weekday < 5 ? 1 : 0.6),
    );
    this.archiveCopy = weekly(offsetSeconds, (weekday, second) =>
      weekday < 5 ? plateau(second, 2 + 10 / 60, 3 + 5 / 60) : 0,
    );
    this.integrityScan = weekly(offsetSeconds, (weekday, second) =>
      weekday < 5 ? plateau(second, 2 + 20 / 60, 3 + 40 / 60) : 0,
    );
    this.office = weekly(offsetSeconds, (weekday, second) => (weekday < 5 ? bump(second, 9, 18) : 0.1));
  }

  /** Nine days before: the mains were away for eleven minutes. */
  get powerCut(): Span {
    const from = this.#dayStart(-9) + 14.4 * hour;
    return { from, to: from + 660 };
  }

  /** The box at the transmitter has no battery, and came back late. */
  get mastAway(): Span {
    return { from: this.powerCut.from, to: this.powerCut.to + 2700 };
  }

  /** `chat` leaks until somebody restarts it, every six days at 21:40. */
  chatRestartBefore(second: number): number {
    const first = this.#dayStart(-40) + 21.67 * hour;
    return first + Math.floor((second - first) / (6 * day)) * 6 * day;
  }

  /** When a machine was started last; those on the battery went through the power cut. */
  bootOf(machine: "playout" | "hive" | "vault" | "stream" | "gate" | "ups" | "mast" | "desk", second: number): number {
    const long = this.#dayStart(-61) + 3 * hour;
    if (machine === "mast") return second >= this.mastAway.to ? this.mastAway.to : long;
    if (machine === "desk") return second >= this.powerCut.to + 300 ? this.powerCut.to + 300 : long;
    return {
      playout: long + 2 * day,
      hive: long + 5 * day,
      vault: long,
      stream: long + 9 * day,
      gate: long - 80 * day,
      ups: long - 200 * day,
    }[machine];
  }

  /** Bytes in the pool `archive`: it fills steadily, and a little faster on weekdays. */
  archiveBytes(second: number): number {
    return (
      5.9e12 +
      (41e9 / day) * (second - this.began) +
      (1.1e10 * (this.archiveCopy.since(second) - this.archiveCopy.since(this.began))) / (0.65 * hour * 5)
    );
  }

  /** Sixteen days before, somebody's export filled the pool `work` over the day, until it was removed the next morning. */
  forgottenBytes(second: number): number {
    const from = this.#dayStart(-16) + 9 * hour;
    const until = this.#dayStart(-15) + 8.5 * hour;
    return second < from || second >= until ? 0 : 2.2e12 * Math.min(1, (second - from) / (9 * hour));
  }

  /** Local midnight, some days from the day on which it began. */
  #dayStart(days: number): number {
    return Math.floor((this.began + this.offsetSeconds) / day) * day - this.offsetSeconds + days * day;
  }
}

export const isWithin = (second: number, { from, to }: Span) => second >= from && second < to;

function bump(second: number, from: number, to: number): number {
  return smoothstep((second / hour - from + 0.25) / 0.5) * (1 - smoothstep((second / hour - to + 0.25) / 0.5));
}

function plateau(second: number, from: number, to: number): number {
  const at = second / hour;
  return at >= from && at < to ? 1 : 0;
}

function smoothstep(x: number): number {
  const t = Math.min(1, Math.max(0, x));
  return t * t * (3 - 2 * t);
}
