import type { Database } from "../db/pool.ts";
import { knownAfter, lifePages } from "./life-rows.ts";
import { extendLife, holdsSlots, lifeOf, newPage, pageBits, pageOf } from "./life-pages.ts";

/** Series of lists that are remembered, all lists together: eight bytes each. */
const mostRemembered = 1_000_000;
const mostLists = 200;

/** Some of the series of a counter, as many as there were and as their lives were. */
interface Remembered {
  readonly list: readonly { readonly id: number }[];
  readonly length: number;
  readonly version: number;
  readonly alive: readonly unknown[];
}

/**
 * From which slot to which each series has samples. What had ended before a window, or begins after it, is left out of
 * a reading before anything else is done with it: among the series of containers and processes, most have ended.
 */
export class SeriesLives {
  readonly #pages: (Int32Array | undefined)[] = [];
  readonly #remembered = new Map<string, Remembered>();
  /** Series of all lists that are remembered. */
  #held = 0;
  /** Series up to this one were there before lives were noted: nobody knows since when. */
  #knownAfter = 0;
  #version = 0;

  /** Reads what the database has; what was told of meanwhile stays. */
  async read(database: Database): Promise<void> {
    this.#knownAfter = await knownAfter(database);
    for (const [page, lives] of await lifePages(database))
      for (let id = page << pageBits; id < (page + 1) << pageBits; id++) {
        const [first, last] = lifeOf(lives, id);
        if (last > 0) this.#extend(id, first, last);
      }
  }

  /** Notes that series have samples of a slot; those that come seldom are looked for over as many slots more. */
  note(ids: ArrayLike<number>, slot: number, more = 0): void {
    for (let i = 0; i < ids.length; i++) this.#extend(ids[i] as number, slot - more, slot + more);
  }

  /** Whether a series may tell something of the slots `[fromSlot, toSlot]`: where nothing is known of it, it may. */
  isAlive(id: number, fromSlot: number, toSlot: number): boolean {
    const page = this.#pages[pageOf(id)];
    if (page === undefined) return true;
    const [first, last] = lifeOf(page, id);
    return last === 0 || (first <= toSlot + holdsSlots && last >= fromSlot - holdsSlots);
  }

  /** Those of a list that may tell something of the slots. A list only grows; one that lost some is another. */
  aliveOf<One extends { readonly id: number }>(
    key: string,
    list: readonly One[],
    fromSlot: number,
    toSlot: number,
  ): readonly One[] {
    const place = `${fromSlot} ${toSlot} ${key}`;
    const before = this.#remembered.get(place);
    if (before?.list === list && before.length === list.length && before.version === this.#version)
      return before.alive as readonly One[];
    const some = list.filter(({ id }) => this.isAlive(id, fromSlot, toSlot));
    // where none had ended, the list itself stands for them, and takes no memory
    const alive = some.length === list.length ? list : some;
    this.#forget(place);
    this.#remembered.set(place, { list, length: list.length, version: this.#version, alive });
    this.#held += alive === list ? 0 : alive.length;
    while (this.#held > mostRemembered || this.#remembered.size > mostLists)
      this.#forget(this.#remembered.keys().next().value as string);
    return alive;
  }

  #forget(place: string): void {
    const before = this.#remembered.get(place);
    if (!before) return;
    this.#remembered.delete(place);
    this.#held -= before.alive === before.list ? 0 : before.alive.length;
  }

  #extend(id: number, first: number, last: number): void {
    let page = this.#pages[pageOf(id)];
    if (!page) this.#pages[pageOf(id)] = page = newPage();
    if (extendLife(page, id, first, last, id > this.#knownAfter)) this.#version++;
  }
}
