import { randomUUID } from "node:crypto";
import { hostname } from "node:os";
import { setTimeout as delay } from "node:timers/promises";
import type pg from "pg";
import { openConnection } from "./pool.ts";

/** One number for all servers of one database; PostgreSQL keeps advisory locks by database. */
export const lockNumber = 7373010;
const againAfterMs = 1000;
/** A holder that vanishes with its host is noticed so soon; where others wait to take its place, sooner. */
const keptAlive = {
  alone: "set tcp_keepalives_idle = 10; set tcp_keepalives_interval = 5; set tcp_keepalives_count = 3",
  ofSeveral: "set tcp_keepalives_idle = 3; set tcp_keepalives_interval = 2; set tcp_keepalives_count = 2",
} as const;
const deathNoticedMs = 10_000;

/** Another server works on the database. */
export class TakenError extends Error {
  override name = "TakenError";
  /** Whether the process that is noted as the holder ran here and runs no more. */
  readonly isDead: boolean;

  constructor(other: Serving | undefined) {
    super(wordsOf(other));
    this.isDead = other !== undefined && other.host === hostname() && !isAlive(other.pid);
  }
}

/** Who works on the database, as noted. */
interface Serving {
  readonly instance: string;
  readonly host: string;
  readonly pid: number;
  readonly since: Date;
}

export interface Claim {
  /** Names this process among those that serve the database. */
  readonly instance: string;
  /** Whether the lock is held just now. While it is not, nothing may be written: another may have begun. */
  readonly held: boolean;
  /** To be called when the tables are there: notes who serves. */
  note(): Promise<void>;
  release(): Promise<void>;
}

/**
 * Claims the database for this process by an advisory lock on a connection of its own, which the database gives back
 * the moment the process or the connection
 * dies. Throws TakenError, naming the holder, where another has it. A connection that breaks is opened anew; `lost` is
 * called where another has served meanwhile.
 */
export async function claimDatabase(
  url: string,
  lost: (error: TakenError) => void,
  isOneOfSeveral = false,
): Promise<Claim> {
  const instance = randomUUID();
  let connection: pg.Client | undefined;
  let held = false;
  let noted = false;
  let released = false;

  const open = async (): Promise<boolean> => {
    let opened: pg.Client | undefined;
    opened = await openConnection(url, () => {
      if (opened === undefined || connection !== opened) return;
      connection = undefined;
      held = false;
      if (!released) void again();
    });
    try {
      await opened.query(`${keptAlive[isOneOfSeveral ? "ofSeveral" : "alone"]}; set idle_session_timeout = 0`);
      const { rows } = await opened.query<{ got: boolean }>("select pg_try_advisory_lock($1::bigint) as got", [
        lockNumber,
      ]);
      const other = await servingOf(opened);
      if (rows[0]?.got && (!noted || other?.instance === instance)) {
        connection = opened;
        held = true;
        return true;
      }
      if (!noted || other?.instance !== instance) throw new TakenError(other);
      await opened.end(); // our own lost connection still holds it: the database has not noticed yet
      return false;
    } catch (error) {
      await opened.end().catch(() => {});
      throw error;
    }
  };
  const again = async (): Promise<void> => {
    while (!released) {
      try {
        if (await open()) return;
      } catch (error) {
        if (error instanceof TakenError) return lost(error);
      }
      await delay(againAfterMs, undefined, { ref: false });
    }
  };

  const began = performance.now();
  while (true) {
    try {
      if (await open()) break;
    } catch (error) {
      // A process that was killed is gone, and the database is about to notice.
      if (!(error instanceof TakenError) || !error.isDead || performance.now() - began > deathNoticedMs) throw error;
      await delay(200);
    }
  }
  return {
    instance,
    get held() {
      return held;
    },
    async note() {
      await connection?.query(
        `insert into serving (one, instance, host, pid) values (true, $1::uuid, $2::text, $3::int)
         on conflict (one) do update
         set instance = excluded.instance, host = excluded.host, pid = excluded.pid, since = now(), fence = null`,
        [instance, hostname(), process.pid],
      );
      noted = true;
    },
    async release() {
      released = true;
      held = false;
      const last = connection;
      connection = undefined;
      await last?.end().catch(() => {});
    },
  };
}

function isAlive(pid: number): boolean {
  try {
    return process.kill(pid, 0);
  } catch (error) {
    return (error as { code?: string }).code === "EPERM";
  }
}

async function servingOf(connection: pg.Client): Promise<Serving | undefined> {
  const { rows } = await connection.query<{ there: string | null }>("select to_regclass('serving') as there");
  if (!rows[0]?.there) return undefined;
  return (await connection.query<Serving>("select instance, host, pid, since from serving")).rows[0];
}

function wordsOf(other: Serving | undefined): string {
  const who = other
    ? `: process ${other.pid} on ${other.host}, since ${other.since.toISOString().slice(0, 16).replace("T", " ")} UTC`
    : "";
  return `Another Nubrel works on this database${who}. One server at a time may: stop that one, or give this one a database of its own (NUBREL_DATABASE_URL). Where several are meant to, say NUBREL_SEVERAL_SERVERS=yes on each.`;
}
