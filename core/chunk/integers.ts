import { BlockError, type BlockReader, type BlockWriter } from "./cursor.ts";
import { unpackers } from "./unpack.ts";

/** Whole numbers up to this size are packed: second differences, doubled for their sign, stay exact (2^53). */
export const largestInteger = 2 ** 50;

/** Numbers share one bit width in groups of 32, so that a spike costs one group; 32 numbers of w bits are w words. */
const groupSize = 32;
/** Set in the mode byte where all groups have one width, which is then written once. */
const oneWidth = 0x80;
/**
 * Set in the mode byte where no number is 2^31 or more away from the first (in "frame": from the least): words suffice
 * for adding up.
 */
const near = 0x40;

/**
 * How a column of n integers becomes the items that are packed:
 *  - frame: the least, then n items above it
 *  - delta: the first, then n − 1 differences, their sign in the low bit
 *  - rise: the first and the least difference, then n − 1 differences above that
 *  - bend: the first and the first difference, then n − 2 differences of differences, their sign in the low bit
 *  - changes: the first, a bitmap of n − 1 bits, then the differences that are not 0, their sign in the low bit
 */
const modes = { frame: 0, delta: 1, rise: 2, bend: 3, changes: 4 } as const;
type Mode = (typeof modes)[keyof typeof modes];

let items = new Float64Array(1024);
let narrow = new Uint32Array(1024);
let words = new Uint32Array(2048);
let wordBytes = new Uint8Array(words.buffer); // little-endian, as every machine that runs this is
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

/** Reads `n` integers into `into[at..at + n)`, each times `unit` plus `offset`. Throws BlockError. */
export function readIntegers(from: BlockReader, into: Float64Array, at: number, n: number, offset = 0, unit = 1): void {
  const start = from.at;
  const modeByte = from.byte();
  const mode = (modeByte & 0x3f) as Mode;
  const first = from.zigzag();
  if (mode > modes.changes || ((mode === modes.bend || mode === modes.rise) && n < 2))
    throw new BlockError(`integers of mode ${mode} are not known, or not for ${n} of them`, start);
  const second = mode === modes.rise || mode === modes.bend ? from.zigzag() : 0;
  const bitmap = mode === modes.changes ? from.skip((n + 6) >>> 3) : 0; // n − 1 bits
  const m =
    mode === modes.frame
      ? n
      : mode === modes.bend
        ? n - 2
        : mode === modes.changes
          ? countBits(from.opened, bitmap, n - 1)
          : n - 1;
  const wide = readGroups(from, m, (modeByte & oneWidth) !== 0);
  const base = offset + first * unit;
  if (wide || (modeByte & near) === 0) {
    addFar(mode, wide, first, second, into, at, m, n, from.opened, bitmap, offset, unit);
    return;
  }
  if (mode === modes.frame) {
    addFrame(narrow, base, into, at, m, unit);
    return;
  }
  into[at] = base;
  if (mode === modes.delta) addDeltas(narrow, base, into, at + 1, m, unit);
  else if (mode === modes.rise) addRises(narrow, base, second, into, at + 1, m, unit);
  else if (mode === modes.bend) addBends(narrow, base, second, into, at + 1, m, unit);
  else addChanges(narrow, base, into, at + 1, n - 1, unit, from.opened, bitmap);
}

function addFrame(u: Uint32Array, base: number, into: Float64Array, at: number, m: number, unit: number): void {
  for (let i = 0; i < m; i++) into[at + i] = base + u[i] * unit;
}

/** Adding up in words takes a cycle a number, in float64 four. */
function addDeltas(u: Uint32Array, base: number, into: Float64Array, at: number, m: number, unit: number): void {
  let sum = 0;
  for (let i = 0; i < m; i++) {
    const z = u[i];
    sum = (sum + ((z >>> 1) ^ -(z & 1))) | 0;
    into[at + i] = base + sum * unit;
  }
}

function addRises(
  u: Uint32Array,
  base: number,
  least: number,
  into: Float64Array,
  at: number,
  m: number,
  unit: number,
): void {
  let sum = 0;
  for (let i = 0; i < m; i++) {
    sum = (sum + least + u[i]) | 0;
    into[at + i] = base + sum * unit;
  }
}

function addBends(
  u: Uint32Array,
  base: number,
  first: number,
  into: Float64Array,
  at: number,
  m: number,
  unit: number,
): void {
  let delta = first | 0;
  let sum = delta;
  into[at] = base + sum * unit;
  for (let i = 0; i < m; i++) {
    const z = u[i];
    delta = (delta + ((z >>> 1) ^ -(z & 1))) | 0;
    sum = (sum + delta) | 0;
    into[at + 1 + i] = base + sum * unit;
  }
}

/** Without a branch on the bit, which cannot be foretold. */
function addChanges(
  u: Uint32Array,
  base: number,
  into: Float64Array,
  at: number,
  count: number,
  unit: number,
  bytes: Uint8Array,
  bitmap: number,
): void {
  let sum = 0;
  for (let k = 0, i = 0; k < count; k++) {
    const bit = (bytes[bitmap + (k >>> 3)] >>> (k & 7)) & 1;
    const z = u[i];
    sum = (sum + (((z >>> 1) ^ -(z & 1)) & -bit)) | 0;
    i += bit;
    into[at + k] = base + sum * unit;
  }
}

