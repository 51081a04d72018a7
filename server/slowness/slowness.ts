import type { Logger } from "pino";
import { type SlowKind, slowKinds } from "../../core/slowness/slow-kinds.ts";
import { eventOfSpell, SlowSpells } from "../../core/slowness/slow-spells.ts";
import type { Database } from "../db/pool.ts";
import { changeEvent, insertEvent } from "../events/event-rows.ts";

interface SlownessParts {
  readonly database: Database;
  /** The machine that the server runs on. */
  readonly machine: string;
  readonly log: Logger;
  readonly keptEveryMs?: number;
}

/** What may be told of something that is timed. */
export interface Timed {
  readonly kind: SlowKind;
  /** What is alike and told together. */
  readonly key: string;
  /** What it was, in words; asked for only where it was slow. */
  readonly what: () => string;
}

/**
 * Keeps what took longer than it may as events of this machine, so that they are there after a crash as well. What is
 * noted costs nothing where it is not slow, and waits for nobody: the events are written every few seconds, and again
 * while the database is away.
 */
export class Slowness {
  readonly #parts: SlownessParts;
  readonly #spells = new SlowSpells();
  /** The events of spells that are written already. */
  readonly #events = new WeakMap<object, number>();
  readonly #timer: NodeJS.Timeout;
  #writing: Promise<void> = Promise.resolve();

  constructor(parts: SlownessParts) {
    this.#parts = parts;
    this.#timer = setInterval(() => this.#write(), parts.keptEveryMs ?? 5000);
    this.#timer.unref();
  }

  note({ kind, key, what }: Timed, tookMs: number): void {
    if (tookMs < slowKinds[kind].limitMs) return;
    this.#spells.note({ kind, key, what: what().slice(0, 300), endedMs: Date.now(), tookMs });
  }

  /** Does something, and notes it where that took long, also where it failed. */
  async watch<T>(timed: Timed, work: () => T | Promise<T>): Promise<T> {
    const since = performance.now();
    try {
      return await work();
    } finally {
      this.note(timed, performance.now() - since);
    }
  }

  /** Writes what is not written yet. */
  async close(): Promise<void> {
    clearInterval(this.#timer);
    await this.#write();
  }

  #write(): Promise<void> {
    this.#writing = this.#writing.then(async () => {
      for (const changed of this.#spells.changed()) {
        try {
          await this.#keep(changed.mark, eventOfSpell(changed.spell, this.#parts.machine));
          this.#spells.kept(changed);
        } catch (error) {
          this.#parts.log.info({ err: error }, "what took long could not be kept; it is tried again");
          return;
        }
      }
    });
    return this.#writing;
  }

  async #keep(mark: object, event: ReturnType<typeof eventOfSpell>): Promise<void> {
    const { database } = this.#parts;
    const known = this.#events.get(mark);
    if (known !== undefined) await changeEvent(database, known, event);
    else this.#events.set(mark, (await insertEvent(database, event)).id);
  }
}
