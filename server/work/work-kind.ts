import type { TransferListItem } from "node:worker_threads";
import type { Connection } from "../db/pool.ts";

/**
 * A kind of heavy work that can be done elsewhere, as a value: who asks and who does it name the same one, so that what
 * is given and what is answered fit.
 */
export interface WorkKind<Given, Answer> {
  /** By this name a worker thread knows it. */
  readonly name: string;
  /** The memory that is handed over to the thread with what is given, instead of being copied. */
  readonly transfers: (given: Given) => TransferListItem[];
  /** Whether it only reads what is stored: then a standby of the database can serve it. */
  readonly isReading: boolean;
  /** Says only of what type the answer is; never there. */
  readonly answers?: Answer;
}

export function workKind<Given, Answer>(
  name: string,
  transfers: (given: Given) => TransferListItem[] = () => [],
  isReading = false,
): WorkKind<Given, Answer> {
  return { name, transfers, isReading };
}

/** What work has at hand where it is done. */
export interface WorkPlace {
  /** Gives the connection of the work, opened when it is first needed. */
  readonly connect: () => Promise<Connection>;
  /** Whether nobody waits any more. */
  readonly isCancelled: () => boolean;
  /** Whether one piece of work is done here at a time, so that memory can be used again. */
  readonly isAlone: boolean;
}

/** A kind of work with what does it. */
export interface Worked {
  readonly name: string;
  readonly work: (place: WorkPlace, given: never) => unknown;
}

/** Says how a kind of work is done. */
export function worked<Given, Answer>(
  kind: WorkKind<Given, Answer>,
  work: (place: WorkPlace, given: Given) => Answer | Promise<Answer>,
): Worked {
  return { name: kind.name, work };
}

/** Work by the names of its kinds; `run` throws where a name is not among them. */
export class Workshop {
  readonly #byName: ReadonlyMap<string, Worked>;

  constructor(all: readonly Worked[]) {
    this.#byName = new Map(all.map((one) => [one.name, one]));
  }

  async run(name: string, place: WorkPlace, given: unknown): Promise<unknown> {
    const found = this.#byName.get(name);
    if (!found) throw new Error(`no work is called ${name}`);
    return found.work(place, given as never);
  }
}

/** Who asked has gone. */
export class CancelledError extends Error {
  override name = "CancelledError";
  constructor() {
    super("nobody waits for this any more");
  }
}
