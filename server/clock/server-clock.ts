import type { Database } from "../db/pool.ts";
import { readLastRun, writeLastRun } from "./last-run-rows.ts";

/** A difference of wall and monotonic clock that is told; less is a clock being kept right. */
const toldMs = 2000;
/** Nothing is deleted by a time that is farther than this beyond what is known to have been. */
const believedMs = 3_600_000;
const writeEveryMs = 60_000;
const mostJumps = 20;

/** The clock was set, or the machine slept: by so many ms, ahead where it is positive. */
export interface ClockJump {
  readonly atMs: number;
  readonly byMs: number;
}

export interface Clocks {
  readonly wallMs: () => number;
  readonly monotonicMs: () => number;
}

const realClocks: Clocks = { wallMs: () => Date.now(), monotonicMs: () => performance.now() };

/**
 * The server's clock, with a memory: it notices jumps against the monotonic clock, and does not believe a time that
 * lies more than an hour beyond the last run and what other
 * machines told, until one of them or a person says that it is right. What deletes asks it which time it may act on.
 */
export class ServerClock {
  readonly #clocks: Clocks;
  readonly #database: Database;
  readonly #listeners: ((jump: ClockJump) => void)[] = [];
  /** A wall time that was believed, with the monotonic time of the same moment; undefined before the first run. */
  #base: { readonly wallMs: number; readonly monotonicMs: number } | undefined;
  /** The newest time that another machine told, likewise. */
  #witness: { readonly wallMs: number; readonly monotonicMs: number } | undefined;
  #offsetMs: number;
  #writtenMs = Number.NEGATIVE_INFINITY;
  readonly #jumps: ClockJump[] = [];

  private constructor(database: Database, clocks: Clocks, lastRunMs: number | undefined) {
    this.#database = database;
    this.#clocks = clocks;
    this.#offsetMs = clocks.wallMs() - clocks.monotonicMs();
    if (lastRunMs !== undefined) this.#base = { wallMs: lastRunMs, monotonicMs: clocks.monotonicMs() };
    this.look();
  }

  static async open(database: Database, clocks = realClocks): Promise<ServerClock> {
    return new ServerClock(database, clocks, await readLastRun(database));
  }

  /** Has a listener called with every jump. */
  onJump(listener: (jump: ClockJump) => void): void {
    this.#listeners.push(listener);
  }

  /** Looks at the clock; to be called every second. */
  look(): void {
    const wallMs = this.#clocks.wallMs();
    const monotonicMs = this.#clocks.monotonicMs();
    const byMs = wallMs - monotonicMs - this.#offsetMs;
    this.#offsetMs = wallMs - monotonicMs;
    if (this.isBelieved) this.#base = { wallMs, monotonicMs };
    if (Math.abs(byMs) > toldMs) {
      this.#jumps.unshift({ atMs: wallMs, byMs });
      this.#jumps.splice(mostJumps);
      for (const listener of this.#listeners) listener({ atMs: wallMs, byMs });
    }
  }

  /** Whether the wall clock is no more than an hour beyond what is known to have been. */
  get isBelieved(): boolean {
    const wallMs = this.#clocks.wallMs();
    return (
      this.#base === undefined ||
      wallMs <= this.#sinceMs(this.#base) + believedMs ||
      (this.#witness !== undefined && wallMs <= this.#sinceMs(this.#witness) + believedMs)
    );
  }

  /**
   * The time by which may be deleted and expired: the wall clock where it is believed, else what has passed since the
   * last time that was.
   */
  readonly actingMs = (): number => {
    if (this.isBelieved || this.#base === undefined) return this.#clocks.wallMs();
    return this.#sinceMs(this.#base);
  };

  /** Another machine said what time it is by its own clock. */
  told(ms: number): void {
    if (this.#witness === undefined || ms > this.#sinceMs(this.#witness))
      this.#witness = { wallMs: ms, monotonicMs: this.#clocks.monotonicMs() };
  }

  /** A person says that the clock is right. */
  confirm(): void {
    this.#base = { wallMs: this.#clocks.wallMs(), monotonicMs: this.#clocks.monotonicMs() };
  }

  /** Keeps when it ran last, once a minute. */
  async keep(): Promise<void> {
    const monotonicMs = this.#clocks.monotonicMs();
    if (!this.isBelieved || monotonicMs - this.#writtenMs < writeEveryMs) return;
    this.#writtenMs = monotonicMs;
    await writeLastRun(this.#database, this.#clocks.wallMs());
  }

  /** The jumps since the start, the newest first; the time that is acted on where the clock is not believed. */
  view(): { readonly jumps: readonly ClockJump[]; readonly actingMs: number | null } {
    return { jumps: this.#jumps, actingMs: this.isBelieved ? null : this.actingMs() };
  }

  #sinceMs({ wallMs, monotonicMs }: { readonly wallMs: number; readonly monotonicMs: number }): number {
    return wallMs + (this.#clocks.monotonicMs() - monotonicMs);
  }
}
