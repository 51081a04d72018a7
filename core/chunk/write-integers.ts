import type { BlockWriter } from "./cursor.ts";
import { groupSize, type Mode, modes, near, oneWidth, planeIs } from "./integers-layout.ts";

let items = new Float64Array(1024);
const narrow = new Uint32Array(groupSize);
const words = new Uint32Array(128);
const wordBytes = new Uint8Array(words.buffer); // little-endian, as every machine that runs this is
let widths = new Uint8Array(64);

/** Writes `ints[0..n)`, n ≥ 1, whole numbers of a size up to 2^50, in the mode that takes fewest bytes. */
export function writeIntegers(out: BlockWriter, ints: Float64Array, n: number): void {
  if (items.length < n + groupSize) items = new Float64Array(n + groupSize);
  const first = ints[0];
  let least = first;
  let most = first;
  let leastDelta = Number.POSITIVE_INFINITY;
  let changed = 0;
  for (let i = 1; i < n; i++) {
    const v = ints[i];
    const delta = v - ints[i - 1];
    if (v < least) least = v;
    if (v > most) most = v;
    if (delta < leastDelta) leastDelta = delta;
    if (delta !== 0) changed++;
  }
  const mode = cheapest(ints, n, least, leastDelta, changed);
  let m = 0;
  if (mode === modes.frame) for (; m < n; m++) items[m] = ints[m] - least;
  else if (mode === modes.delta) for (; m < n - 1; m++) items[m] = signedLow(ints[m + 1] - ints[m]);
  else if (mode === modes.rise) for (; m < n - 1; m++) items[m] = ints[m + 1] - ints[m] - leastDelta;
  else if (mode === modes.bend) for (; m < n - 2; m++) items[m] = signedLow(ints[m + 2] - 2 * ints[m + 1] + ints[m]);
  else {
    for (let i = 1; i < n; i++) {
      const delta = ints[i] - ints[i - 1];
      if (delta !== 0) items[m++] = signedLow(delta);
    }
  }
  const groups = findWidths(m);
  const uniform = groups > 0 && widths.subarray(0, groups).every((width) => width === widths[0]);
  out.byte(mode | (uniform ? oneWidth : 0) | (most - least < 2 ** 31 ? near : 0));
  out.zigzag(mode === modes.frame ? least : first);
  if (mode === modes.rise) out.zigzag(leastDelta);
  if (mode === modes.bend) out.zigzag(ints[1] - first);
  if (mode === modes.changes) writeBitmap(out, ints, n);
  if (uniform) out.byte(widths[0]);
  else out.bytes(widths.subarray(0, groups));
  for (let g = 0; g < groups; g++) packGroup(out, g * groupSize, Math.min(groupSize, m - g * groupSize), widths[g]);
}

/**
 * Writes `bits[half]`, `bits[half + 2]` … (n words): above the least, or as differences modulo 2^32, without the low
 * bits that none has.
 */
export function writeWords(out: BlockWriter, bits: Uint32Array, half: number, n: number): void {
  if (items.length < n + groupSize) items = new Float64Array(n + groupSize);
  let any = 0;
  let least = 0xffffffff;
  for (let i = half; i < 2 * n; i += 2) {
    any |= bits[i];
    if (bits[i] < least) least = bits[i];
  }
  const shift = any === 0 ? 0 : 31 - Math.clz32(any & -any);
  let frame = 0;
  let delta = 0;
  for (let i = 2 + half; i < 2 * n; i += 2) {
    frame += bitsOf((bits[i] - least) >>> shift);
    delta += bitsOf(wordDelta(bits, i, shift));
  }
  const kind = delta < frame ? planeIs.delta : planeIs.frame;
  out.byte(kind);
  out.byte(shift);
  const base = kind === planeIs.frame ? least : bits[half];
  out.varint(base);
  for (let i = 0; i < n; i++)
    items[i] =
      kind === planeIs.frame
        ? (bits[2 * i + half] - least) >>> shift
        : i === 0
          ? 0
          : wordDelta(bits, 2 * i + half, shift);
  const groups = findWidths(n);
  out.bytes(widths.subarray(0, groups));
  for (let g = 0; g < groups; g++) packGroup(out, g * groupSize, Math.min(groupSize, n - g * groupSize), widths[g]);
}

