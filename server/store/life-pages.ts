import { slotMs } from "./slots.ts";

/** Series of a page: a page is written where one of them has new samples, every two hours at most. */
export const pageBits = 10;
export const pageSize = 1 << pageBits;

/** A value holds for some hours beyond its sample, where samples come every hour or more often. */
export const holdsSlots = 2;
/** What comes more seldom is looked for over as many slots, before a window and after it. */
export const seldomSlots = (31 * 86_400_000) / slotMs;

export const pageOf = (id: number): number => id >> pageBits;
const placeOf = (id: number): number => (id & (pageSize - 1)) << 1;

/** The first and last slot of each series of a page, one after the other; nought where nothing is noted of it. */
export const newPage = (): Int32Array => new Int32Array(pageSize * 2);

export function lifeOf(page: Int32Array, id: number): readonly [first: number, last: number] {
  const at = placeOf(id);
  return [page[at] as number, page[at + 1] as number];
}

/**
 * Notes that a series has samples from one slot to another; whether that was new. One of which it is not known since when
 * it is there may have been there always.
 */
export function extendLife(page: Int32Array, id: number, first: number, last: number, isKnown: boolean): boolean {
  const at = placeOf(id);
  const [from, to] = lifeOf(page, id);
  page[at] = to > 0 ? Math.min(from, first) : isKnown ? first : 0;
  page[at + 1] = Math.max(to, last);
  return to === 0 || page[at] !== from || page[at + 1] !== to;
}

/** A page as it is stored: whole numbers of 32 bits, little-endian. */
export function storedPage(page: Int32Array): Buffer {
  const stored = Buffer.alloc(page.length * 4);
  page.forEach((slot, i) => {
    stored.writeInt32LE(slot, 4 * i);
  });
  return stored;
}

export const readStoredPage = (stored: Buffer): Int32Array =>
  Int32Array.from({ length: pageSize * 2 }, (_, i) => stored.readInt32LE(4 * i));
