import { Problem } from "../http/problem.ts";
import { setTimeout as delay } from "node:timers/promises";
import { JournalSegmentWriter } from "../../core/chunk/journal-block.ts";
import { type Batch, joinBatches } from "../../core/series/batch.ts";
import type { Connection, Database } from "../db/pool.ts";
import { medianOf } from "../../core/series/select.ts";
import { seal } from "./seal.ts";
import { insertFencedRows, insertJournalRows, type JournalRow } from "./journal-rows.ts";
import { type JournalFence, NotOursError, type Pass } from "./journal-fence.ts";
import type { Spool } from "./spool.ts";
import { splitBySlot } from "./split-by-slot.ts";

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
/** Segments are numbered within the era of who writes them; nobody writes as many in one. */
export const segmentsPerEra = 2 ** 24;

/** Hears how long a commit of so many samples took, and why it failed where it did. */
export type Flushed = (tookMs: number, samples: number, failure?: Error) => void;

/** The store takes nothing more because too much waits for the database. */
export class StoreBusyError extends Problem {
  override name = "StoreBusyError";

  constructor(message: string) {
    super(503, "the-store-is-busy", message, { retryAfterSeconds: 5 });
  }
}

/** Samples of series that were forgotten meanwhile: they are to be named anew. */
export class ForgottenSeriesError extends Error {
  override name = "ForgottenSeriesError";
}

interface Waiting {
  readonly batch: Batch;
  readonly done: () => void;
  readonly failed: (error: Error) => void;
}

/** What is being written; its rows are made once it is known by which number they are let in. */
interface Unsure {
  readonly taken: readonly Waiting[];
  readonly batch: Batch;
  /** With the fence under which their segments were begun. */
  made: { readonly rows: readonly JournalRow[]; readonly fence: number } | undefined;
}

