import type { Retention } from "../../core/api/costs.ts";
import { freemem } from "node:os";
import type { SentencePlan, StoreReach } from "../../core/reading/plan.ts";
import type { LineValues } from "../../core/reading/line-values.ts";
import { type Batch, batchOf, type Column, type Runs } from "../../core/series/batch.ts";
import { type Database, inTransaction } from "../db/pool.ts";
import { admit, mostAheadMs, type RefusalReason, type Refused } from "./admission.ts";
import type { Expected } from "./expected.ts";
import { Following } from "./following.ts";
import { JournalFollower } from "./journal-follower.ts";
import { Head } from "./head.ts";
import { type AmongOthers, type Flushed, Journal, segmentsPerEra, StoreBusyError } from "./journal.ts";
import { JournalFence } from "./journal-fence.ts";
import { nextJournalEra } from "./journal-rows.ts";
import { setAside } from "./quarantine-rows.ts";
import { journalSegments, replayJournal } from "./journal-replay.ts";
import { type PerMinute, samplesPerMinute, samplesPerSlot } from "./gathered-rows.ts";
import { NamelessSamples } from "./nameless-samples.ts";
import { NewestTimes } from "./newest-times.ts";
import { partitioned } from "./partitions.ts";
import { keptFromMs, readRetention, writeRetention } from "./retention.ts";
import { SeriesLives } from "./series-lives.ts";
import { SeriesPace } from "./series-pace.ts";
import { type Series, SeriesRegistry } from "./series-registry.ts";
import type { NamedSamples, Spool } from "./spool.ts";
import { slotOf, slotStart } from "./slots.ts";
import { Compactor } from "./compactor.ts";
import { takeOverFirstSlice } from "./take-over.ts";
import { type Executor, InlineExecutor } from "../work/executor.ts";
import { storeWork } from "./tasks/store-work.ts";
import { columnsKind, reduceKind } from "./tasks/task.ts";
import { replayApart } from "./tasks/replay.ts";
import { joinLines, splitReduce } from "./tasks/split-reduce.ts";
import { sumHead } from "./tasks/sum-head.ts";

/** What is worked out from more samples goes to a worker thread. */
const mostSamplesHere = 50_000;
/**
 * Except plain sums from the head: 240,000 samples are added in 1 ms, and handing them to a thread takes this one about
 * as long.
 */
const mostSummedHere = 500_000;
/** A larger journal is unpacked on threads of their own, which take half a second to start. */
const mostReplayedHere = 10_000_000;
/** What is old is packed only then: a start has other things to do. */
const packedAfterStartMs = 3000;
/** What a sample takes in the journal, about. */
const bytesInJournal = 10;
/** Of the machine's free memory, what a start may take for samples that are packed once it serves. */
const shareForReplay = 0.2;
const dayMs = partitioned.rollup_5m.unitMs;
const hoursPeriodMs = partitioned.rollup_1h.unitMs;

export interface StoreHealth {
  readonly lastSampleAtMs: number | undefined;
  /** Samples that wait for the database, and how many may. */
  readonly waitingSamples: number;
  readonly mostWaiting: number;
  /** Whether what waits stands in the spool on disk as well, and why its last addition does not. */
  readonly onDisk: boolean;
  readonly diskFailure: Error | undefined;
  /** Why the last commit failed; undefined while all is well. */
  readonly failure: Error | undefined;
  /** Samples not taken since the start, by reason. */
  readonly refused: Refused;
}

/** What became of a batch. */
export interface Taken {
  readonly taken: number;
  readonly refused: Refused;
}

/** What a server needs to write beside others. */
export interface OtherWriters {
  readonly url: string;
  readonly fence: JournalFence;
  /** Hears what could not be read of the others just now, and is tried again. */
  readonly failed: (error: Error) => void;
}

