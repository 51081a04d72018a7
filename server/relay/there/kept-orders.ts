import { existsSync, readFileSync, renameSync, writeFileSync } from "node:fs";
import type { RelayOrders } from "../../../core/relay/relay-wire.ts";

/** The last orders of a relay in a file that only its account reads: they hold the secrets of what is asked. */
export class KeptOrders {
  readonly #file: string;

  constructor(file: string) {
    this.#file = file;
  }

  /** Undefined where there are none, or none that can be read: the server tells them again. */
  read(): RelayOrders | undefined {
    if (!existsSync(this.#file)) return undefined;
    try {
      return JSON.parse(readFileSync(this.#file, "utf8")) as RelayOrders;
    } catch {
      return undefined;
    }
  }

  keep(orders: RelayOrders): void {
    writeFileSync(`${this.#file}.new`, JSON.stringify(orders), { mode: 0o600 });
    renameSync(`${this.#file}.new`, this.#file);
  }
}