/** How a journal stands among those of other servers on the same database. */
export interface AmongOthers {
  readonly fence: JournalFence;
  /** This server's pass as it was when it read what there is; without it one is asked for before anything is written. */
  readonly pass?: Pass | undefined;
  /**
   * Whether it writes what others may have written before, later or otherwise: its segments come after those of others
   * that it knows of, as segments are replayed in the order of their numbers. One server of all does.
   */
  readonly corrects: boolean;
  /** Called with a new pass, before anything is written by it; says which batches may still be written. */
  readonly passed?: (pass: Pass) => Promise<((batch: Batch) => boolean) | undefined>;
  /** Resolves when what others have committed is known here. */
  readonly caughtUp: () => Promise<void>;
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
  readonly #others: AmongOthers | undefined;
  readonly #flushed: Flushed;
  /** How many of what waits, from the first on, stand in the spool. */
  #spooled = 0;
  /** In which this process has written or may write. */
  readonly #eras = new Set<number>();
  readonly #open = new Map<number, Segment>();
  /** All segments that the database may hold, by slot. */
  readonly #segments = new Map<number, Set<number>>();
  #nextSegment: number;
  #waiting: Waiting[] = [];
  #samples = 0;
  #timer: NodeJS.Timeout | undefined;
  #flushing: Promise<void> | undefined;
  #unsure: Unsure | undefined;
  #pass: Pass | undefined;
  /** Another server has begun a segment whose number is above those of this one. */
  #isOutrun = false;
  #failure: Error | undefined;
  /** Which batches may still be written after series were forgotten. */
  #mayStill: (batch: Batch) => boolean = () => true;
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
      others,
      flushed = () => {},
    }: {
      readonly most?: number;
      readonly mostInSegment?: number;
      readonly mayWrite?: () => boolean;
      readonly spool?: Spool | undefined;
      readonly others?: AmongOthers | undefined;
      readonly flushed?: Flushed;
    } = {},
  ) {
    this.#database = database;
    this.#nextSegment = era * segmentsPerEra;
    this.#eras.add(era);
    this.#committed = committed;
    this.#most = most;
    this.#mostInSegment = mostInSegment;
    this.#mayWrite = mayWrite;
    this.#spool = spool;
    this.#others = others;
    this.#pass = others?.pass;
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
    await new Promise<void>((done, failed) => {
      this.#waiting.push({ batch, done, failed });
      this.#samples += batch.length;
      if (this.#samples >= flushAtSamples && !this.#failure) void this.#flush();
      else this.#schedule(flushEveryMs);
    });
  }

  /**
   * Ends the segments of a slot, also those of other servers, and gives those that hold what has been committed so far,
   * together with what `take` answers at a moment after. It waits for commits that are under way; what is written from
   * then on goes to other segments. Throws NotOursError where another server leads.
   */
  async endSegments<T>(
    slot: number,
    take: () => T,
  ): Promise<{ readonly segments: readonly number[]; readonly taken: T }> {
    let ended = Number.POSITIVE_INFINITY;
    if (this.#others) {
      const pass = await this.#others.fence.raise();
      ended = pass.era * segmentsPerEra;
      this.#enter(pass);
      await this.#others.caughtUp();
    }
    while (this.#flushing) await this.#flushing;
    if (this.#unsure) throw new Error("the database has not answered the last commit yet");
    this.#open.delete(slot);
    const segments = [...(this.#segments.get(slot) ?? [])].filter((segment) => segment < ended);
    return { segments, taken: take() };
  }

  /**
   * Has those series forgotten by `forget` that `isWithout` names once what other servers wrote before is known here;
   * they write nothing while it works.
   */
  async forgetting(
    isWithout: () => readonly number[],
    forget: (ids: readonly number[], database: Database | Connection) => Promise<void>,
  ): Promise<void> {
    const { fence, caughtUp } = this.#others ?? {};
    if (!fence || !caughtUp) return await forget(isWithout(), this.#database);
    const pass = await fence.raiseForgetting(async (connection) => {
      await caughtUp();
      await forget(isWithout(), connection);
    });
    this.#enter(pass);
  }

  /** Notes a segment that another server has begun. */
  began(slot: number, segment: number): void {
    if (this.#others?.corrects && segment >= this.#nextSegment) this.#isOutrun = true;
    const known = this.#segments.get(slot);
    if (known) known.add(segment);
    else this.#segments.set(slot, new Set([segment]));
  }

  /** Whether a segment is of this process. */
  isOwn(segment: number): boolean {
    return this.#eras.has(Math.floor(segment / segmentsPerEra));
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
      this.#unsure = { taken, batch: joinBatches(taken.map((one) => one.batch)), made: undefined };
    }
    const { taken, batch } = this.#unsure;
    const before = process.cpuUsage();
    const since = performance.now();
    try {
      if (!this.#mayWrite())
        throw new NotOursError("the connection that holds the database for this server is broken; it is opened anew");
      await this.#insert(this.#unsure);
    } catch (error) {
      if (error instanceof ForgottenSeriesError) return this.#leaveForgotten(error);
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

  async #insert(unsure: Unsure): Promise<void> {
    if (this.#isOutrun && !unsure.made) await this.#passAnew(unsure);
    for (;;) {
      unsure.made ??= { rows: this.#rowsOf(unsure.batch), fence: this.#pass?.fence ?? 0 };
      const { rows, fence } = unsure.made;
      if (!this.#others) return await insertJournalRows(this.#database, rows);
      if (await insertFencedRows(this.#database, rows, fence)) return;
      // What a commit that went through unheard has stored already is stored once more: it is the same sample.
      unsure.made = undefined;
      await this.#passAnew(unsure);
    }
  }

  /** Throws ForgottenSeriesError where some of what is to be written may not be any more. */
  async #passAnew({ taken }: Unsure): Promise<void> {
    const { fence, passed } = this.#others as AmongOthers;
    const pass = await fence.pass();
    const may = await passed?.(pass);
    this.#enter(pass);
    if (may && !taken.every(({ batch }) => may(batch))) {
      this.#mayStill = may;
      throw new ForgottenSeriesError("Series of it were forgotten meanwhile.");
    }
  }

  /** From now on all that is written goes to segments of an era of its own. */
  #enter(pass: Pass): void {
    this.#pass = pass;
    this.#nextSegment = pass.era * segmentsPerEra;
    this.#eras.add(pass.era);
    this.#open.clear();
    this.#isOutrun = false;
  }

  /** Tells those who wait for samples of series that were forgotten; what else waits is written. */
  #leaveForgotten(error: ForgottenSeriesError): void {
    this.#unsure = undefined;
    const waiting = this.#waiting;
    this.#waiting = waiting.filter(({ batch }) => this.#mayStill(batch));
    this.#samples = this.#waiting.reduce((sum, { batch }) => sum + batch.length, 0);
    for (const one of waiting) if (!this.#waiting.includes(one)) one.failed(error);
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
