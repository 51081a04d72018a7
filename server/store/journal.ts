import { readJournalBlock, writeJournalBlock } from "../../core/chunk/journal-block.ts";
import { type Batch, joinBatches } from "../../core/series/batch.ts";
import type { Database } from "../db/pool.ts";
import { slotOf } from "./slots.ts";

const flushEveryMs = 200;
const flushAtSamples = 20_000;
const retryAfterMs = 1000;
/** What may wait while the database is away; about 16 bytes each. */
const mostWaiting = 5_000_000;

/** The store takes nothing more because too much waits for the database. */
export class StoreBusyError extends Error {
  override name = "StoreBusyError";
}

interface Waiting {
  readonly batch: Batch;
  readonly done: () => void;
}

/**
 * Makes batches durable: gathers what is written within 200 ms (or 20,000 samples), commits it as journal rows, and only then tells
 * the writers. While the database is away it keeps what waits and tries again every second.
 */
export class Journal {
  readonly #database: Database;
  readonly #committed: (batch: Batch) => void;
  readonly #most: number;
  #waiting: Waiting[] = [];
  #samples = 0;
  #timer: NodeJS.Timeout | undefined;
  #flushing: Promise<void> | undefined;
  #failure: Error | undefined;

  /** `committed` is called with every batch right after its commit, before its writer is told. */
  constructor(database: Database, committed: (batch: Batch) => void, most = mostWaiting) {
    this.#database = database;
    this.#committed = committed;
    this.#most = most;
  }

  /** Why the last flush failed; undefined while all is well. */
  get failure(): Error | undefined {
    return this.#failure;
  }

  get waitingSamples(): number {
    return this.#samples;
  }

  /** Resolves when the batch is durable. Throws StoreBusyError where too much waits already. */
  async write(batch: Batch): Promise<void> {
    if (batch.length === 0) return;
    if (this.#samples + batch.length > this.#most) throw new StoreBusyError(`${this.#samples} samples wait for the database; nothing more is taken until it is back.`);
    await new Promise<void>((done) => {
      this.#waiting.push({ batch, done });
      this.#samples += batch.length;
      if (this.#samples >= flushAtSamples && !this.#failure) void this.#flush();
      else this.#schedule(flushEveryMs);
    });
  }

  /** Flushes what waits; returns when it is durable or the database refused it. */
  async close(): Promise<void> {
    clearTimeout(this.#timer);
    await this.#flushing;
    await this.#flush();
    clearTimeout(this.#timer);
  }

  #schedule(afterMs: number): void {
    if (this.#timer || this.#flushing) return;
    this.#timer = setTimeout(() => {
      this.#timer = undefined;
      void this.#flush();
    }, afterMs);
  }

  #flush(): Promise<void> {
    this.#flushing ??= this.#flushOnce().finally(() => {
      this.#flushing = undefined;
      if (this.#waiting.length > 0) this.#schedule(this.#failure ? retryAfterMs : flushEveryMs);
    });
    return this.#flushing;
  }

  async #flushOnce(): Promise<void> {
    const taken = [...this.#waiting]; // what is written during the commit waits for the next one
    if (taken.length === 0) return;
    const batch = joinBatches(taken.map((one) => one.batch));
    try {
      await insertJournalRows(this.#database, batch);
    } catch (error) {
      this.#failure = error as Error;
      return;
    }
    this.#failure = undefined;
    this.#waiting = this.#waiting.slice(taken.length);
    this.#samples -= batch.length;
    this.#committed(batch);
    for (const { done } of taken) done();
  }
}

async function insertJournalRows(database: Database, batch: Batch): Promise<void> {
  const bySlot = splitBySlot(batch);
  await database.query(
    `insert into journal (slot_ms, samples, payload)
     select * from unnest($1::bigint[], $2::int[], $3::bytea[])`,
    [[...bySlot.keys()], [...bySlot.values()].map((part) => part.length), [...bySlot.values()].map((part) => Buffer.from(writeJournalBlock(part)))],
  );
}

/** The rows of each slot in their order. Nearly always all rows are of one slot, and the batch itself is returned. */
function splitBySlot(batch: Batch): Map<number, Batch> {
  const slots = new Map<number, number[]>();
  for (let i = 0; i < batch.length; i++) {
    const slot = slotOf(batch.timeMs[i] as number);
    const rows = slots.get(slot);
    if (rows) rows.push(i);
    else slots.set(slot, [i]);
  }
  if (slots.size === 1) return new Map([[slots.keys().next().value as number, batch]]);
  return new Map(
    [...slots].map(([slot, rows]) => [
      slot,
      {
        series: Uint32Array.from(rows, (i) => batch.series[i] as number),
        timeMs: Float64Array.from(rows, (i) => batch.timeMs[i] as number),
        value: Float64Array.from(rows, (i) => batch.value[i] as number),
        length: rows.length,
      },
    ]),
  );
}

/** Hands every journal row to `take`, oldest first, a few at a time. */
export async function replayJournal(database: Database, take: (batch: Batch) => void): Promise<void> {
  const rowsAtOnce = 500;
  let after = 0;
  for (;;) {
    const { rows } = await database.query<{ id: number; payload: Buffer }>("select id, payload from journal where id > $1::bigint order by id limit $2::int", [after, rowsAtOnce]);
    for (const row of rows) take(readJournalBlock(row.payload));
    if (rows.length < rowsAtOnce) return;
    after = (rows[rows.length - 1] as { id: number }).id;
  }
}
