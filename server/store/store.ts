import { readChunkBlock } from "../../core/chunk/chunk-block.ts";
import { type Batch, type Column, emptyColumn } from "../../core/series/batch.ts";
import { cutColumn, mergeColumns } from "../../core/series/merge-columns.ts";
import type { Database } from "../db/pool.ts";
import { compactSlot, slotsToCompact } from "./compact-slot.ts";
import { Head } from "./head.ts";
import { Journal, replayJournal } from "./journal.ts";
import { SeriesRegistry } from "./series-registry.ts";
import { slotMs, slotOf } from "./slots.ts";

/** A slot is compacted this long after its end, so that what is a little late does not reopen it. */
const compactAfterMs = 300_000;

/** Where samples live: journal (durable) and head (memory) while they are new, chunks afterwards. */
export class Store {
  readonly series: SeriesRegistry;
  readonly #database: Database;
  readonly #head: Head;
  readonly #journal: Journal;
  readonly #listeners = new Set<(batch: Batch) => void>();
  #lastSampleAtMs: number | undefined;

  private constructor(database: Database, series: SeriesRegistry, head: Head) {
    this.#database = database;
    this.series = series;
    this.#head = head;
    this.#journal = new Journal(database, (batch) => {
      this.#take(batch);
      for (const listener of this.#listeners) listener(batch);
    });
  }

  /** Opens the store and reads the journal back into memory. */
  static async open(database: Database): Promise<Store> {
    const series = await SeriesRegistry.open(database);
    const { rows } = await database.query<{ slot_ms: number | null }>("select max(slot_ms) as slot_ms from chunk");
    const newest = rows[0]?.slot_ms ?? null;
    const store = new Store(database, series, new Head(newest === null ? Number.NEGATIVE_INFINITY : newest + slotMs));
    await replayJournal(database, (batch) => store.#take(batch));
    return store;
  }

  get health(): { readonly lastSampleAtMs: number | undefined; readonly waitingSamples: number; readonly failure: Error | undefined } {
    return { lastSampleAtMs: this.#lastSampleAtMs, waitingSamples: this.#journal.waitingSamples, failure: this.#journal.failure };
  }

  /** Stores a batch; resolves when it is durable. Of equal series and time the last written wins. */
  write(batch: Batch): Promise<void> {
    return this.#journal.write(batch);
  }

  /** Calls `listener` with every batch after its commit; the answer takes it off again. */
  onCommit(listener: (batch: Batch) => void): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }

  /** The samples of series in `[fromMs, toMs)`, one column for each id in its order. */
  async read(ids: readonly number[], fromMs: number, toMs: number): Promise<readonly Column[]> {
    // Head first: what compaction takes out of it meanwhile is in the chunks that are read after.
    const newer = ids.map((id) => this.#head.read(id, fromMs, toMs));
    if (ids.length === 0 || fromMs >= this.#head.completeFromMs) return newer;
    const older = await this.#readChunks(ids, fromMs, toMs);
    return ids.map((id, i) => mergeColumns(older.get(id) ?? emptyColumn, newer[i] as Column));
  }

  lastTimeMs(id: number): number | undefined {
    return this.#head.lastTimeMs(id);
  }

  /** Samples stored per minute number (ms / 60,000) in `[fromMs, toMs)`; minutes with none are absent. */
  async samplesPerMinute(fromMs: number, toMs: number): Promise<ReadonlyMap<number, number>> {
    const { rows } = await this.#database.query<{ slot_ms: number; per_minute: number[] }>(
      "select slot_ms, per_minute from gathered where slot_ms > $1::bigint and slot_ms < $2::bigint",
      [Math.floor(fromMs - slotMs), Math.ceil(toMs)],
    );
    const minutes = new Map<number, number>();
    for (const { slot_ms, per_minute } of rows) {
      for (const [i, n] of per_minute.entries()) if (n > 0) minutes.set(slot_ms / 60_000 + i, n);
    }
    for (const [minute, n] of this.#head.perMinute) minutes.set(minute, Math.max(n, minutes.get(minute) ?? 0));
    return minutes;
  }

  /** Compacts every slot that has ended; the two newest stay in memory as well. */
  async compact(nowMs: number): Promise<void> {
    for (const slot of await slotsToCompact(this.#database, nowMs - compactAfterMs)) await compactSlot(this.#database, slot);
    const waiting = new Set(await slotsToCompact(this.#database, Number.MAX_SAFE_INTEGER));
    for (const slot of this.#head.slots) if (slot < slotOf(nowMs) - slotMs && !waiting.has(slot)) this.#head.drop(slot);
  }

  close(): Promise<void> {
    return this.#journal.close();
  }

  #take(batch: Batch): void {
    this.#head.put(batch);
    for (let i = 0; i < batch.length; i++) {
      const time = batch.timeMs[i] as number;
      if (!(time <= (this.#lastSampleAtMs ?? Number.NEGATIVE_INFINITY))) this.#lastSampleAtMs = time;
    }
  }

  async #readChunks(ids: readonly number[], fromMs: number, toMs: number): Promise<Map<number, Column>> {
    const { rows } = await this.#database.query<{ series_id: number; payload: Buffer }>(
      `select series_id, payload
       from chunk
       where series_id = any($1::int[]) and slot_ms > $2::bigint and slot_ms < $3::bigint
       order by slot_ms`,
      [ids, Math.floor(fromMs - slotMs), Math.ceil(toMs)],
    );
    const parts = new Map<number, Column[]>();
    for (const { series_id, payload } of rows) {
      const column = cutColumn(readChunkBlock(payload), fromMs, toMs);
      const list = parts.get(series_id);
      if (list) list.push(column);
      else parts.set(series_id, [column]);
    }
    return new Map([...parts].map(([id, list]) => [id, concatenated(list)]));
  }
}

/** Joins columns that follow one another in time. */
function concatenated(parts: readonly Column[]): Column {
  const length = parts.reduce((sum, part) => sum + part.timeMs.length, 0);
  const whole = { timeMs: new Float64Array(length), value: new Float64Array(length) };
  let at = 0;
  for (const part of parts) {
    whole.timeMs.set(part.timeMs, at);
    whole.value.set(part.value, at);
    at += part.timeMs.length;
  }
  return whole;
}
