import { randomBytes, randomUUID } from "node:crypto";
import type { Logger } from "pino";
import { type Claim, TakenError } from "../db/claim.ts";
import { isFree, type Leader, leaderOf, leaveBeside, noteBeside, noteLeader } from "../db/serving-rows.ts";
import type { Database } from "../db/pool.ts";
import type { Transport } from "../transport/transport.ts";

const lookEveryMs = 1000;
const noteEveryMs = 5000;

/** By which a server that leads knows that another hands on what somebody asks: new at each start. */
export const newPass = (): string => randomBytes(32).toString("base64url");

/** Says to the servers that stand beside this one how it is reached; where it is one alone, nothing. */
export async function tellOthers(
  { database, transport, pass }: { database: Database; transport: Transport; pass: string | undefined },
  said: string | undefined,
): Promise<void> {
  if (pass === undefined) return;
  const { pin } = transport.view(Date.now());
  await noteLeader(database, { address: said ?? transport.reachedAt[0] ?? transport.ownAddress, pin, pass });
}

interface BesideParts {
  readonly database: Database;
  /** Claims the database; throws TakenError where another has it. */
  readonly claim: () => Promise<Claim>;
  readonly log: Logger;
  readonly takeBehindMs: () => number | undefined;
  /** How many samples this server has stored itself since that was asked last. */
  readonly takeStored: () => number;
  /** Where it stands on a network; undefined where it asks no sources. */
  readonly place: string | undefined;
}

/**
 * This server's place beside the one that leads: it says that it stands there, and takes the lead where that is free and
 * it comes first.
 */
export class Beside {
  readonly #parts: BesideParts;
  readonly instance = randomUUID();
  #address = "";
  #leader: Leader | undefined;
  #leaderMs = Number.NEGATIVE_INFINITY;
  #notedMs = Number.NEGATIVE_INFINITY;
  #timer: NodeJS.Timeout | undefined;
  #closed = false;
  #lead: (claim: Claim) => void = () => {};
  /** Resolves once no server led and this one has the lock. */
  readonly lead = new Promise<Claim>((resolve) => {
    this.#lead = resolve;
  });

  constructor(parts: BesideParts) {
    this.#parts = parts;
  }

  start(address: string): void {
    this.#address = address;
    this.#next();
  }

  /** The server that leads; while the database does not answer, the one that did last. */
  readonly leader = async (): Promise<Leader | undefined> => {
    if (performance.now() - this.#leaderMs > lookEveryMs)
      try {
        this.#leader = await leaderOf(this.#parts.database);
        this.#leaderMs = performance.now();
      } catch (error) {
        if (!this.#leader) throw error;
      }
    return this.#leader;
  };

  async close(): Promise<void> {
    this.#closed = true;
    clearTimeout(this.#timer);
    await leaveBeside(this.#parts.database, this.instance).catch(() => {});
  }

  #next(): void {
    this.#timer = setTimeout(() => void this.#look(), lookEveryMs);
  }

  async #look(): Promise<void> {
    const { database, claim, log, takeBehindMs, takeStored, place } = this.#parts;
    try {
      if (await isFree(database)) return this.#lead(await claim());
      if (performance.now() - this.#notedMs > noteEveryMs) {
        const forMs = performance.now() - this.#notedMs;
        this.#notedMs = performance.now();
        const [stored, behindMs] = [takeStored(), takeBehindMs()];
        const storesPerSecond = Number.isFinite(forMs) ? (stored / forMs) * 1000 : 0;
        const { instance } = this;
        await noteBeside(database, { instance, place, address: this.#address, behindMs, storesPerSecond });
      }
    } catch (error) {
      if (!(error instanceof TakenError)) log.info({ err: error }, "the database does not say who leads");
    }
    if (!this.#closed) this.#next();
  }
}
