import { JournalSegmentReader } from "../../core/chunk/journal-block.ts";
import { type Batch, batchOfRuns } from "../../core/series/batch.ts";
import { type Listening, listenTo } from "../db/listen.ts";
import type { Database } from "../db/pool.ts";
import { journalChannel } from "./journal.ts";
import { runsOf } from "./journal-replay.ts";
import { damageIn } from "./tasks/chunk-rows.ts";

const rowsAtOnce = 200;
const lookEveryMs = 5000;

interface Followed {
  readonly slot: number;
  readonly reader: JournalSegmentReader;
  /** The number of the row that comes next. */
  next: number;
  /** A row could not be read: what comes after leans on it. */
  isBroken: boolean;
}

interface Hooks {
  /** Takes what another server has committed, once. */
  readonly take: (batch: Batch) => Promise<void>;
  /** A segment was begun. */
  readonly began: (slot: number, segment: number) => void;
  /**
   * What these segments held of a slot is in chunks by now, with more than was taken here, perhaps. Those of the slot that
   * are left are handed over anew.
   */
  readonly ended: (slot: number, segments: readonly number[]) => Promise<void>;
  /** Called every few seconds, after all that is new was taken. */
  readonly looked: () => Promise<void>;
  readonly failed: (error: Error) => void;
}

/**
 * Follows the journal that another server writes: hears of each commit, reads what is new, and looks for what it may have
 * missed every few seconds. Rows of one segment come in their order, and each is taken once.
 */
export class JournalFollower {
  readonly #database: Database;
  readonly #hooks: Hooks;
  readonly #everyMs: number;
  readonly #segments = new Map<number, Followed>();
  #work: Promise<void> = Promise.resolve();
  #inChunks: number;
  #listening: Listening | undefined;
  #timer: NodeJS.Timeout | undefined;
  #behindMs: number | undefined;

  /** `inChunks` is the newest slot that is in chunks. */
  constructor(database: Database, inChunks: number, hooks: Hooks, everyMs = lookEveryMs) {
    this.#database = database;
    this.#inChunks = inChunks;
    this.#everyMs = everyMs;
    this.#hooks = hooks;
  }

  /** How long after its commit what came was known here, the most since this was asked last, ms; undefined where nothing came. */
  takeBehindMs(): number | undefined {
    const behindMs = this.#behindMs;
    this.#behindMs = undefined;
    return behindMs;
  }

  /** Reads all that is there and goes on from it. */
  async start(url: string): Promise<void> {
    this.#listening = await listenTo(url, journalChannel, (told) => this.#heard(told));
    await this.#catchUp();
    this.#timer = setInterval(() => this.#next(() => this.#catchUp()), this.#everyMs);
    this.#timer.unref();
  }

  async close(): Promise<void> {
    clearInterval(this.#timer);
    await this.#listening?.close();
    await this.#work;
  }

  /** One after another: rows of a segment lean on those before them. */
  #next(work: () => Promise<void>): void {
    this.#work = this.#work.then(work).catch((error: Error) => this.#hooks.failed(error));
  }

  /** What is told is the database's time, ms, and the segments that were written to. */
  #heard(told: string): void {
    const [atMs, ...segments] = told.split(" ").map(Number);
    this.#next(async () => {
      if (segments.length === 0) return this.#catchUp();
      for (const segment of segments) await this.#follow(segment);
      const behindMs = Date.now() + (this.#listening?.aheadMs ?? 0) - (atMs as number);
      this.#behindMs = Math.max(behindMs, this.#behindMs ?? 0);
    });
  }

  async #catchUp(): Promise<void> {
    const { rows } = await this.#database.query<{ segment: number; slot: number; last: number }>(
      "select segment, min(slot) as slot, max(seq) as last from journal group by segment order by segment",
    );
    const there = new Set(rows.map(({ segment }) => segment));
    const gone = [...this.#segments].filter(([segment]) => !there.has(segment));
    const ended = new Set(gone.map(([, { slot }]) => slot));
    // What was written and taken into chunks without its being heard of has left no segment.
    for (const slot of await this.#newInChunks()) ended.add(slot);
    for (const slot of ended) await this.#end(slot, there);
    for (const { segment, last } of rows)
      if ((this.#segments.get(segment)?.next ?? 0) <= last) await this.#follow(segment);
    await this.#hooks.looked();
  }

  /** The slots that have come into chunks, beyond the newest that was there before. */
  async #newInChunks(): Promise<readonly number[]> {
    const { rows } = await this.#database.query<{ slot: number }>(
      "select slot from gathered where slot > $1::int order by slot",
      [this.#inChunks],
    );
    this.#inChunks = rows.at(-1)?.slot ?? this.#inChunks;
    return rows.map(({ slot }) => slot);
  }

  async #end(slot: number, there: ReadonlySet<number>): Promise<void> {
    const all = [...this.#segments].flatMap(([segment, followed]) => (followed.slot === slot ? [segment] : []));
    await this.#hooks.ended(
      slot,
      all.filter((segment) => !there.has(segment)),
    );
    for (const segment of all) this.#segments.delete(segment);
  }

  async #follow(segment: number): Promise<void> {
    for (;;) {
      const { rows } = await this.#database.query<{ seq: number; slot: number; samples: number; payload: Buffer }>({
        name: "follow-journal",
        text: `select seq, slot, samples, payload
          from journal
          where segment = $1::bigint and seq >= $2::int
          order by seq
          limit $3::int`,
        values: [segment, this.#segments.get(segment)?.next ?? 0, rowsAtOnce],
      });
      for (const row of rows) await this.#take(segment, row);
      if (rows.length < rowsAtOnce) return;
    }
  }

  async #take(
    segment: number,
    { seq, slot, samples, payload }: { seq: number; slot: number; samples: number; payload: Buffer },
  ): Promise<void> {
    let followed = this.#segments.get(segment);
    if (!followed) {
      followed = { slot, reader: new JournalSegmentReader(), next: 0, isBroken: false };
      this.#segments.set(segment, followed);
      this.#hooks.began(slot, segment);
    }
    const { reader } = followed;
    let batch: Batch | undefined;
    if (!followed.isBroken)
      followed.isBroken = damageIn(() => (batch = batchOfRuns(runsOf(reader, payload, samples)))) !== undefined;
    // It is counted as read only once it is taken; what cannot be read the server that leads sets aside at its next start.
    try {
      if (batch) await this.#hooks.take(batch);
    } catch (error) {
      this.#segments.delete(segment); // its reader is further than what was taken: the segment is read anew
      throw error;
    }
    followed.next = seq + 1;
  }
}
