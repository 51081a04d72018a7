import { Problem } from "../http/problem.ts";
import { setTimeout as delay } from "node:timers/promises";
import { JournalSegmentWriter } from "../../core/chunk/journal-block.ts";
import { type Batch, joinBatches } from "../../core/series/batch.ts";
import type { Database } from "../db/pool.ts";
import { medianOf } from "../../core/series/select.ts";
import { seal } from "./seal.ts";
import type { Spool } from "./spool.ts";
import { splitBySlot } from "./split-by-slot.ts";

/** On which servers that stand beside this one hear of its commits. */
export const journalChannel = "nubrel_journal";
const flushEveryMs = 200;
const flushAtSamples = 20_000;
const retryAfterMs = 1000;
const closeWaitsMs = 8000;
/** What a commit takes of late is the median of so many: one beside which something else was done does not count. */
const notedCommits = 15;
/** What may wait while the database is away; about 20 bytes each. */
const mostWaiting = 5_000_000;
/** A segment remembers the last value of each series; late samples may open many. The one used longest ago is left. */
const mostOpenSegments = 8;
/**
 * What follows a damaged row in its segment leans on it and is lost with it: segments are short. Beginning anew costs 9
 * bytes a series in place of 3.
 */
const longestSegmentMs = 600_000;
/** As many come in so long at 10,000 a second: a start reads several segments at a time. */
const mostSegmentSamples = 6_000_000;
/** Segments of one process are numbered within its era; no process writes as many. */
const segmentsPerEra = 2 ** 24;

/** Hears how long a commit of so many samples took, and why it failed where it did. */
export type Flushed = (tookMs: number, samples: number, failure?: Error) => void;

/** The store takes nothing more because too much waits for the database. */
export class StoreBusyError extends Problem {
  override name = "StoreBusyError";

  constructor(message: string) {
    super(503, "the-store-is-busy", message, { retryAfterSeconds: 5 });
  }
}

/** The lock on the database is not held just now: what waits goes on waiting. */
class NotOursError extends Error {
  override name = "NotOursError";
}

interface Waiting {
  readonly batch: Batch;
  readonly done: () => void;
}

interface Segment {
  readonly id: number;
  readonly slot: number;
  readonly writer: JournalSegmentWriter;
  /** When it was begun, of the process's monotonic clock. */
  readonly sinceMs: number;
  rows: number;
  samples: number;
}

interface JournalRow {
  readonly segment: number;
  readonly seq: number;
  readonly slot: number;
  readonly samples: number;
  readonly payload: Buffer;
}

/**
 * Makes batches durable: gathers what is written within 200 ms (or 20,000 samples), commits it as journal rows, and
 * only then tells
 * the writers. While the database is away it keeps what waits and tries again every second with the very same rows:
 * their key is
 * segment and number, so that a row whose commit went through unheard is not stored twice.
 */
export class Journal {
  readonly #database: Database;
  readonly #committed: (batch: Batch, parts: readonly Batch[]) => void;
  readonly #most: number;
  readonly #mostInSegment: number;
  readonly #mayWrite: () => boolean;
  readonly #spool: Spool | undefined;
  readonly #tells: boolean;
  readonly #flushed: Flushed;
  /** How many of what waits, from the first on, stand in the spool. */
  #spooled = 0;
  readonly #open = new Map<number, Segment>();
  /** All segments that the database may hold, by slot. */
  readonly #segments = new Map<number, Set<number>>();
  #nextSegment: number;
  #waiting: Waiting[] = [];
  #samples = 0;
  #timer: NodeJS.Timeout | undefined;
  #flushing: Promise<void> | undefined;
  #unsure:
    | { readonly taken: readonly Waiting[]; readonly batch: Batch; readonly rows: readonly JournalRow[] }
    | undefined;
  #failure: Error | undefined;
  /** Processor seconds of the last commits. */
  readonly #seconds: number[] = [];