export interface StoreOptions {
  readonly now?: () => number;
  /** The time by which may be deleted: the present, but for a clock that is not believed. */
  readonly acting?: () => number;
  /** Where heavy work is done; right here without it. */
  readonly executor?: Executor;
  /** Where what waits for the database is kept beside memory. */
  readonly spool?: Spool | undefined;
  /** Whether the database is this process's own just now; without it, it is. */
  readonly mayWrite?: () => boolean;
  /** Where other servers on the same database write as well: this one's fence, and where the database tells of them. */
  readonly others?: OtherWriters | undefined;
  /** Called when samples were moved within the database, before they are read from their new place alone. */
  readonly moved?: () => Promise<void>;
  /** Hears of every commit of samples. */
  readonly flushed?: Flushed;
  /** Of a store that follows another's: how often it looks for what it did not hear of. */
  readonly lookEveryMs?: number;
}

/** Where samples live: journal (durable) and head (memory) while they are new, chunks and rollups afterwards. */
export class Store {
  readonly series: SeriesRegistry;
  readonly #lives: SeriesLives;
  readonly #head: Head;
  readonly #journal: Journal;
  readonly #database: Database;
  readonly #now: () => number;
  readonly #acting: () => number;
  readonly #inline: Executor;
  readonly #executor: Executor;
  readonly #mayWrite: () => boolean;
  readonly #spool: Spool | undefined;
  readonly #compactor: Compactor;
  readonly #listeners = new Set<(batch: Batch) => void>();
  readonly #pace: SeriesPace;
  readonly #refused: Partial<Record<RefusalReason, number>> = {};
  #retention: Retention;
  #lastSampleAtMs: number | undefined;
  readonly #nameless: NamelessSamples;
  #follower: JournalFollower | undefined;
  /** Where others write as well. */
  readonly #newest: NewestTimes | undefined;

  private constructor(
    database: Database,
    parts: {
      series: SeriesRegistry;
      lives: SeriesLives;
      head: Head;
      retention: Retention;
      era: number;
      known: ReadonlyMap<number, ReadonlySet<number>>;
      now: () => number;
      acting: () => number;
      executor: Executor;
      mayWrite: () => boolean;
      spool: Spool | undefined;
      others?: Omit<AmongOthers, "caughtUp"> | undefined;
      /** Whether what this one commits is taken here at once, and not when it is followed like that of others. */
      takesOwn: boolean;
      moved: () => Promise<void>;
      flushed?: Flushed | undefined;
    },
  ) {
    const { takesOwn } = parts;
    this.#newest = parts.others && new NewestTimes((id) => this.#nothingAfterMs(id));
    this.#database = database;
    this.series = parts.series;
    this.#lives = parts.lives;
    this.#head = parts.head;
    this.#pace = new SeriesPace((ids) => this.#head.intervalsMs(ids));
    this.#nameless = new NamelessSamples(parts.series, parts.spool);
    this.#retention = parts.retention;
    this.#now = parts.now;
    this.#acting = parts.acting;
    this.#inline = new InlineExecutor(database, storeWork());
    this.#executor = parts.executor;
    this.#mayWrite = parts.mayWrite;
    this.#spool = parts.spool;
    this.#journal = new Journal(
      database,
      parts.era,
      parts.known,
      (batch, parts) => {
        // Writer by writer: what two happened to write at one time is not answered together again.
        if (takesOwn) {
          for (const part of parts) this.#take(part);
          for (const listener of this.#listeners) listener(batch);
        }
        if (this.#journal.waitingSamples === 0 && this.#nameless.count === 0) this.#spool?.clear();
      },
      {
        mayWrite: parts.mayWrite,
        spool: parts.spool,
        others: parts.others && { ...parts.others, caughtUp: async () => await this.#follower?.caughtUp() },
        ...(parts.flushed && { flushed: parts.flushed }),
      },
    );
    this.#compactor = new Compactor(
      {
        database,
        series: this.series,
        head: this.#head,
        lives: this.#lives,
        journal: this.#journal,
        executor: this.#executor,
      },
      parts.moved,
    );
  }

  /** Opens the store and reads the journal back into memory. */
  static async open(
    database: Database,
    {
      now = Date.now,
      acting = now,
      executor = new InlineExecutor(database, storeWork()),
      mayWrite = () => true,
      spool,
      others,
      moved = async () => {},
      flushed,
    }: StoreOptions = {},
  ): Promise<Store> {
    // From then on others begin segments of their own, which are followed; all before have an end, and are read here.
    const pass = await others?.fence.raise();
    const from = pass ? pass.era * segmentsPerEra : Number.POSITIVE_INFINITY;
    const segments = (await journalSegments(database)).filter(({ segment }) => segment < from);
    const isLarge = executor.threads > 1 && segments.reduce((sum, { samples }) => sum + samples, 0) > mostReplayedHere;
    let newest = Number.NEGATIVE_INFINITY;
    const open = async () => {
      const retention = await readRetention(database);
      const lives = new SeriesLives();
      await lives.read(database);
      const head = await emptyHead(database, lives);
      head.packLater(freemem() * shareForReplay);
      const take = (runs: Runs) => {
        newest = Math.max(newest, head.putRuns(runs));
      };
      return { retention, lives, head, take };
    };
    // Threads start and read the journal while all else is read here.
    const opening = open();
    const taking = opening.then(({ take }) => take);
    const [{ retention, lives, head }, known, series] = await Promise.all([
      opening,
      isLarge
        ? replayApart(executor, segments, taking)
        : taking.then((take) => replayJournal(database, segments, take)),
      opening.then(() => SeriesRegistry.open(database)),
    ]);
    head.packSoon(packedAfterStartMs);
    const store = new Store(database, {
      series,
      lives,
      head,
      retention,
      era: pass?.era ?? (await nextJournalEra(database)),
      known,
      now,
      acting,
      executor,
      mayWrite,
      spool,
      others: others && { fence: others.fence, pass, corrects: true },
      takesOwn: true,
      moved,
      flushed,
    });
    store.#noteNewest(newest);
    if (others) await store.#followOthers(others, from);
    await store.#compactor.refreshDue();
    await takeOverFirstSlice(database, store);
    await store.#replaySpool();
    return store;
  }

  /** Follows what others write from a segment on, as the one that takes it into chunks. */
  async #followOthers({ url, failed }: OtherWriters, from: number): Promise<void> {
    this.#follower = new JournalFollower(this.#database, Number.POSITIVE_INFINITY, {
      from,
      isOwn: (segment) => this.#journal.isOwn(segment),
      take: async (batch) => {
        const late = this.#newest?.lateOf(batch) ?? [];
        this.#take(batch);
        for (const listener of this.#listeners) listener(batch);
        if (late.length > 0) void this.#journal.write(batchOf(late)).catch(failed);
      },
      began: (slot, segment) => this.#journal.began(slot, segment),
      damaged: (damage) => inTransaction(this.#database, (connection) => setAside(connection, [damage])),
      ended: async () => false,
      looked: async () => {},
      failed,
    });
    await this.#follower.start(url);
  }

