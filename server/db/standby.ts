import type { StandbyView } from "../../core/api/condition.ts";
import { type Database, openDatabase } from "./pool.ts";

const lookEveryMs = 1000;
/** So far back it is known by which time the primary had written how much: a standby that is further behind is told as that. */
const mostNoted = 3600;

/** A standby of the database (PostgreSQL's own streaming replication) from which readings are taken while it has what they need. */
export class Standby {
  readonly url: string;
  readonly #primary: Database;
  readonly #database: Database;
  /** Up to where the primary had written at which time, the oldest first. */
  readonly #noted: { readonly atMs: number; readonly bytes: number }[] = [];
  /** What readings need stands before this place of the log. */
  #neededBytes = Number.POSITIVE_INFINITY;
  #replayedBytes = 0;
  #failure: Error | undefined;
  #timer: NodeJS.Timeout | undefined;
  #closed = false;

  constructor(primary: Database, url: string) {
    this.#primary = primary;
    this.url = url;
    this.#database = openDatabase(url);
  }

  /** Looks every second how far it is; what stands in the database now is needed of it. */
  start(): void {
    void this.moved()
      .catch(() => {})
      .then(() => this.#look());
  }

  /** Whether it has all that readings need of it. */
  get isUsable(): boolean {
    return this.#failure === undefined && this.#replayedBytes >= this.#neededBytes;
  }

  /** Samples were moved within the database, or out of memory into it: what readings need is there from now on. */
  async moved(): Promise<void> {
    this.#neededBytes = Number.POSITIVE_INFINITY; // until that is known, it may lack something
    this.#neededBytes = await this.#writtenBytes();
  }

  get view(): StandbyView {
    const newest = this.#noted.at(-1);
    const reached = this.#noted.findLast(({ bytes }) => bytes <= this.#replayedBytes);
    const isLevel = newest !== undefined && this.#replayedBytes >= newest.bytes;
    return {
      host: new URL(this.url).host,
      isUsed: this.isUsable,
      behindMs: isLevel ? 0 : newest && reached ? newest.atMs - reached.atMs : null,
      behindBytes: newest ? Math.max(0, newest.bytes - this.#replayedBytes) : null,
      failure: this.#failure?.message ?? null,
    };
  }

  async close(): Promise<void> {
    this.#closed = true;
    clearTimeout(this.#timer);
    await this.#database.end();
  }

  async #look(): Promise<void> {
    try {
      if (this.#neededBytes === Number.POSITIVE_INFINITY) await this.moved();
      this.#noted.push({ atMs: Date.now(), bytes: await this.#writtenBytes() });
      if (this.#noted.length > mostNoted) this.#noted.shift();
      const { rows } = await this.#database.query<{ isStandby: boolean; bytes: number | null }>(
        `select pg_is_in_recovery() as "isStandby", pg_wal_lsn_diff(pg_last_wal_replay_lsn(), '0/0')::float8 as bytes`,
      );
      if (!rows[0]?.isStandby) throw new Error("it is no standby: it takes writes of its own");
      this.#replayedBytes = rows[0].bytes ?? 0;
      this.#failure = undefined;
    } catch (error) {
      this.#failure = error as Error;
    }
    if (!this.#closed) this.#timer = setTimeout(() => void this.#look(), lookEveryMs).unref();
  }

  async #writtenBytes(): Promise<number> {
    const { rows } = await this.#primary.query<{ bytes: number }>(
      "select pg_wal_lsn_diff(pg_current_wal_lsn(), '0/0')::float8 as bytes",
    );
    return rows[0]?.bytes ?? Number.POSITIVE_INFINITY;
  }
}
