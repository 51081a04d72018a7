import type { Store } from "../store/store.ts";

/** What a collector tells of how fast one processor of its machine works. */
export const speedCounter = "nubrel.collector.speed";
/** A collector that has not answered for so long is asked no more. */
const wishedMs = 3_600_000;

interface Wish {
  readonly askedAtMs: number;
  /** When it told of its speed last before it was asked. */
  readonly lastMs: number | undefined;
}

/** Collectors that are asked to measure how fast their machine is: they hear of it in the answer to what they send. */
export class SpeedWishes {
  readonly #store: Store;
  readonly #wishes = new Map<string, Wish>();

  constructor(store: Store) {
    this.#store = store;
  }

  ask(machine: string, nowMs: number): void {
    this.#wishes.set(machine, { askedAtMs: nowMs, lastMs: this.lastMs(machine) });
  }

  /** Whether a machine's collector is still to measure: it has told nothing new since it was asked. */
  isWished(machine: string, nowMs: number): boolean {
    const wish = this.#wishes.get(machine);
    if (!wish) return false;
    if (nowMs - wish.askedAtMs < wishedMs && this.lastMs(machine) === wish.lastMs) return true;
    this.#wishes.delete(machine);
    return false;
  }

  /** When it told of its speed last, ms. */
  lastMs(machine: string): number | undefined {
    const id = this.#store.series.ofCounter(speedCounter).find(({ tags }) => tags["machine"] === machine)?.id;
    return id === undefined ? undefined : this.#store.lastSampleMs(id);
  }
}