  /**
   * `committed` is called with every batch, and with what each writer wrote of it, right after its commit, before a
   * writer is told. `known` are the segments
   * that were replayed, by slot.
   */
  constructor(
    database: Database,
    era: number,
    known: ReadonlyMap<number, ReadonlySet<number>>,
    committed: (batch: Batch, parts: readonly Batch[]) => void,
    {
      most = mostWaiting,
      mostInSegment = mostSegmentSamples,
      mayWrite = () => true,
      spool,
      tells = false,
      flushed = () => {},
    }: {
      readonly most?: number;
      readonly mostInSegment?: number;
      readonly mayWrite?: () => boolean;
      readonly spool?: Spool | undefined;
      readonly tells?: boolean;
      readonly flushed?: Flushed;
    } = {},
  ) {
    this.#database = database;
    this.#nextSegment = era * segmentsPerEra;
    this.#committed = committed;
    this.#most = most;
    this.#mostInSegment = mostInSegment;
    this.#mayWrite = mayWrite;
    this.#spool = spool;
    this.#tells = tells;
    this.#flushed = flushed;
    for (const [slot, segments] of known) this.#segments.set(slot, new Set(segments));
  }

  /** Why the last flush failed; undefined while all is well. */
  get failure(): Error | undefined {
    return this.#failure;
  }

  get waitingSamples(): number {
    return this.#samples;
  }

  /** Whether some of what waits stands in the spool. */
  get isSpooled(): boolean {
    return this.#spooled > 0;
  }

  get mostWaiting(): number {
    return this.#most;
  }

