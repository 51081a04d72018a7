import type { SpellView } from "../../core/api/sources.ts";
import type { Database } from "../db/pool.ts";
import { listSpells, writeSpell } from "./spell-rows.ts";

interface OpenSpell {
  readonly fromMs: number;
  untilMs: number;
  readonly outcome: string;
  readonly words: string;
  writtenUntilMs: number;
}

/** A spell whose source was not heard for this many intervals has ended. */
const gapIntervals = 3;

/**
 * Keeps how each source stood over time. What lasts is written now and then; a kill loses the last half minute of its
 * end, not its beginning.
 */
export class Spells {
  readonly #database: Database;
  readonly #open = new Map<number, OpenSpell>();

  constructor(database: Database) {
    this.#database = database;
  }

  /** Notes an outcome at a time; `ok` or the kind of a diagnosis. */
  note(sourceId: number, intervalMs: number, atMs: number, outcome: string, words: string): void {
    const open = this.#open.get(sourceId);
    if (
      open &&
      open.outcome === outcome &&
      open.words === words &&
      atMs - open.untilMs <= gapIntervals * intervalMs + 5000
    ) {
      open.untilMs = Math.max(open.untilMs, atMs);
      return;
    }
    const fresh = { fromMs: atMs, untilMs: atMs, outcome, words, writtenUntilMs: Number.NEGATIVE_INFINITY };
    if (open) void this.#write(sourceId, open);
    this.#open.set(sourceId, fresh);
    void this.#write(sourceId, fresh);
  }

  /**
   * The spells of a source that touch `[fromMs, toMs)`, oldest first, with the one that goes on as far as it has come.
   */
  async list(sourceId: number, fromMs: number, toMs: number): Promise<readonly SpellView[]> {
    const written = await listSpells(this.#database, sourceId, fromMs, toMs);
    const open = this.#open.get(sourceId);
    if (!open || open.fromMs >= toMs || open.untilMs < fromMs) return written;
    return [
      ...written.filter((spell) => spell.fromMs !== open.fromMs),
      { fromMs: open.fromMs, untilMs: open.untilMs, outcome: open.outcome as SpellView["outcome"], words: open.words },
    ];
  }

  /** Writes what has gone on since it was written last. */
  async flush(): Promise<void> {
    for (const [sourceId, open] of this.#open)
      if (open.untilMs > open.writtenUntilMs) await this.#write(sourceId, open);
  }

  async #write(sourceId: number, spell: OpenSpell): Promise<void> {
    const untilMs = spell.untilMs;
    try {
      await writeSpell(this.#database, sourceId, { ...spell, untilMs });
      spell.writtenUntilMs = untilMs;
    } catch {
      // the database is away: it is written with the next flush
    }
  }
}