/** The difference from the word before, shifted, its sign in the low bit. */
function wordDelta(bits: Uint32Array, i: number, shift: number): number {
  const delta = ((bits[i] - bits[i - 2]) | 0) >> shift;
  return ((delta << 1) ^ (delta >> 31)) >>> 0;
}

/** Counts the bytes that each mode would take. */
function cheapest(ints: Float64Array, n: number, least: number, leastDelta: number, changed: number): Mode {
  if (n === 1) return modes.frame;
  let frame = 0;
  let delta = 0;
  let rise = 0;
  let bend = 0;
  let largest = 0;
  let before = 0;
  for (let g = 0; g < n; g += groupSize) {
    const end = Math.min(n, g + groupSize);
    let topFrame = 0;
    let topDelta = 0;
    let topRise = 0;
    let topBend = 0;
    for (let i = g; i < end; i++) {
      const v = ints[i];
      if (v - least > topFrame) topFrame = v - least;
      if (i === 0) continue;
      const d = v - ints[i - 1];
      const size = d < 0 ? -2 * d - 1 : 2 * d;
      if (size > topDelta) topDelta = size;
      if (d - leastDelta > topRise) topRise = d - leastDelta;
      const b = d - before;
      const turn = b < 0 ? -2 * b - 1 : 2 * b;
      if (i > 1 && turn > topBend) topBend = turn;
      before = d;
    }
    const count = end - g;
    frame += bitsOf(topFrame) * count;
    delta += bitsOf(topDelta) * count;
    rise += bitsOf(topRise) * count;
    bend += bitsOf(topBend) * count;
    if (topDelta > largest) largest = topDelta;
  }
  // Items of "changes" cannot be told without gathering them; the widest is assumed for all.
  const changes = n - 1 + changed * bitsOf(largest);
  let best: Mode = modes.frame;
  let cost = frame;
  if (rise + 16 < cost) [best, cost] = [modes.rise, rise + 16];
  if (delta < cost) [best, cost] = [modes.delta, delta];
  // it decodes slower: a tenth is the least worth it
  if (bend * 1.1 + 16 < cost) [best, cost] = [modes.bend, bend + 16];
  if (changes < cost) best = modes.changes;
  return best;
}

function signedLow(v: number): number {
  return v < 0 ? -2 * v - 1 : 2 * v;
}

/** Bits of a whole number from 0 to 2^53. */
function bitsOf(v: number): number {
  return v < 4294967296 ? 32 - Math.clz32(v) : 64 - Math.clz32(v / 4294967296);
}

function findWidths(m: number): number {
  const groups = Math.ceil(m / groupSize);
  if (widths.length < groups) widths = new Uint8Array(groups * 2);
  for (let g = 0; g < groups; g++) {
    let top = 0;
    for (let i = g * groupSize; i < Math.min(m, (g + 1) * groupSize); i++) if (items[i] > top) top = items[i];
    widths[g] = bitsOf(top);
  }
  return groups;
}

function writeBitmap(out: BlockWriter, ints: Float64Array, n: number): void {
  for (let i = 1; i < n; i += 8) {
    let byte = 0;
    for (let bit = 0; bit < 8 && i + bit < n; bit++) if (ints[i + bit] !== ints[i + bit - 1]) byte |= 1 << bit;
    out.byte(byte);
  }
}

/** Numbers wider than a word: their low words as they are, then what is above them packed. */
function packGroup(out: BlockWriter, start: number, count: number, width: number): void {
  if (width <= 32) {
    for (let i = 0; i < count; i++) narrow[i] = items[start + i];
    out.bytes(wordBytes.subarray(0, packWords(0, count, width)));
    return;
  }
  for (let i = 0; i < count; i++) {
    const v = items[start + i];
    words[i] = v % 4294967296;
    narrow[i] = Math.floor(v / 4294967296);
  }
  out.bytes(wordBytes.subarray(0, count * 4 + packWords(count, count, width - 32)));
}

/** Packs `narrow[0..count)` into words from `at` on; gives the bytes that they take. */
function packWords(at: number, count: number, width: number): number {
  if (width === 0) return 0;
  let word = 0;
  let used = 0;
  let k = at;
  for (let i = 0; i < count; i++) {
    const v = narrow[i];
    word |= v << used;
    used += width;
    if (used >= 32) {
      words[k++] = word;
      used -= 32;
      word = used === 0 ? 0 : v >>> (width - used);
    }
  }
  words[k] = word;
  return (count * width + 7) >>> 3;
}
