import { BlockError, BlockReader, BlockWriter } from "./cursor.ts";
import { readIntegers, writeIntegers } from "./integers.ts";
import { readValues, writeValues } from "./values.ts";

/**
 * A frame: some rows (answers) of lanes (series) that share their times, in memory only. Lanes are packed one by one, so that one can be read alone.
 * Layout: rows and lanes as 32-bit words, where each lane starts (words), where the last one ends, times, lanes. A lane: 0 and all its values; 1 where it has
 * none; 2, a bitmap of the rows in which it has one, and those values.
 */
const laneIs = { full: 0, empty: 1, partial: 2 } as const;

/** The bit pattern that stands for "no value" in an open frame: a NaN that no computation makes. A sample with this very pattern must be kept elsewhere. */
export const absentHigh = 0x7ff4dead;
export const absentLow = 0xbeef7373;

const out = new BlockWriter();
const reader = new BlockReader(new Uint8Array(0));
let present = new Float64Array(64);

/** Packs `rows` rows: lane `k` has its values at `matrix[k * stride ..]`. The bytes are in shared memory, for worker threads. */
export function writeFrame(timeMs: Float64Array, rows: number, matrix: Float64Array, lanes: number, stride: number): Uint8Array {
  if (present.length < rows) present = new Float64Array(rows);
  const bits = new Uint32Array(matrix.buffer, matrix.byteOffset, matrix.length * 2);
  const starts = new Uint32Array(lanes + 3);
  starts[0] = rows;
  starts[1] = lanes;
  out.clear();
  writeIntegers(out, timeMs, rows);
  for (let k = 0; k < lanes; k++) {
    starts[k + 2] = starts.byteLength + out.length;
    const at = k * stride;
    let count = 0;
    for (let i = 0; i < rows; i++) {
      if (bits[2 * (at + i) + 1] === absentHigh && bits[2 * (at + i)] === absentLow) continue;
      present[count++] = matrix[at + i] as number;
    }
    if (count === rows) {
      out.byte(laneIs.full);
      writeValues(out, matrix, at, rows);
    } else if (count === 0) out.byte(laneIs.empty);
    else writePartial(bits, matrix, at, rows, count);
  }
  starts[lanes + 2] = starts.byteLength + out.length;
  const frame = new Uint8Array(new SharedArrayBuffer(starts.byteLength + out.length));
  frame.set(new Uint8Array(starts.buffer));
  frame.set(out.finish(), starts.byteLength);
  return frame;
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
      into[2 * k] = from[low] as number; // as words: a NaN keeps its payload
      into[2 * k++ + 1] = from[low + 1] as number;
    }
    if ((i & 7) === 7 || i === rows - 1) {
      out.byte(byte);
      byte = 0;
    }
  }
  writeValues(out, present, 0, count);
}

export function frameRows(frame: Uint8Array): number {
  return wordsOf(frame)[0] as number;
}

/** Reads the times into `into[at..at + rows)`. */
export function readFrameTimes(frame: Uint8Array, into: Float64Array, at: number): void {
  const words = wordsOf(frame);
  const lanes = words[1] as number;
  readIntegers(reader.open(frame, (lanes + 3) * 4), into, at, words[0] as number);
}

/**
 * Reads a lane into `into[at..]` and answers how many rows it has: where that is fewer than the frame's rows, their numbers
 * are put into `rowNumbers`.
 */
export function readFrameLane(frame: Uint8Array, lane: number, into: Float64Array, at: number, rowNumbers: Uint16Array): number {
  const words = wordsOf(frame);
  const rows = words[0] as number;
  if (lane >= (words[1] as number)) throw new BlockError(`the frame has no lane ${lane}`, 4);
  reader.open(frame, words[lane + 2] as number, words[lane + 3] as number);
  const kind = reader.byte();
  if (kind === laneIs.empty) return 0;
  if (kind === laneIs.full) {
    readValues(reader, into, at, rows);
    return rows;
  }
  const bitmap = reader.skip((rows + 7) >>> 3);
  let count = 0;
  for (let i = 0; i < rows; i++) if (((frame[bitmap + (i >>> 3)] as number) >>> (i & 7)) & 1) rowNumbers[count++] = i;
  readValues(reader, into, at, count);
  return count;
}

function wordsOf(frame: Uint8Array): Uint32Array {
  return new Uint32Array(frame.buffer, frame.byteOffset, frame.byteLength >>> 2);
}
