import type { Database } from "../../db/pool.ts";
import { readLookedAt, writeLookedAt } from "../planning-rows.ts";

const keptEveryMs = 300_000;

/** Which counters somebody has looked at, in charts, exports or programs of their own; kept so that a restart forgets none. */
export class LookedAt {
  readonly #database: Database;
  readonly #counters: Set<string>;
  readonly sinceMs: number;
  #keptMs = 0;
  #isChanged = false;

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
      this.#isChanged = true;
    }
    const now = Date.now();
    if (!this.#isChanged || now - this.#keptMs < keptEveryMs) return;
    this.#keptMs = now;
    this.#isChanged = false;
    // What is not kept now is kept the next time.
    void writeLookedAt(this.#database, { sinceMs: this.sinceMs, counters: [...this.#counters] }).catch(() => {
      this.#isChanged = true;
    });
  }
}
