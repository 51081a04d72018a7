import { BlockError, type BlockReader } from "./cursor.ts";
import { groupSize, type Mode, modes, near, oneWidth, planeIs } from "./integers-layout.ts";
import { unpackers } from "./unpack.ts";

/** So many numbers are read in memory that is always the same; a slot of two hours has 7,200 of a second each. */
const usual = 8192;
const narrow = new Uint32Array(usual + groupSize);
const narrowSteps = new Int32Array(narrow.buffer);
const placed = new Float64Array(usual);
const placedWords = new Int32Array(placed.buffer);
const highWords = new Int32Array(usual);
/** How many bits of a byte are set. */
const onesOf = Uint8Array.from({ length: 256 }, (_, byte) => [...byte.toString(2)].filter((bit) => bit === "1").length);
/** For more numbers than that. */
let longer = new Uint32Array(0);
let items = new Float64Array(1024);
let words = new Uint32Array(2048);
let wordBytes = new Uint8Array(words.buffer); // little-endian, as every machine that runs this is
let widths = new Uint8Array(64);

/** Reads `n` integers into `into[at..at + n)`, each times `unit` plus `offset`, and that by `per`. Throws BlockError. */
export function readIntegers(
  from: BlockReader,
  into: Float64Array,
  at: number,
  n: number,
  offset = 0,
  unit = 1,
  per = 1,
): void {
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
  if (wide || n > usual || (modeByte & near) === 0) {
    addFar(mode, wide, first, second, into, at, m, n, from.opened, bitmap, offset, unit);
    if (per !== 1) for (let i = at; i < at + n; i++) into[i] /= per;
    return;
  }
  // As they are where nothing is multiplied; else above nought, and then in a loop of their own.
  const begin = unit === 1 ? base : 0;
  placed[0] = begin;
  if (mode === modes.frame) placeFrame(begin, m);
  else if (mode === modes.delta) placeDeltas(begin, m);
  else if (mode === modes.rise) placeRises(begin, second | 0, m);
  else if (mode === modes.bend) placeBends(begin, second | 0, m);
  else placeChanges(begin, n - 1, from.opened, bitmap);
  if (unit !== 1) multiply(unit, base, n);
  if (per !== 1) divide(per, n);
  into.set(firstPlaced(n), at);
}

/** The first `n` numbers: most blocks that are read one after the other have as many. */
function firstPlaced(n: number): Float64Array {
  if (lastPlaced.length !== n) lastPlaced = placed.subarray(0, n);
  return lastPlaced;
}
let lastPlaced = placed.subarray(0, 0);

// What follows are loops over memory that never changes its place, by its name: given as arguments, where it lies would
// be looked up for every number, which takes three times as long. Sums are made in words: a cycle a number, in float64
// four.

function placeFrame(base: number, m: number): void {
  for (let i = 0; i < m; i++) placed[i] = base + narrowSteps[i];
}

function placeDeltas(base: number, m: number): void {
  let sum = 0;
  for (let i = 0; i < m; i++) {
    const z = narrowSteps[i];
    sum = (sum + ((z >>> 1) ^ -(z & 1))) | 0;
    placed[i + 1] = base + sum;
  }
}

function placeRises(base: number, least: number, m: number): void {
  let sum = 0;
  for (let i = 0; i < m; i++) {
    sum = (sum + ((least + narrowSteps[i]) | 0)) | 0;
    placed[i + 1] = base + sum;
  }
}

function placeBends(base: number, first: number, m: number): void {
  let delta = first;
  let sum = first;
  placed[1] = base + sum;
  for (let i = 0; i < m; i++) {
    const z = narrowSteps[i];
    delta = (delta + ((z >>> 1) ^ -(z & 1))) | 0;
    sum = (sum + delta) | 0;
    placed[i + 2] = base + sum;
  }
}

/** Without a branch on the bit, which cannot be foretold; a byte of eight bits is looked up once. */
function placeChanges(base: number, count: number, bytes: Uint8Array, bitmap: number): void {
  let sum = 0;
  for (let k = 0, i = 0, byte = bitmap; k < count; byte++) {
    const end = Math.min(count, k + 8);
    for (let left = bytes[byte]; k < end; left >>>= 1) {
      const bit = left & 1;
      const z = narrowSteps[i];
      sum = (sum + (((z >>> 1) ^ -(z & 1)) & -bit)) | 0;
      i += bit;
      placed[++k] = base + sum;
    }
  }
}

