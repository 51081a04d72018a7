import type { Logger } from "pino";
import type { Claim, TakenError } from "./db/claim.ts";
import type { Database } from "./db/pool.ts";
import type { DemoInfo } from "./counters/demo-info.ts";
import type { MachineFiles } from "./gather/this-machine/machine-files.ts";
import type { LiveHub } from "./live/live-hub.ts";
import type { LogBook } from "./log-book.ts";
import type { MachineNames } from "./machines/machine-names.ts";
import type { Parent } from "./parent.ts";
import type { Tokens } from "./people/tokens.ts";
import type { SendingParts } from "./planning/month/month-sending.ts";
import type { Recordings } from "./recordings/recordings.ts";
import type { Sources } from "./sources/sources.ts";
import type { Store } from "./store/store.ts";
import type { Transport } from "./transport/transport.ts";
import type { Executor } from "./work/executor.ts";

export interface RunningServer {
  readonly address: string;
  /** By which other machines reach it; empty where it listens on this one alone. */
  readonly reachedAt: readonly string[];
  /** What of its machine it does not see, as sentences. */
  readonly unseen: readonly string[];
  /** The code with which the owner is made; undefined where there is one. */
  readonly setupCode: string | undefined;
  readonly store: Store;
  readonly database: Database;
  readonly sources: Sources;
  readonly names: MachineNames;
  readonly tokens: Tokens;
  readonly transport: Transport;
  readonly live: LiveHub;
  readonly pool: Executor;
  readonly recordings: Recordings;
  readonly planning: SendingParts;
  /** Has rules checked at once that were made beside the routes. */
  readonly checkRules: () => void;
  /** The newest sample that was there when it was started. */
  readonly lastSampleBeforeMs: number | undefined;
  /** Stops gathering, makes durable what waits, closes everything. */
  close(): Promise<void>;
}

export interface TakenOver {
  readonly claim: Claim;
  readonly gathered: readonly string[];
}

export interface ServerOptions {
  readonly log: Logger;
  /** What the log has said, for a page. */
  readonly book?: LogBook;
  /** In place of the machine the server runs on. */
  readonly files?: MachineFiles;
  /** Of the demo world: who may sign in, told to everybody, and how far its past is written. */
  readonly demo?: DemoInfo;
  /** The start command; undefined where it was started otherwise. */
  readonly parent?: Parent;
  /** Called where another server has begun to work on the database while this one had lost it: this one must end. */
  readonly lost?: (error: TakenError) => void;
  /** What this process took over from standing beside: the lead, and what it had gathered and nobody has stored. */
  readonly taken?: TakenOver;
  /** Runs when the store is open and before gathering starts. */
  readonly before?: (store: Store, database: Database) => Promise<void>;
}
