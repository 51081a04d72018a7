import type { Logger } from "pino";
import type { ForwardBody, ForwardView } from "../../core/api/forwards.ts";
import type { ForwardSettings } from "../../core/forwarding/forward.ts";
import type { Database } from "../db/pool.ts";
import { Problem } from "../http/problem.ts";
import type { SecretBox } from "../sources/secret-box.ts";
import type { Store } from "../store/store.ts";
import {
  deleteForward,
  insertForward,
  listForwardRows,
  noteSentUntil,
  type StoredForward,
  updateForward,
} from "./forward-rows.ts";
import { Forwarder } from "./forwarder.ts";

interface ForwardingParts {
  readonly database: Database;
  readonly store: Store;
  readonly box: SecretBox;
  readonly log: Logger;
}

interface Running {
  readonly row: StoredForward;
  /** Undefined where it is off, or its secrets cannot be opened. */
  readonly forwarder: Forwarder | undefined;
  readonly why: string;
}

/** Everything that is sent on to other receivers. */
export class Forwarding {
  readonly #parts: ForwardingParts;
  readonly #running = new Map<number, Running>();

  private constructor(parts: ForwardingParts) {
    this.#parts = parts;
  }

  static async open(parts: ForwardingParts): Promise<Forwarding> {
    const forwarding = new Forwarding(parts);
    for (const row of await listForwardRows(parts.database)) forwarding.#start(row);
    return forwarding;
  }

  views(): readonly ForwardView[] {
    return [...this.#running.values()].map(viewOf);
  }

  /** From now on what is chosen is sent on. Throws Problem. */
  async make({ values, ...settings }: ForwardBody, nowMs: number): Promise<ForwardView> {
    const secret = this.#seal(completed(settings, values, {}));
    return viewOf(this.#start(await insertForward(this.#parts.database, { settings, secret, sentUntilMs: nowMs })));
  }

  /** It goes on from where it was. Values that are kept go to the address that they were entered for alone. Throws Problem. */
  async change(id: number, { values, ...settings }: ForwardBody): Promise<ForwardView> {
    const running = this.#of(id);
    const { origin } = new URL(settings.url);
    const kept = origin === new URL(running.row.settings.url).origin ? this.#openOrNone(running.row) : {};
    const secret = this.#seal(completed(settings, values, kept));
    const row = await updateForward(this.#parts.database, id, settings, secret);
    if (!row) throw noSuchForward();
    await running.forwarder?.close();
    return viewOf(this.#start({ ...row, sentUntilMs: running.forwarder?.goesOnFromMs ?? row.sentUntilMs }));
  }

  async remove(id: number): Promise<void> {
    const { forwarder } = this.#of(id);
    await deleteForward(this.#parts.database, id);
    this.#running.delete(id);
    await forwarder?.close();
  }

  async close(): Promise<void> {
    await Promise.all([...this.#running.values()].map(({ forwarder }) => forwarder?.close()));
  }

  #of(id: number): Running {
    const running = this.#running.get(id);
    if (!running) throw noSuchForward();
    return running;
  }

  #start(row: StoredForward): Running {
    const running = row.settings.isOn ? this.#opened(row) : { row, forwarder: undefined, why: "" };
    this.#running.set(row.id, running);
    return running;
  }

  #opened(row: StoredForward): Running {
    const { store, database, log } = this.#parts;
    try {
      const forwarder = new Forwarder(row, {
        store,
        values: this.#open(row),
        noteSentUntil: (untilMs) => noteSentUntil(database, row.id, untilMs),
        failed: (error) => log.warn({ err: error, forward: row.settings.name }, "sending on failed"),
      });
      return { row, forwarder, why: "" };
    } catch (error) {
      log.warn({ err: error, forward: row.settings.name }, "a secret cannot be read");
      return {
        row,
        forwarder: undefined,
        why: "Its headers cannot be read: they were sealed with another key. Enter them again.",
      };
    }
  }

  #seal(values: Readonly<Record<string, string>>): Buffer | null {
    return Object.keys(values).length === 0 ? null : this.#parts.box.seal(JSON.stringify(values));
  }

  /** None where they were sealed with another key: they are entered again then. */
  #openOrNone(row: StoredForward): Readonly<Record<string, string>> {
    try {
      return this.#open(row);
    } catch {
      return {};
    }
  }

  #open({ secret }: StoredForward): Readonly<Record<string, string>> {
    return secret === null ? {} : (JSON.parse(this.#parts.box.unseal(secret)) as Record<string, string>);
  }
}

/** The value of every header that is named, given or kept. Throws Problem where one is neither. */
function completed(
  { headers }: ForwardSettings,
  given: Readonly<Record<string, string>>,
  kept: Readonly<Record<string, string>>,
): Readonly<Record<string, string>> {
  return Object.fromEntries(
    headers.map((name) => {
      const value = Object.hasOwn(given, name) ? given[name] : Object.hasOwn(kept, name) ? kept[name] : undefined;
      if (value === undefined)
        throw new Problem(
          422,
          "the-request-does-not-fit",
          `"values" lacks that of the header ${name}; kept ones go to the address that they were entered for alone.`,
          {
            errors: [{ path: "values", message: `the value of ${name} is needed` }],
          },
        );
      return [name, value];
    }),
  );
}

function viewOf({ row, forwarder, why }: Running): ForwardView {
  const { id, settings, sentUntilMs } = row;
  const failure = why === "" ? null : { words: why, atMs: Date.now() };
  return {
    ...settings,
    id,
    series: forwarder?.series ?? 0,
    ...(forwarder?.standing ?? { sentUntilMs, sent: 0, refused: 0, failure }),
  };
}

const noSuchForward = () => new Problem(404, "no-such-forward", "Nothing of this number is sent on.");