function multiply(unit: number, base: number, n: number): void {
  for (let i = 0; i < n; i++) placed[i] = base + placed[i] * unit;
}

function divide(per: number, n: number): void {
  for (let i = 0; i < n; i++) placed[i] /= per;
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
  const u: ArrayLike<number> = wide ? items : m > usual ? longer : narrow;
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

/** Reads what writeWords wrote: of the high words and the low words that follow them the numbers `into[at..at + n)`. */
export function readWordPairs(from: BlockReader, into: Float64Array, at: number, n: number): void {
  if (n > usual) {
    const bits = new Uint32Array(into.buffer, into.byteOffset + at * 8, n * 2);
    for (const half of [1, 0]) {
      const { kind, shift, base } = readWordsHead(from, n);
      const u = longer;
      for (let i = 0, word = base | 0; i < n; i++) {
        if (kind === planeIs.delta) word = (word + (((u[i] >>> 1) ^ -(u[i] & 1)) << shift)) | 0;
        bits[2 * i + half] = kind === planeIs.delta ? word : base + (u[i] << shift);
      }
    }
    return;
  }
  const high = readWordsHead(from, n);
  if (high.kind === planeIs.frame) placeHigh(high.base | 0, high.shift, n);
  else placeHighDeltas(high.base | 0, high.shift, n);
  const low = readWordsHead(from, n);
  if (low.kind === planeIs.frame) placePairs(low.base | 0, low.shift, n);
  else placePairDeltas(low.base | 0, low.shift, n);
  into.set(firstPlaced(n), at); // as bytes: a NaN keeps its payload
}

function placeHigh(base: number, shift: number, n: number): void {
  for (let i = 0; i < n; i++) highWords[i] = (base + (narrowSteps[i] << shift)) | 0;
}

function placeHighDeltas(base: number, shift: number, n: number): void {
  let word = base;
  for (let i = 0; i < n; i++) {
    const z = narrowSteps[i];
    word = (word + (((z >>> 1) ^ -(z & 1)) << shift)) | 0;
    highWords[i] = word;
  }
}

/** The low words, each with the high one that is there already. */
function placePairs(base: number, shift: number, n: number): void {
  for (let i = 0, k = 0; i < n; i++, k += 2) {
    placedWords[k] = (base + (narrowSteps[i] << shift)) | 0;
    placedWords[k + 1] = highWords[i];
  }
}

function placePairDeltas(base: number, shift: number, n: number): void {
  let word = base;
  for (let i = 0, k = 0; i < n; i++, k += 2) {
    const z = narrowSteps[i];
    word = (word + (((z >>> 1) ^ -(z & 1)) << shift)) | 0;
    placedWords[k] = word;
    placedWords[k + 1] = highWords[i];
  }
}

/** Reads the head of a plane, and unpacks its words. Throws BlockError. */
function readWordsHead(
  from: BlockReader,
  n: number,
): { readonly kind: number; readonly shift: number; readonly base: number } {
  const kind = from.byte();
  const shift = from.byte();
  if (kind > planeIs.delta || shift > 31)
    throw new BlockError(`words of kind ${kind}, shifted by ${shift}, are not known`, from.at - 2);
  const base = from.varint();
  if (readGroups(from, n, false)) throw new BlockError("a word has more than 32 bits", from.at);
  return { kind, shift, base };
}

/** How many of the first `bits` bits are set. */
function countBits(bytes: Uint8Array, at: number, bits: number): number {
  const whole = at + (bits >>> 3);
  let count = 0;
  for (let i = at; i < whole; i++) count += onesOf[bytes[i]];
  return (bits & 7) === 0 ? count : count + onesOf[bytes[whole] & ((1 << (bits & 7)) - 1)];
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
  if (m > usual && longer.length < m + groupSize) longer = new Uint32Array(m + groupSize);
  if (wide && items.length < m + groupSize) items = new Float64Array(m + groupSize);
  if (wordBytes.length < length + 256) {
    words = new Uint32Array((length >>> 2) + 128);
    wordBytes = new Uint8Array(words.buffer);
  }
  from.copy(wordBytes, length);
  const w = words;
  const u = m > usual ? longer : narrow;
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
