import { BlockError, BlockReader, BlockWriter } from "./cursor.ts";
import { readIntegers } from "./read-integers.ts";
import { writeIntegers } from "./write-integers.ts";
import { readValues, writeValues } from "./values.ts";

/**
 * A row block: some rows (answers) of lanes (series) that share their times, in memory only, shared with worker
 * threads. It is plain while memory allows
 * (8 bytes a sample, read at the speed of memory), packed afterwards (1 to 3 bytes); lanes are packed one by one, so
 * that one can be read alone.
 *
 * Plain: rows, lanes, 1, what all values are (0: some are absent; 1: none is; 2: none is NaN either; 32-bit words); the
 * times; the lanes' values one after the other, as float64.
 * Packed: rows, lanes, 0, where each lane starts, where the last one ends (words); times, lanes. A lane: 0 and all its
 * values; 1 where it has
 * none; 2, a bitmap of the rows in which it has one, and those values.
 */
const laneIs = { full: 0, empty: 1, partial: 2 } as const;

/**
 * The bit pattern that stands for "no value" in an open row block: a quiet NaN that no computation makes. A sample with
 * this very pattern must be kept elsewhere.
 */
export const absentHigh = 0x7ffcdead;
export const absentLow = 0xbeef7373;

const out = new BlockWriter();
const reader = new BlockReader(new Uint8Array(0));
let present = new Float64Array(64);

/** A plain row block of `rows` rows, which stand one after the other: `matrix[row * lanes + lane]`. */
export function plainRowBlock(timeMs: Float64Array, rows: number, matrix: Float64Array, lanes: number): Uint8Array {
  const rowBlock = new Uint8Array(new SharedArrayBuffer(16 + (rows + lanes * rows) * 8));
  const numbers = new Float64Array(rowBlock.buffer, 16);
  numbers.set(timeMs.subarray(0, rows));
  const areFinite = turnRows(matrix, lanes, rows, numbers.subarray(rows));
  const words = new Uint32Array(rowBlock.buffer);
  words.set([rows, lanes, 1, !areFinite && hasNaN(numbers, rows) ? (hasAbsent(words, 4 + rows * 2) ? 0 : 1) : 2]);
  return rowBlock;
}

/** Lanes of a cache line: what is read at once is written before it is forgotten. */
const lanesAtOnce = 8;

/**
 * Rows to lanes: `into[i * rows + row]` becomes `matrix[row * lanes + wanted[i]]`, of all lanes where none are named. A
 * quiet NaN that is only moved keeps its payload. Answers whether all of them are finite.
 */
export function turnRows(
  matrix: Float64Array,
  lanes: number,
  rows: number,
  into: Float64Array,
  wanted?: Int32Array,
): boolean {
  const count = wanted?.length ?? lanes;
  let odd = 0; // NaN as soon as one is not finite
  for (let first = 0; first < count; first += lanesAtOnce) {
    const end = Math.min(count, first + lanesAtOnce);
    for (let row = 0; row < rows; row++) {
      const from = row * lanes;
      for (let i = first, at = first * rows + row; i < end; i++, at += rows) {
        const v = matrix[from + (wanted ? wanted[i] : i)];
        into[at] = v;
        odd += v - v;
      }
    }
  }
  return odd === 0;
}

function hasNaN(numbers: Float64Array, from: number): boolean {
  for (let i = from; i < numbers.length; i++) if (Number.isNaN(numbers[i])) return true;
  return false;
}

function hasAbsent(words: Uint32Array, from: number): boolean {
  for (let i = from + 1; i < words.length; i += 2)
    if (words[i] === absentHigh && words[i - 1] === absentLow) return true;
  return false;
}

/** Packs a plain row block. */
export function packRowBlock(plain: Uint8Array): Uint8Array {
  const { rows, words, numbers } = viewRowBlock(plain);
  const values = (numbers as Float64Array).subarray(rows);
  return writeRowBlock((numbers as Float64Array).subarray(0, rows), rows, values, words[1], rows);
}

/** Packs `rows` rows: lane `k` has its values at `matrix[k * stride ..]`. */
function writeRowBlock(
  timeMs: Float64Array,
  rows: number,
  matrix: Float64Array,
  lanes: number,
  stride: number,
): Uint8Array {
  if (present.length < rows) present = new Float64Array(rows);
  const bits = new Uint32Array(matrix.buffer, matrix.byteOffset, matrix.length * 2);
  const starts = new Uint32Array(lanes + 4);
  starts[0] = rows;
  starts[1] = lanes;
  out.clear();
  writeIntegers(out, timeMs, rows);
  for (let k = 0; k < lanes; k++) {
    starts[k + 3] = starts.byteLength + out.length;
    const at = k * stride;
    let count = 0;
    for (let i = 0; i < rows; i++) {
      if (bits[2 * (at + i) + 1] === absentHigh && bits[2 * (at + i)] === absentLow) continue;
      present[count++] = matrix[at + i];
    }
    if (count === rows) {
      out.byte(laneIs.full);
      writeValues(out, matrix, at, rows);
    } else if (count === 0) out.byte(laneIs.empty);
    else writePartial(bits, matrix, at, rows, count);
  }
  starts[lanes + 3] = starts.byteLength + out.length;
  const rowBlock = new Uint8Array(new SharedArrayBuffer(starts.byteLength + out.length));
  rowBlock.set(new Uint8Array(starts.buffer));
  rowBlock.set(out.finish(), starts.byteLength);
  return rowBlock;
}

