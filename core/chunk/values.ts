import { BlockError, type BlockReader, type BlockWriter } from "./cursor.ts";
import { largestInteger } from "./integers-layout.ts";
import { readIntegers, readWordPairs } from "./read-integers.ts";
import { writeIntegers, writeWords } from "./write-integers.ts";

/**
 * How a column of float64 is written:
 *  - constant: the eight bytes once
 *  - integers: value = (base + step · 2^shift) / 10^decimals, exactly; `step` packed as integers
 *  - patched: the same, and a list of places whose eight bytes stand as they are (NaN, infinities, odd ones out)
 *  - planes: the high words of the numbers, then the low words, each packed; any bit pattern
 */
const kinds = { constant: 0, integers: 1, patched: 2, planes: 3 } as const;
const mostDecimals = 9;
/** One odd number in this many may be patched; with more, planes are smaller. */
const patchShare = 16;

export const powersOfTen: readonly number[] = Array.from({ length: mostDecimals + 1 }, (_, k) => 10 ** k);

let steps = new Float64Array(1024);
const patches: number[] = [];

/** Writes `values[at..at + n)`, n ≥ 1. Every bit pattern comes back as it was. */
export function writeValues(out: BlockWriter, values: Float64Array, at: number, n: number): void {
  if (steps.length < n) steps = new Float64Array(n * 2);
  if (isConstant(values, at, n)) {
    out.byte(kinds.constant);
    out.float64From(values, at);
    return;
  }
  for (let decimals = 0; decimals <= mostDecimals; decimals++) {
    if (!scale(values, at, n, decimals)) continue;
    out.byte(patches.length > 0 ? kinds.patched : kinds.integers);
    out.byte(decimals);
    writeSteps(out, n);
    if (patches.length === 0) return;
    out.varint(patches.length);
    let before = 0;
    for (const i of patches) {
      out.varint(i - before);
      before = i;
      out.float64From(values, at + i);
    }
    return;
  }
  out.byte(kinds.planes);
  const bits = new Uint32Array(values.buffer, values.byteOffset + at * 8, n * 2);
  writeWords(out, bits, 1, n);
  writeWords(out, bits, 0, n);
}

/** Reads `n` values into `into[at..at + n)`. Throws BlockError. */
export function readValues(from: BlockReader, into: Float64Array, at: number, n: number): void {
  const kind = from.byte();
  if (kind === kinds.constant) {
    from.float64s(into.subarray(at, at + 1), 1);
    const v = into[at];
    if (!Number.isNaN(v)) into.fill(v, at, at + n);
    else
      new BigUint64Array(into.buffer, into.byteOffset + at * 8, n).fill(
        new BigUint64Array(into.buffer, into.byteOffset + at * 8, 1)[0] as bigint,
      );
  } else if (kind === kinds.integers || kind === kinds.patched) {
    const decimals = from.byte();
    if (decimals > mostDecimals) throw new BlockError(`${decimals} decimals are too many`, from.at - 1);
    readSteps(from, into, at, n, powersOfTen[decimals]);
    if (kind === kinds.patched) readPatches(from, into, at, n);
  } else if (kind === kinds.planes) readWordPairs(from, into, at, n);
  else throw new BlockError(`values of kind ${kind} are not known`, from.at - 1);
}

function readPatches(from: BlockReader, into: Float64Array, at: number, n: number): void {
  const count = from.count(9);
  let i = 0;
  for (let k = 0; k < count; k++) {
    i += from.varint();
    if (i >= n) throw new BlockError(`a number stands at ${i}, there are ${n}`, from.at);
    from.float64s(into.subarray(at + i, at + i + 1), 1);
  }
}

/** Compared as bits, so that −0, 0 and the many NaN stay apart. */
function isConstant(values: Float64Array, at: number, n: number): boolean {
  const first = values[at];
  if (!Number.isNaN(first) && first !== 0) {
    for (let i = at + n - 1; i > at; i--) if (values[i] !== first) return false;
    return true;
  }
  const bits = new Uint32Array(values.buffer, values.byteOffset + at * 8, n * 2);
  for (let i = 2; i < 2 * n; i += 2) if (bits[i] !== bits[0] || bits[i + 1] !== bits[1]) return false;
  return true;
}

/**
 * Puts the values times 10^decimals into `steps` and the places that are not exactly so into `patches`; false with too
 * many of those.
 */
function scale(values: Float64Array, at: number, n: number, decimals: number): boolean {
  const factor = powersOfTen[decimals];
  const most = n / patchShare;
  patches.length = 0;
  let before = 0;
  for (let i = 0; i < n; i++) {
    const v = values[at + i];
    const step = decimals === 0 ? v : Math.round(v * factor);
    // −0 is told from 0 by its reciprocal; NaN and infinities fail the first test or the second.
    const exact = decimals === 0 ? Number.isInteger(v) : step / factor === v;
    if (exact && step <= largestInteger && step >= -largestInteger && (step !== 0 || 1 / v > 0)) before = step;
    else {
      if (patches.push(i) > most) return false;
    }
    steps[i] = before;
  }
  // What stands before the first good one would make a large difference of it.
  if (patches[0] === 0) for (let i = 0, first = firstGood(); i < first; i++) steps[i] = steps[first];
  return true;
}

function firstGood(): number {
  let i = 0;
  while (patches[i] === i) i++;
  return i;
}

/** Low bits that no difference has (memory in pages of 4096 bytes) are dropped; `steps` is overwritten. */
function writeSteps(out: BlockWriter, n: number): void {
  const base = steps[0];
  let any = 0;
  for (let i = 1; i < n; i++) any |= steps[i] - base;
  const shift = any === 0 ? 0 : 31 - Math.clz32(any & -any);
  out.byte(shift);
  if (shift > 0) {
    out.zigzag(base);
    const unit = 2 ** shift;
    for (let i = 0; i < n; i++) steps[i] = (steps[i] - base) / unit;
  }
  writeIntegers(out, steps, n);
}

function readSteps(from: BlockReader, into: Float64Array, at: number, n: number, per: number): void {
  const shift = from.byte();
  if (shift > 31) throw new BlockError(`a shift of ${shift} bits is too large`, from.at - 1);
  if (shift === 0) readIntegers(from, into, at, n, 0, 1, per);
  else readIntegers(from, into, at, n, from.zigzag(), 2 ** shift, per);
}

/** Writes one number in few bytes: whole and decimal ones as a variable-length integer. */
export function writeNumber(out: BlockWriter, v: number): void {
  for (let decimals = 0; decimals <= 4; decimals++) {
    const factor = powersOfTen[decimals];
    const step = Math.round(v * factor);
    if (step / factor === v && Math.abs(step) <= largestInteger && (step !== 0 || 1 / v > 0)) {
      out.byte(decimals);
      out.zigzag(step);
      return;
    }
  }
  out.byte(8);
  out.float64(v);
}

/** Reads what writeNumber wrote; `form` is its first byte. */
export function readNumber(from: BlockReader, form = from.byte()): number {
  if (form === 8) return from.float64();
  if (form > 4) throw new BlockError(`a number of form ${form} is not known`, from.at - 1);
  return from.zigzag() / powersOfTen[form];
}
