import type { Database } from "../../db/pool.ts";
import { addLookedAt, readLookedAt } from "../planning-rows.ts";

/** What is new is kept by one write so long after it was seen. */
const keptAfterMs = 2000;

/**
 * Which counters somebody has looked at, in charts, exports or programs of their own; kept so that a restart forgets
 * none, and beside what other servers of the database have noted.
 */
export class LookedAt {
  readonly #database: Database;
  readonly #counters: Set<string>;
  /** Since when it is noted. */
  readonly sinceMs: number;
  readonly #new = new Set<string>();
  #timer: ReturnType<typeof setTimeout> | undefined;

  private constructor(database: Database, sinceMs: number, counters: readonly string[]) {
    this.#database = database;
    this.sinceMs = sinceMs;
    this.#counters = new Set(counters);
  }

  static async open(database: Database): Promise<LookedAt> {
    const kept = await readLookedAt(database);
    return new LookedAt(database, kept?.sinceMs ?? Date.now(), kept?.counters ?? []);
  }

  has(counter: string): boolean {
    return this.#counters.has(counter);
  }

  note(counters: Iterable<string>): void {
    for (const counter of counters) {
      if (this.#counters.has(counter)) continue;
      this.#counters.add(counter);
      this.#new.add(counter);
    }
    if (this.#new.size > 0) this.#timer ??= setTimeout(() => void this.#keep(), keptAfterMs);
  }

  close(): Promise<void> {
    return this.#keep();
  }

  /** Learns what other servers have noted. */
  async refresh(): Promise<void> {
    for (const counter of (await readLookedAt(this.#database))?.counters ?? []) this.#counters.add(counter);
  }

  async #keep(): Promise<void> {
    clearTimeout(this.#timer);
    this.#timer = undefined;
    const counters = [...this.#new];
    if (counters.length === 0) return;
    this.#new.clear();
    try {
      await addLookedAt(this.#database, { sinceMs: this.sinceMs, counters });
    } catch {
      for (const counter of counters) this.#new.add(counter); // kept with what is seen next
    }
  }
}
