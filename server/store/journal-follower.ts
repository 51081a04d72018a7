import { JournalSegmentReader } from "../../core/chunk/journal-block.ts";
import { type Batch, batchOfRuns } from "../../core/series/batch.ts";
import { type Listening, listenTo } from "../db/listen.ts";
import type { Database } from "../db/pool.ts";
import { journalChannel } from "./journal-rows.ts";
import type { Damage } from "./damage.ts";
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
  /** A row cannot be read, by whoever is to set it aside. */
  readonly damaged?: (damage: Damage) => Promise<void>;
  /** A segment was begun. */
  readonly began: (slot: number, segment: number) => void;
  /**
   * What these segments held of a slot is in chunks by now, with more than was taken here, perhaps. True where those of
   * the slot that are left are to be handed over anew.
   */
  readonly ended: (slot: number, segments: readonly number[]) => Promise<boolean>;
  /** The first segment that is followed, and which from there on are not. */
  readonly from?: number;
  readonly isOwn?: (segment: number) => boolean;
  /** Called every few seconds, after all that is new was taken. */
  readonly looked: () => Promise<void>;
  readonly failed: (error: Error) => void;
}

/**
 * Follows the segments of the journal that other servers write: hears of each commit, reads what is new, and looks for
 * what it may have missed every few seconds. Rows of one segment come in their order, and each is taken once.
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

  /** `inChunks` is the newest slot that is in chunks; infinity where this server itself takes slots into chunks. */
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

  /** Resolves when all that was committed before is taken. */
  async caughtUp(): Promise<void> {
    await new Promise<void>((resolve, reject) => {
      this.#next(() =>
        this.#catchUp().then(resolve, (error: unknown) => {
          reject(error);
          throw error;
        }),
      );
    });
  }

  #isFollowed(segment: number): boolean {
    return segment >= (this.#hooks.from ?? 0) && !this.#hooks.isOwn?.(segment);
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
      const followed = segments.filter((segment) => this.#isFollowed(segment));
      if (followed.length === 0) return;
      for (const segment of followed) await this.#follow(segment);
      const behindMs = Date.now() + (this.#listening?.aheadMs ?? 0) - (atMs as number);
      this.#behindMs = Math.max(behindMs, this.#behindMs ?? 0);
    });
  }

  async #catchUp(): Promise<void> {
    const { rows } = await this.#database.query<{ segment: number; slot: number; last: number }>(
      `select segment, min(slot) as slot, max(seq) as last
       from journal
       where segment >= $1::bigint
       group by segment
       order by segment`,
      [this.#hooks.from ?? 0],
    );
    const there = new Set(rows.map(({ segment }) => segment));
    const gone = [...this.#segments].filter(([segment]) => !there.has(segment));
    const ended = new Set(gone.map(([, { slot }]) => slot));
    // What was written and taken into chunks without its being heard of has left no segment.
    for (const slot of await this.#newInChunks()) ended.add(slot);
    for (const slot of ended) await this.#end(slot, there);
    for (const { segment, last } of rows)
      if (this.#isFollowed(segment) && (this.#segments.get(segment)?.next ?? 0) <= last) await this.#follow(segment);
    await this.#hooks.looked();
  }

  /** The slots that have come into chunks, beyond the newest that was there before. */
  async #newInChunks(): Promise<readonly number[]> {
    if (this.#inChunks === Number.POSITIVE_INFINITY) return [];
    const { rows } = await this.#database.query<{ slot: number }>(
      "select slot from gathered where slot > $1::int order by slot",
      [this.#inChunks],
    );
    this.#inChunks = rows.at(-1)?.slot ?? this.#inChunks;
    return rows.map(({ slot }) => slot);
  }

  async #end(slot: number, there: ReadonlySet<number>): Promise<void> {
    const all = [...this.#segments].flatMap(([segment, followed]) => (followed.slot === slot ? [segment] : []));
    const gone = all.filter((segment) => !there.has(segment));
    const isAnew = await this.#hooks.ended(slot, gone);
    for (const segment of isAnew ? all : gone) this.#segments.delete(segment);
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
    const reason = followed.isBroken
      ? "it leans on a row before it that cannot be read"
      : damageIn(() => (batch = batchOfRuns(runsOf(reader, payload, samples))));
    followed.isBroken = reason !== undefined;
    // It is counted as read only once it is taken, or set aside by the server that leads.
    try {
      if (batch) await this.#hooks.take(batch);
      if (reason !== undefined) await this.#hooks.damaged?.({ origin: "journal", segment, seq, slot, reason });
    } catch (error) {
      this.#segments.delete(segment); // its reader is further than what was taken: the segment is read anew
      throw error;
    }
    followed.next = seq + 1;
  }
}