function writePartial(bits: Uint32Array, matrix: Float64Array, at: number, rows: number, count: number): void {
  out.byte(laneIs.partial);
  const from = new Uint32Array(matrix.buffer, matrix.byteOffset, matrix.length * 2);
  const into = new Uint32Array(present.buffer);
  let byte = 0;
  let k = 0;
  for (let i = 0; i < rows; i++) {
    const low = 2 * (at + i);
    if (bits[low + 1] !== absentHigh || bits[low] !== absentLow) {
      byte |= 1 << (i & 7);
      into[2 * k] = from[low]; // as words: a NaN keeps its payload
      into[2 * k++ + 1] = from[low + 1];
    }
    if ((i & 7) === 7 || i === rows - 1) {
      out.byte(byte);
      byte = 0;
    }
  }
  writeValues(out, present, 0, count);
}

/** A row block that is being read. */
export interface RowBlockView {
  readonly bytes: Uint8Array;
  readonly words: Uint32Array;
  readonly rows: number;
  /** Of a plain row block: its times, then its lanes. */
  readonly numbers: Float64Array | undefined;
  /** Of a plain row block: no value is absent or NaN. */
  readonly allNumbers: boolean;
}

/** Opens a row block for reading lanes. */
export function viewRowBlock(bytes: Uint8Array): RowBlockView {
  const words = new Uint32Array(bytes.buffer, bytes.byteOffset, bytes.byteLength >>> 2);
  return {
    bytes,
    words,
    rows: words[0],
    numbers: words[2] === 1 ? new Float64Array(bytes.buffer, bytes.byteOffset + 16) : undefined,
    allNumbers: words[2] === 1 && words[3] === 2,
  };
}

/** Reads the times into `into[at..at + rows)`. */
export function readRowBlockTimes({ bytes, words, rows, numbers }: RowBlockView, into: Float64Array, at: number): void {
  if (numbers) into.set(numbers.subarray(0, rows), at);
  else readIntegers(reader.open(bytes, (words[1] + 4) * 4), into, at, rows);
}

/**
 * Reads a lane into `into[at..]` and answers how many rows it has: where that is fewer than the row block's rows, their
 * numbers
 * are put into `rowNumbers`.
 */
export function readRowBlockLane(
  { bytes, words, rows, numbers }: RowBlockView,
  lane: number,
  into: Float64Array,
  at: number,
  rowNumbers: Uint16Array,
): number {
  if (lane >= words[1]) throw new BlockError(`the row block has no lane ${lane}`, 4);
  if (numbers)
    return words[3] !== 0
      ? copyLane(numbers, rows + lane * rows, rows, into, at)
      : copyPresent(numbers, words, rows + lane * rows, rows, into, at, rowNumbers);
  reader.open(bytes, words[lane + 3], words[lane + 4]);
  const kind = reader.byte();
  if (kind === laneIs.full) {
    readValues(reader, into, at, rows);
    return rows;
  }
  if (kind === laneIs.empty) return 0;
  const bitmap = reader.skip((rows + 7) >>> 3);
  let count = 0;
  for (let i = 0; i < rows; i++) if ((bytes[bitmap + (i >>> 3)] >>> (i & 7)) & 1) rowNumbers[count++] = i;
  readValues(reader, into, at, count);
  return count;
}

/** A loop, for pieces of 64 numbers: making a view for `set` costs more than copying them. */
function copyLane(numbers: Float64Array, from: number, rows: number, into: Float64Array, at: number): number {
  for (let i = 0; i < rows; i++) into[at + i] = numbers[from + i];
  return rows;
}

function copyPresent(
  numbers: Float64Array,
  words: Uint32Array,
  from: number,
  rows: number,
  into: Float64Array,
  at: number,
  rowNumbers: Uint16Array,
): number {
  let count = 0;
  for (let i = 0; i < rows; i++) {
    const word = 4 + 2 * (from + i);
    if (words[word + 1] === absentHigh && words[word] === absentLow) continue;
    rowNumbers[count] = i;
    into.set(numbers.subarray(from + i, from + i + 1), at + count++); // as bytes: a NaN keeps its payload
  }
  return count;
}