  /**
   * Opens the store of a server beside the one that leads: it knows what that one and others commit by following it,
   * and its own samples too. `failed` hears what could not be read just now and is tried again.
   */
  static async follow(
    database: Database,
    url: string,
    {
      now = Date.now,
      acting = now,
      executor = new InlineExecutor(database, storeWork()),
      moved = async () => {},
      flushed,
      lookEveryMs,
    }: StoreOptions,
    failed: (error: Error) => void,
  ): Promise<Store> {
    const lives = new SeriesLives();
    await lives.read(database);
    const store = new Store(database, {
      series: await SeriesRegistry.open(database),
      head: await emptyHead(database, lives),
      lives,
      retention: await readRetention(database),
      era: 0,
      known: new Map(),
      now,
      acting,
      executor,
      mayWrite: () => true,
      spool: undefined,
      others: { fence: new JournalFence(database), corrects: false, passed: (pass) => following.passed(pass) },
      takesOwn: false,
      moved,
      flushed,
    });
    const following = new Following(database, store.series, (id, expected) => store.expect(id, expected));
    const { completeFromMs } = store.#head;
    const inChunks = Number.isFinite(completeFromMs) ? slotOf(completeFromMs) - 1 : -1;
    const hooks = {
      take: async (batch: Batch) => {
        await following.know(batch);
        store.#take(batch);
        for (const listener of store.#listeners) listener(batch);
      },
      began: (slot: number, segment: number) => store.#journal.began(slot, segment),
      ended: async (slot: number, segments: readonly number[]) => {
        await moved();
        await lives.read(database);
        store.#journal.removed(slot, segments);
        store.#head.drop(slot);
        return true;
      },
      looked: async () => {
        await store.#compactor.refreshDue();
        store.#retention = await readRetention(database);
        await following.look();
      },
      failed,
    };
    store.#follower = new JournalFollower(database, inChunks, hooks, lookEveryMs);
    await store.#follower.start(url);
    return store;
  }

  /** Of a store that follows another server's: how far it was behind, the most since this was asked last, ms. */
  takeBehindMs(): number | undefined {
    return this.#follower?.takeBehindMs();
  }

  /**
   * Stores what a process before this one could not. Stopped in the middle, it begins again: a sample written twice is
   * one sample.
   */
  async #replaySpool(): Promise<void> {
    if (!this.#spool) return;
    const { rows } = await this.#database.query<{ id: string }>(
      "select value->>'id' as id from setting where name = 'database'",
    );
    this.#spool.database = rows[0]?.id ?? "";
    const records = this.#spool.read();
    for (const record of records) {
      if (record.kind === "batch") await this.write(record.batch);
      else {
        const ids = await this.series.resolve(record.named);
        await this.write({
          series: record.which.map((i) => ids[i] as number),
          timeMs: record.timeMs,
          value: record.value,
          length: record.which.length,
        });
      }
    }
    if (records.length > 0) this.#spool.clear();
  }