/** Every mode, for numbers of any size. */
function addFar(
  mode: Mode,
  wide: boolean,
  first: number,
  second: number,
  into: Float64Array,
  at: number,
  m: number,
  n: number,
  bytes: Uint8Array,
  bitmap: number,
  offset: number,
  unit: number,
): void {
  const u: ArrayLike<number> = wide ? items : narrow;
  let v = first;
  let delta = second;
  if (mode === modes.frame) for (let i = 0; i < m; i++) into[at + i] = v + u[i];
  else if (mode === modes.delta) for (let i = 0; i < m; i++) into[at + 1 + i] = v += signed(u[i]);
  else if (mode === modes.rise) for (let i = 0; i < m; i++) into[at + 1 + i] = v += second + u[i];
  else if (mode === modes.bend) {
    into[at + 1] = v += delta;
    for (let i = 0; i < m; i++) {
      delta += signed(u[i]);
      into[at + 2 + i] = v += delta;
    }
  } else {
    for (let k = 0, i = 0; k < n - 1; k++) {
      if ((bytes[bitmap + (k >>> 3)] >>> (k & 7)) & 1) v += signed(u[i++]);
      into[at + 1 + k] = v;
    }
  }
  if (mode !== modes.frame) into[at] = first;
  if (unit !== 1 || offset !== 0) for (let i = at; i < at + n; i++) into[i] = offset + into[i] * unit;
}

function signed(z: number): number {
  return z % 2 === 1 ? -(z + 1) / 2 : z / 2;
}

const planeIs = { frame: 0, delta: 1 } as const;

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

/** Reads what writeWords wrote. Throws BlockError. */
export function readWords(from: BlockReader, bits: Uint32Array, half: number, n: number): void {
  const kind = from.byte();
  const shift = from.byte();
  if (kind > planeIs.delta || shift > 31)
    throw new BlockError(`words of kind ${kind}, shifted by ${shift}, are not known`, from.at - 2);
  const base = from.varint();
  if (readGroups(from, n, false)) throw new BlockError("a word has more than 32 bits", from.at);
  const u = narrow;
  if (kind === planeIs.frame) for (let i = 0; i < n; i++) bits[2 * i + half] = base + (u[i] << shift);
  else {
    for (let i = 0, word = base | 0; i < n; i++) {
      const z = u[i];
      word = (word + (((z >>> 1) ^ -(z & 1)) << shift)) | 0;
      bits[2 * i + half] = word;
    }
  }
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

function countBits(bytes: Uint8Array, at: number, bits: number): number {
  let count = 0;
  for (let bit = 0; bit < bits; bit++) count += (bytes[at + (bit >>> 3)] >>> (bit & 7)) & 1;
  return count;
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

/** Unpacks m items: into `narrow` and, where a group is wider than a word (answered true), all of them into `items`. */
function readGroups(from: BlockReader, m: number, uniform: boolean): boolean {
  const groups = Math.ceil(m / groupSize);
  if (widths.length < groups) widths = new Uint8Array(groups * 2);
  const start = from.at;
  if (uniform) widths.fill(from.byte(), 0, groups);
  else from.copy(widths, groups);
  const last = m - (groups - 1) * groupSize;
  let length = 0;
  let wide = false;
  for (let g = 0; g < groups; g++) {
    const width = widths[g];
    if (width > 53) throw new BlockError(`${width} bits a number are too many`, start);
    const count = g === groups - 1 ? last : groupSize;
    length += width > 32 ? count * 4 + ((count * (width - 32) + 7) >>> 3) : (count * width + 7) >>> 3;
    if (width > 32) wide = true;
  }
  if (length > from.remaining)
    throw new BlockError(`${m} numbers take ${length} bytes, ${from.remaining} remain`, from.at);
  if (narrow.length < m + groupSize) narrow = new Uint32Array(m + groupSize);
  if (wide && items.length < m + groupSize) items = new Float64Array(m + groupSize);
  if (wordBytes.length < length + 256) {
    words = new Uint32Array((length >>> 2) + 128);
    wordBytes = new Uint8Array(words.buffer);
  }
  from.copy(wordBytes, length);
  const w = words;
  const u = narrow;
  let at = 0;
  for (let g = 0; g < groups; g++) {
    const width = widths[g];
    const first = g * groupSize;
    if (width <= 32) {
      (unpackers[width] as (typeof unpackers)[0])(w, at, u, first);
      at += width;
      if (wide) for (let i = first; i < first + groupSize; i++) items[i] = u[i];
    } else {
      const count = g === groups - 1 ? last : groupSize;
      (unpackers[width - 32] as (typeof unpackers)[0])(w, at + count, u, first);
      for (let i = 0; i < count; i++) items[first + i] = u[first + i] * 4294967296 + w[at + i];
      at += width;
    }
  }
  return wide;
}