  /**
   * Processor seconds that a commit takes here of late, with what is told of it and done upon it; undefined before the
   * first ones.
   */
  get commitSeconds(): number | undefined {
    const { length } = this.#seconds;
    return length < notedCommits ? undefined : medianOf(Float64Array.from(this.#seconds), length);
  }

  /** Slots that may have journal rows. */
  get slots(): readonly number[] {
    return [...this.#segments.keys()];
  }

  /** Resolves when the batch is durable. Throws StoreBusyError where too much waits already. */
  async write(batch: Batch): Promise<void> {
    if (batch.length === 0) return;
    if (this.#samples + batch.length > this.#most)
      throw new StoreBusyError(
        `${this.#samples} samples wait for the database; nothing more is taken until it is back.`,
      );
    await new Promise<void>((done) => {
      this.#waiting.push({ batch, done });
      this.#samples += batch.length;
      if (this.#samples >= flushAtSamples && !this.#failure) void this.#flush();
      else this.#schedule(flushEveryMs);
    });
  }

  /**
   * Ends the segments of a slot and gives those that hold what has been committed so far, together with what `take`
   * answers at the
   * same moment. It waits for a commit that is under way; what is written from then on goes to other segments.
   */
  async endSegments<T>(
    slot: number,
    take: () => T,
  ): Promise<{ readonly segments: readonly number[]; readonly taken: T }> {
    while (this.#flushing) await this.#flushing;
    if (this.#unsure) throw new Error("the database has not answered the last commit yet");
    this.#open.delete(slot);
    return { segments: [...(this.#segments.get(slot) ?? [])], taken: take() };
  }

  /** Notes a segment that another server has begun. */
  began(slot: number, segment: number): void {
    const known = this.#segments.get(slot);
    if (known) known.add(segment);
    else this.#segments.set(slot, new Set([segment]));
  }

  /** Forgets segments that compaction has removed. */
  removed(slot: number, segments: readonly number[]): void {
    const known = this.#segments.get(slot);
    for (const segment of segments) known?.delete(segment);
    if (known?.size === 0) this.#segments.delete(slot);
  }

  /** Hands so many bytes to the database and back, as a commit does, and keeps nothing: what a commit takes here. */
  async tryCommit(bytes: number): Promise<void> {
    await this.#database.query({ name: "try-commit", text: "select $1::bytea", values: [Buffer.alloc(bytes)] });
  }

  /** Flushes what waits; returns when it is durable or the database refused it. */
  async flush(): Promise<void> {
    await this.#flushing;
    await this.#flush();
  }

  /** Flushes what waits. A database that is away or does not answer is not waited for: what waits is spooled. */
  async close(): Promise<void> {
    clearTimeout(this.#timer);
    if (this.#failure) this.#spoolWaiting();
    const answered = await Promise.race([this.flush().then(() => true), delay(closeWaitsMs, false, { ref: false })]);
    if (!answered) this.#spoolWaiting();
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
      if (this.#waiting.length === 0) return;
      if (this.#samples >= flushAtSamples && !this.#failure)
        this.#schedule(0); // enough has come during the commit
      else this.#schedule(this.#failure ? retryAfterMs : flushEveryMs);
    });
    return this.#flushing;
  }

  async #flushOnce(): Promise<void> {
    if (!this.#unsure) {
      const taken = [...this.#waiting]; // what is written during the commit waits for the next one
      if (taken.length === 0) return;
      const batch = joinBatches(taken.map((one) => one.batch));
      this.#unsure = { taken, batch, rows: this.#rowsOf(batch) };
    }
    const { taken, batch, rows } = this.#unsure;
    const before = process.cpuUsage();
    const since = performance.now();
    try {
      if (!this.#mayWrite())
        throw new NotOursError("the connection that holds the database for this server is broken; it is opened anew");
      await insertJournalRows(this.#database, rows, this.#tells);
    } catch (error) {
      this.#failure = error as Error;
      this.#flushed(performance.now() - since, batch.length, this.#failure);
      this.#spoolWaiting();
      return;
    }
    this.#flushed(performance.now() - since, batch.length);
    this.#failure = undefined;
    this.#unsure = undefined;
    this.#spooled = Math.max(0, this.#spooled - taken.length);
    this.#waiting = this.#waiting.slice(taken.length);
    this.#samples -= batch.length;
    this.#committed(
      batch,
      taken.map((one) => one.batch),
    );
    for (const { done } of taken) done();
    this.#noteSeconds(process.cpuUsage(before));
  }

  #noteSeconds({ user, system }: NodeJS.CpuUsage): void {
    this.#seconds.push((user + system) / 1e6);
    if (this.#seconds.length > notedCommits) this.#seconds.shift();
  }

  #spoolWaiting(): void {
    const fresh = this.#waiting.slice(this.#spooled);
    if (this.#spool?.add(fresh.map(({ batch }) => ({ kind: "batch", batch })))) this.#spooled = this.#waiting.length;
  }

  #rowsOf(batch: Batch): readonly JournalRow[] {
    return [...splitBySlot(batch)].map(([slot, part]) => {
      const segment = this.#segmentOf(slot);
      const payload = segment.writer.write(part);
      segment.samples += part.length;
      return { segment: segment.id, seq: segment.rows++, slot, samples: part.length, payload: seal(payload) };
    });
  }

  #segmentOf(slot: number): Segment {
    let segment = this.#open.get(slot);
    this.#open.delete(slot); // put again below: the map is in order of use
    if (!segment || performance.now() - segment.sinceMs > longestSegmentMs || segment.samples >= this.#mostInSegment) {
      segment = {
        sinceMs: performance.now(),
        id: this.#nextSegment++,
        slot,
        writer: new JournalSegmentWriter(),
        rows: 0,
        samples: 0,
      };
      this.began(slot, segment.id);
    }
    this.#open.set(slot, segment);
    if (this.#open.size > mostOpenSegments) this.#open.delete(this.#open.keys().next().value as number);
    return segment;
  }
}

/**
 * One statement, so one transaction. Payloads go as binary parameters; as an array they would go as text of twice the
 * size. With `tells` other servers hear of it, with the database's time.
 */
async function insertJournalRows(database: Database, rows: readonly JournalRow[], tells: boolean): Promise<void> {
  const places = rows.map(
    (_, i) =>
      `($${5 * i + 1}::bigint, $${5 * i + 2}::int, $${5 * i + 3}::int, $${5 * i + 4}::int, $${5 * i + 5}::bytea)`,
  );
  await database.query({
    ...(rows.length === 1 && { name: tells ? "journal-told" : "journal" }), // the usual one is prepared: a tenth of a flush's time
    text: tells ? toldInsert(places.join(", ")) : plainInsert(places.join(", ")),
    values: rows.flatMap((row) => [row.segment, row.seq, row.slot, row.samples, row.payload]),
  });
}

const plainInsert = (values: string): string =>
  `insert into journal (segment, seq, slot, samples, payload)
   values ${values}
   on conflict (segment, seq) do nothing`;

const toldInsert = (values: string): string =>
  `with stored as (${plainInsert(values)} returning segment)
   select pg_notify('${journalChannel}', concat_ws(' ', floor(extract(epoch from clock_timestamp()) * 1000), string_agg(distinct segment::text, ' ')))
   from stored`;

/** A number that no process had before: its segments are numbered in it. */
export async function nextJournalEra(database: Database): Promise<number> {
  const { rows } = await database.query<{ era: number }>("select nextval('journal_era')::bigint as era");
  return (rows[0] as { era: number }).era;
}