  get health(): StoreHealth {
    return {
      lastSampleAtMs: this.#lastSampleAtMs,
      waitingSamples: this.#journal.waitingSamples + this.#nameless.count,
      onDisk: this.#journal.isSpooled || this.#nameless.isSpooled,
      diskFailure: this.#spool?.failure,
      mostWaiting: this.#journal.mostWaiting,
      failure: this.#journal.failure,
      refused: { ...this.#refused },
    };
  }

  get memory(): { readonly headBytes: number; readonly headSamples: number } {
    return { headBytes: this.#head.sizeBytes, headSamples: this.#head.samples };
  }

  get retention(): Retention {
    return this.#retention;
  }

  async setRetention(retention: Retention): Promise<void> {
    await writeRetention(this.#database, retention);
    this.#retention = retention;
  }

  /**
   * Stores a batch; resolves when what was taken of it is durable. Of equal series and time the last written wins.
   * Samples older than
   * retention or too far ahead are refused and counted. Throws StoreBusyError.
   */
  async write(batch: Batch): Promise<Taken> {
    const nowMs = this.#now();
    const { batch: taken, refused } = admit(
      batch,
      keptFromMs("chunk", this.#retention, Math.min(nowMs, this.#acting())),
      nowMs,
    );
    await this.#journal.write(taken);
    for (const [reason, count] of Object.entries(refused))
      this.#refused[reason as RefusalReason] = (this.#refused[reason as RefusalReason] ?? 0) + count;
    return { taken: taken.length, refused };
  }

  /**
   * The ids of series that samples are of, once the database can give them: while it is away, this waits, and the
   * samples are kept on disk as well. Throws StoreBusyError.
   */
  async resolveSoon(samples: NamedSamples): Promise<Uint32Array> {
    if (this.health.waitingSamples + samples.which.length > this.#journal.mostWaiting)
      throw new StoreBusyError("Too much waits for the database already.");
    return await this.#nameless.resolve(samples);
  }

  /** Calls `listener` with every batch after its commit; the answer takes it off again. */
  onCommit(listener: (batch: Batch) => void): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }

  /**
   * The samples of series in `[fromMs, toMs)`, one column for each id in its order. Series that share their times share
   * the array.
   */
  async read(ids: readonly number[], fromMs: number, toMs: number, signal?: AbortSignal): Promise<readonly Column[]> {
    // The head is asked first: what compaction takes out of it meanwhile is in the chunks that are read after.
    const task = {
      ids: Int32Array.from(ids),
      fromMs,
      toMs,
      headFromMs: this.#head.completeFromMs,
      snapshot: this.#head.snapshot(ids, fromMs, toMs),
    };
    const samples = ((Math.min(toMs, this.#now()) - fromMs) / 5000) * ids.length;
    return (samples > mostSamplesHere ? this.#executor : this.#inline).run(columnsKind, task, signal);
  }

  /**
   * Reads and works out the lines of sentences, one list a sentence; `samples` says about how many that takes. Throws
   * CancelledError.
   */
  async reduce(
    sentences: readonly { readonly plan: SentencePlan; readonly ids: readonly number[] }[],
    samples: number,
    signal?: AbortSignal,
  ): Promise<readonly (readonly LineValues[])[]> {
    const { fiveMinutesUntilMs, hoursUntilMs, rawFromMs } = this.reach();
    const task = {
      headFromMs: this.#head.completeFromMs,
      fiveMinutesUntilMs,
      hoursUntilMs,
      rawFromMs,
      // Growth needs the readings before and after its window, however far they are.
      sentences: sentences.map(({ plan, ids }) => ({
        plan,
        ids: Int32Array.from(ids),
        snapshot: this.#head.snapshot(
          ids,
          plan.addsGrowth ? Number.NEGATIVE_INFINITY : plan.fromMs,
          plan.addsGrowth ? Number.POSITIVE_INFINITY : plan.toMs,
        ),
      })),
    };
    if (samples <= mostSamplesHere) return this.#inline.run(reduceKind, task, signal);
    const [only] = task.sentences;
    const summed =
      task.sentences.length === 1 && only && samples <= mostSummedHere && only.plan.fromMs >= task.headFromMs
        ? sumHead(only.plan, only.snapshot)
        : undefined;
    if (summed) return [summed];
    const needsChunks = sentences.some(({ plan }) => plan.fromMs < task.headFromMs);
    const shares = splitReduce(task, samples, needsChunks ? this.#executor.threads : 1);
    const results = await Promise.all(shares.map((share) => this.#executor.run(reduceKind, share, signal)));
    if (results.length === 1) return results[0] as (typeof results)[0];
    return [
      joinLines(
        results.map((lines) => lines[0] as readonly LineValues[]),
        (sentences[0] as (typeof sentences)[0]).plan.combine,
      ),
    ];
  }

  /** From when on samples and buckets are there. */
  reach(): StoreReach & { readonly takenUntilMs: number } {
    const actingMs = Math.min(this.#now(), this.#acting());
    const nowMs = this.#now();
    const open = Math.min(slotOf(actingMs), ...this.#head.slots, ...this.#journal.slots);
    const fiveMinutesUntilMs = Math.min(Math.floor(slotStart(open) / dayMs), this.#compactor.firstDueDay) * dayMs;
    const hoursUntilMs =
      Math.min(Math.floor(fiveMinutesUntilMs / hoursPeriodMs), this.#compactor.firstDueHours) * hoursPeriodMs;
    return {
      takenUntilMs: nowMs + mostAheadMs + 1,
      rawFromMs: keptFromMs("chunk", this.#retention, actingMs),
      fiveMinutesFromMs: keptFromMs("rollup_5m", this.#retention, actingMs),
      fiveMinutesUntilMs,
      hoursUntilMs,
    };
  }

  /**
   * The present, for readings: while the database is away nothing that is newer than the last commit can be told, and
   * what was known then still holds.
   */
  nowMs(): number {
    const now = this.#now();
    return this.#journal.failure === undefined ? now : Math.min(now, this.#lastSampleAtMs ?? now);
  }

  /** The series of a counter that may tell something of `[fromMs, toMs)`; those that had ended before are left out. */
  seriesAlive(counter: string, fromMs: number, toMs: number): readonly Series[] {
    return this.#lives.aliveOf(counter, this.series.ofCounter(counter), slotOf(fromMs), slotOf(toMs));
  }

  /** Whether nothing is known of a series at this time or after it; where others write as well. */
  isAhead(id: number, timeMs: number): boolean {
    return this.#newest?.isAhead(id, timeMs) === true;
  }

  #nothingAfterMs(id: number): number {
    return Math.max(this.#head.lastTimeMs(id) ?? Number.NEGATIVE_INFINITY, this.#head.completeFromMs - 1);
  }

  /** Time of the newest answer of those that a series was among, in memory: cheap, for many series. */
  lastTimeMs(id: number): number | undefined {
    return this.#head.newestAnswerMs(id);
  }

  /** Time of the newest sample of a series itself, as long as its slot is in memory. */
  lastSampleMs(id: number): number | undefined {
    return this.#head.lastTimeMs(id);
  }

  /**
   * How far apart the newest samples of each series came, in ms; where too few are in memory, as its source means to
   * send them; NaN where that is not known either.
   */
  intervalsMs(ids: readonly number[]): Float64Array {
    return this.#pace.intervalsMs(ids);
  }

  /**
   * Notes how far apart these series come usually, as they are about to come more often for a while: what follows that
   * is no gap.
   */
  keepIntervals(ids: readonly number[]): void {
    this.#pace.keepIntervals(ids);
  }

  /** How late the samples of each series may come, ms. */
  latesMs(ids: readonly number[]): Float64Array {
    return this.#pace.latesMs(ids);
  }

  /**
   * Notes what is to be expected of a series. All series of a source share the note, which changes with what is found
   * of the source.
   */
  expect(id: number, expected: Expected): void {
    this.#pace.expect(id, expected);
  }

  /** Samples stored per minute number (ms / 60,000) in `[fromMs, toMs)`; minutes with none are absent. */
  samplesPerMinute(fromMs: number, toMs: number): Promise<PerMinute> {
    return samplesPerMinute(this.#database, [fromMs, toMs], this.#head.perMinute);
  }

  /** The same by slots of two hours, for windows of months: their minutes would be half a million. */
  samplesPerSlot(fromMs: number, toMs: number): Promise<ReadonlyMap<number, number>> {
    return samplesPerSlot(this.#database, [fromMs, toMs], this.#head.perMinute);
  }

  /** Compacts every slot that has ended; the two newest stay in memory as well. */
  compact(nowMs = this.#acting()): Promise<void> {
    return this.#compactor.compact(nowMs);
  }

  /** Rolls up what is due. */
  rollUp(nowMs = this.#acting()): Promise<void> {
    return this.#compactor.rollUp(nowMs);
  }

  /** Drops what is older than retention. */
  expire(nowMs = this.#acting()): Promise<void> {
    return this.#compactor.expire(nowMs, this.#retention);
  }

  /**
   * Compacts, rolls up, drops. Each step can be repeated, or left at any moment. Nothing is done while the database may
   * be another's.
   */
  async maintain(nowMs = this.#acting()): Promise<void> {
    if (!this.#mayWrite()) return;
    await this.compact(nowMs);
    await this.rollUp(nowMs);
    await this.expire(nowMs);
  }

  /** Processor seconds that a commit takes here of late; undefined before there were some. */
  get commitSeconds(): number | undefined {
    return this.#journal.commitSeconds;
  }

  /** Does what a commit of so many samples takes of this server, and keeps nothing. */
  tryCommit(samples: number): Promise<void> {
    return this.#journal.tryCommit(samples * bytesInJournal);
  }

  /** Commits what waits without waiting for more. */
  flush(): Promise<void> {
    return this.#journal.flush();
  }

  /** Makes durable what waits, and ends; while the database is away, what waits is left in the spool. */
  async close(): Promise<void> {
    this.#nameless.close();
    await this.#follower?.close();
    await this.#journal.close();
    this.#head.stopPacking();
    await this.#executor.close();
  }

  #take(batch: Batch): void {
    this.#newest?.note(batch);
    this.#noteNewest(this.#head.put(batch));
  }

  #noteNewest(atMs: number): void {
    if (atMs > (this.#lastSampleAtMs ?? Number.NEGATIVE_INFINITY)) this.#lastSampleAtMs = atMs;
  }
}

/** A head that has nothing yet: what is in chunks it need not hold. */
async function emptyHead(database: Database, lives: SeriesLives): Promise<Head> {
  const { rows } = await database.query<{ slot: number | null }>("select max(slot) as slot from chunk");
  const newest = rows[0]?.slot ?? null;
  const seen = (ids: Uint32Array, slot: number) => lives.note(ids, slot);
  return new Head(newest === null ? Number.NEGATIVE_INFINITY : slotStart(newest + 1), undefined, seen);
}
