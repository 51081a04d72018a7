/** Series of a page; their numbers come from the database and are dense. */
const pageBits = 10;
const pageSize = 1 << pageBits;
const inPage = pageSize - 1;

/**
 * Where series are, by their number: eight bytes each, as the series of a page stand in one array. Of a million series
 * that are held three times, a map of objects takes 300 MB.
 */
export class PagedPlaces {
  /** Of each series: the number of its group plus one, then its lane; nought stands for none. */
  readonly #pages: (Int32Array | undefined)[] = [];
  #size = 0;

  get size(): number {
    return this.#size;
  }

  get sizeBytes(): number {
    let pages = 0;
    for (const page of this.#pages) if (page) pages++;
    return pages * pageSize * 8 + this.#pages.length * 8;
  }

  has(id: number): boolean {
    return this.groupOf(id) >= 0;
  }

  /** The number of the group that a series is in; −1 where it has no place. */
  groupOf(id: number): number {
    const page = this.#pages[id >> pageBits];
    return page === undefined ? -1 : (page[(id & inPage) << 1] as number) - 1;
  }

  /** The lane of a series that has a place. */
  laneOf(id: number): number {
    return this.#pages[id >> pageBits]?.[((id & inPage) << 1) + 1] as number;
  }

  set(id: number, group: number, lane: number): void {
    let page = this.#pages[id >> pageBits];
    if (!page) this.#pages[id >> pageBits] = page = new Int32Array(pageSize * 2);
    const at = (id & inPage) << 1;
    if (page[at] === 0) this.#size++;
    page[at] = group + 1;
    page[at + 1] = lane;
  }

  /** The numbers of all series that have a place, ascending. */
  *ids(): Generator<number> {
    for (const [number, page] of this.#pages.entries()) {
      if (!page) continue;
      for (let k = 0; k < pageSize; k++) if (page[k << 1] !== 0) yield (number << pageBits) + k;
    }
  }
}
