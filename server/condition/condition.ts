import type { ConditionView, Health } from "../../core/api/condition.ts";
import type { CostsView } from "../../core/api/costs.ts";
import type { ServerClock } from "../clock/server-clock.ts";
import { isReachable } from "../db/reachable.ts";
import { readCosts } from "../costs/costs.ts";
import { ProcessorShare } from "../costs/processor-share.ts";
import { isFull } from "../db/database-away.ts";
import type { Database } from "../db/pool.ts";
import type { LogBook } from "../log-book.ts";
import type { Keeping } from "../store/keeping.ts";
import { countSetAside, listSetAside } from "../store/quarantine-rows.ts";
import { listServers } from "./servers.ts";
import { readUpkeep } from "./upkeep-rows.ts";
import { version } from "../version.ts";

export interface ConditionParts {
  readonly database: Database;
  readonly keeping: Keeping;
  readonly clock: ServerClock;
  readonly book: LogBook;
  readonly dataFolder: string | undefined;
  /** By which other servers of the database are known; undefined where there is none. */
  readonly pass: string | undefined;
  /** What of its machine it does not see. */
  readonly unseen: readonly string[];
  /** What the start command had to do to keep PostgreSQL running. */
  readonly tries: () => ConditionView["database"];
  readonly backups: () => ConditionView["backups"];
  /** How alerting does. */
  readonly alerting: {
    stats(nowMs: number): { readonly lagMs: number; readonly lines: number; readonly failing: number };
    notReached(): Promise<readonly unknown[]>;
  };
}

/** How the server itself is: whether it works, what it costs, what its log says. */
export class Condition {
  readonly #parts: ConditionParts;
  readonly #processor = new ProcessorShare();
  /** Since when the database is not as it should be. */
  #databaseSince: number | null = null;

  constructor(parts: ConditionParts) {
    this.#parts = parts;
  }

  readonly health = async (): Promise<Health> => {
    const { database, keeping, clock, tries, alerting } = this.#parts;
    const { lastSampleAtMs, waitingSamples, mostWaiting, onDisk, failure, refused } = keeping.store.health;
    const reachable = await isReachable(database);
    const state = databaseState(reachable, failure);
    const { lagMs, lines, failing } = alerting.stats(Date.now());
    const failingRecipients = await alerting.notReached().catch(() => []);
    this.#databaseSince = state === "ok" ? null : (this.#databaseSince ?? Date.now());
    const started = tries();
    return {
      status: state === "ok" ? "ok" : "degraded",
      version,
      database: state,
      databaseSince: this.#databaseSince,
      databaseTries: state === "away" && started?.said ? started.tries : 0,
      setAside: await countSetAside(database).catch(() => null),
      clockBelieved: clock.isBelieved,
      lastSampleAt: lastSampleAtMs ?? null,
      samplesPerSecond: keeping.samplesPerSecond(Date.now()),
      waitingSamples,
      mostWaiting,
      waitingOnDisk: onDisk,
      refused,
      alerting: { lagMs, lines, failingRules: failing, failingRecipients: failingRecipients.length },
    };
  };

  readonly backups = (): ConditionView["backups"] => this.#parts.backups();

  readonly costs = (): Promise<CostsView> => {
    const { database, keeping, dataFolder } = this.#parts;
    return readCosts(database, keeping.store, keeping.samplesPerSecond(Date.now()), this.#processor, dataFolder);
  };

  readonly view = async (): Promise<ConditionView> => {
    const { database, clock, book, tries, backups, unseen, keeping, pass } = this.#parts;
    const servers = pass === undefined ? [] : await listServers(database).catch(() => []);
    const standby = keeping.standby?.view ?? null;
    const setAside = await listSetAside(database).catch(() => null);
    const upkeep = await readUpkeep(database).catch(() => null);
    return {
      upkeep,
      clock: clock.view(),
      log: book.entries(),
      database: tries(),
      backups: backups(),
      unseen,
      setAside,
      servers,
      standby,
    };
  };

  close(): void {
    this.#processor.stop();
  }
}

/** Reachable and full is worth telling apart from away: the remedy is another. */
function databaseState(reachable: boolean, failure: Error | undefined): Health["database"] {
  if (failure && isFull(failure)) return "full";
  return reachable && !failure ? "ok" : "away";
}
