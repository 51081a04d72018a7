import { type Nothing, route } from "./route.ts";

/** Answer of GET /api/health. */
export interface Health {
  readonly status: "ok" | "degraded";
  readonly version: string;
  /** "full": it answers, but its disk takes nothing more. */
  readonly database: "ok" | "away" | "full";
  /** Since when it is not "ok", ms. */
  readonly databaseSince: number | null;
  /** How often it was tried to start its PostgreSQL, in vain. */
  readonly databaseTries: number;
  /** Rows of the store that could not be read and were set aside; null while the database is away. */
  readonly setAside: number | null;
  /** False where its clock is more than an hour beyond what it knows to have been: then nothing is deleted by it. */
  readonly clockBelieved: boolean;
  /** ms, null before the first sample. */
  readonly lastSampleAt: number | null;
  readonly samplesPerSecond: number;
  /** Samples that wait for the database in memory, and how many may; they are not acknowledged. */
  readonly waitingSamples: number;
  readonly mostWaiting: number;
  /** Whether they stand on disk as well, and so outlive the server. */
  readonly waitingOnDisk: boolean;
  /** Samples that were not taken since the start, by reason. */
  readonly refused: Readonly<Record<string, number>>;
  /**
   * How late rules were checked at the most within the last minute, how many lines they watch, and how many rules and
   * recipients fail.
   */
  readonly alerting: {
    readonly lagMs: number;
    readonly lines: number;
    readonly failingRules: number;
    readonly failingRecipients: number;
  };
}

/** A line of the server's log; lines that say the same are one. */
export interface LogEntryView {
  readonly level: "warning" | "error";
  readonly words: string;
  /** The failure behind it; empty where there is none. */
  readonly why: string;
  readonly firstMs: number;
  readonly lastMs: number;
  readonly times: number;
}

/** A row of the store that could not be read and was set aside. */
export interface SetAsideView {
  readonly origin: "journal" | "chunk" | "chunk_times" | "rollup_5m" | "rollup_1h";
  /** Where it stood: segment and number, or series and slot (of two hours) or period. */
  readonly place: Readonly<Record<string, number>>;
  readonly reason: string;
  readonly bytes: number;
  readonly atMs: number;
  /** Of which counter and machine it told; null where that is not known. */
  readonly counter: string | null;
  readonly machine: string | null;
}

/** Backups that are taken by the clock. */
export interface BackupsView {
  readonly folder: string;
  /** When the newest was taken, ms, and its size; null before the first. */
  readonly lastAtMs: number | null;
  readonly bytes: number | null;
  readonly kept: number;
  readonly nextAtMs: number;
  /** Why the last try failed; null where it did not. */
  readonly problem: string | null;
  /** Whether each is restored once, to see that it can be; null where that is not known yet. */
  readonly checked: boolean | null;
}

/** One of several servers on one database. */
export interface ServerView {
  readonly host: string;
  readonly pid: number;
  readonly address: string;
  /** Whether it decides and checks; the others answer readings, store what is sent to them and what they ask, and hand all else on to it. */
  readonly leads: boolean;
  readonly sinceMs: number;
  /** How long after it was stored what is newest was known there, the most of the last seconds, ms; null where nothing came, and where it leads. */
  readonly behindMs: number | null;
  /** How many sources it asks; null where it leads, and asks all that no other does. */
  readonly asks: number | null;
  /** Samples a second that it has stored itself in the last seconds; null where it leads. */
  readonly storesPerSecond: number | null;
}

/** A standby of the database from which readings are taken. */
export interface StandbyView {
  readonly host: string;
  /** Whether it has what readings need just now; the primary is read where it does not. */
  readonly isUsed: boolean;
  /** How far it is behind the primary; null where that is not known. */
  readonly behindMs: number | null;
  readonly behindBytes: number | null;
  /** Why it cannot be read; null where it can. */
  readonly failure: string | null;
}

/** How PostgreSQL keeps the database in order. */
export interface UpkeepView {
  /** The largest; the parts of one that is divided by time are one. */
  readonly tables: readonly {
    readonly name: string;
    readonly parts: number;
    readonly sizeBytes: number;
    /** As PostgreSQL estimates them. */
    readonly rows: number;
    /** Old versions of rows that are not cleaned away yet. */
    readonly deadRows: number;
    readonly cleanedAtMs: number | null;
  }[];
  /** How old its oldest transaction is, as a share of what makes PostgreSQL clean in spite of all else. */
  readonly ageShare: number;
  readonly isAutovacuumOn: boolean;
  /** What its write-ahead log is let grow to, and how much of that is kept for a standby. */
  readonly mostWalBytes: number;
  readonly keptWalBytes: number;
  /** How much is kept for a standby that takes none; null where that has no end. */
  readonly mostKeptWalBytes: number | null;
  /** Slots of standbys for which no more was kept. */
  readonly lostSlots: readonly string[];
  /** What went through temporary files since its statistics were begun. */
  readonly tempBytes: number;
  readonly tempFiles: number;
  /** What one query may put into them; null where that has no end. */
  readonly mostTempBytes: number | null;
}

/** How the server itself is. */
export interface ConditionView {
  /** Null while the database is away. */
  readonly upkeep: UpkeepView | null;
  /** All servers of the database, the one that leads first; empty where this is the only one. */
  readonly servers: readonly ServerView[];
  /** Null where readings are taken from the database itself. */
  readonly standby: StandbyView | null;
  /** Null while the database is away. */
  readonly setAside: { readonly count: number; readonly rows: readonly SetAsideView[] } | null;
  /**
   * What the start command last had to do to keep PostgreSQL running, and what that said where it does not come up;
   * null where nothing.
   */
  readonly database: { readonly tries: number; readonly said: string | null } | null;
  /**
   * How often the clock was set (or the machine slept), the newest first, by so many ms; and by which time is acted
   * where the clock is not believed.
   */
  readonly clock: {
    readonly jumps: readonly { readonly atMs: number; readonly byMs: number }[];
    readonly actingMs: number | null;
  };
  /** Null where none are taken by the clock. */
  readonly backups: BackupsView | null;
  /** What of the machine that it runs on it does not see, and what would show it: sentences. */
  readonly unseen: readonly string[];
  /** What the log has said since the start, the newest first. */
  readonly log: readonly LogEntryView[];
}

export const getHealth = route("GET", "/health")<Nothing, Health>();
export const getCondition = route("GET", "/condition")<Nothing, ConditionView>();
/** A person says that the server's clock is right. */
export const confirmClock = route("PUT", "/condition/clock")<Nothing, ConditionView>();
