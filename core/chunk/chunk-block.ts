import type { Column } from "../series/batch.ts";
import { BlockError, BlockReader, BlockWriter } from "./cursor.ts";
import { readIntegers } from "./read-integers.ts";
import { writeIntegers } from "./write-integers.ts";
import { readNumber, readValues, writeNumber, writeValues } from "./values.ts";

const version = 2;
const timesAre = { inside: 0, shared: 1 } as const;
/** Whole milliseconds of two hours: no chunk holds more, so a block that claims more is none. */
const mostSamples = 7_200_000;

/** What a chunk says of its values without being decoded. NaN values are left out of all but `count`. */
export interface ChunkSummary {
  readonly count: number;
  /** How many values are numbers; where it is 0, the rest is NaN. */
  readonly numbers: number;
  readonly sum: number;
  readonly min: number;
  readonly max: number;
  readonly first: number;
  readonly last: number;
}

/** In place of the form of the largest number: the values are constant. */
const asTheLeast = 9;

const out = new BlockWriter();
const reader = new BlockReader(new Uint8Array(0));

/**
 * Packs the samples of one series and slot: version, count, summary, times, values. Times are whole milliseconds and
 * ascend. With
 * `sharedTimes` they are left out: series of one source share them, and they are kept once as a block of
 * `writeTimesBlock`.
 */
export function writeChunkBlock({ timeMs, value }: Column, sharedTimes = false): Uint8Array {
  const count = timeMs.length;
  out.clear();
  out.byte(version);
  out.varint(count);
  if (count > 0) {
    writeSummary(summarise(value));
    out.byte(sharedTimes ? timesAre.shared : timesAre.inside);
    if (!sharedTimes) writeIntegers(out, timeMs, count);
    writeValues(out, value, 0, count);
  }
  return out.finish();
}

/**
 * The samples that the block at `bytes[start..end)` claims to hold; the claim is checked against what a slot can hold.
 */
export function chunkCount(bytes: Uint8Array, start = 0, end = bytes.length): number {
  return readHead(reader.open(bytes, start, end));
}

/** The summary, without decoding times or values. Throws BlockError. */
export function readChunkSummary(bytes: Uint8Array, start = 0, end = bytes.length): ChunkSummary {
  const count = readHead(reader.open(bytes, start, end));
  return count === 0 ? emptySummary : { ...readSummary(reader), count };
}

/**
 * Unpacks a block into arrays of the caller from index `at` on and gives the number of samples. Where times are shared,
 * `times` must
 * hold them; without `timeInto` they are not copied. Throws BlockError, with the position, for a block that is cut
 * short, hostile or of another version, and for arrays that are too short.
 */
export function readChunkInto(
  bytes: Uint8Array,
  start: number,
  end: number,
  times: Float64Array | undefined,
  timeInto: Float64Array | undefined,
  valueInto: Float64Array,
  at: number,
): number {
  const count = readHead(reader.open(bytes, start, end));
  if (at + count > valueInto.length || (timeInto && at + count > timeInto.length))
    throw new BlockError(`${count} samples are claimed, there is room for ${valueInto.length - at}`, 1);
  if (count > 0) {
    readSummary(reader);
    const kind = reader.byte();
    if (kind === timesAre.inside) {
      if (!timeInto) throw new BlockError("the block has times of its own, and nowhere to put them", reader.at - 1);
      readIntegers(reader, timeInto, at, count);
    } else if (kind === timesAre.shared) {
      if (times?.length !== count)
        throw new BlockError(
          `the block shares its times, but ${times?.length ?? 0} are given for ${count} samples`,
          reader.at,
        );
      timeInto?.set(times, at);
    } else throw new BlockError(`times of kind ${kind} are not known`, reader.at - 1);
    readValues(reader, valueInto, at, count);
  }
  reader.end();
  return count;
}

/** Unpacks a block whole. Throws BlockError. */
export function readChunkBlock(bytes: Uint8Array, times?: Float64Array): Column {
  const count = chunkCount(bytes);
  const column = { timeMs: new Float64Array(count), value: new Float64Array(count) };
  readChunkInto(bytes, 0, bytes.length, times, column.timeMs, column.value, 0);
  return column;
}

/** Packs times that several chunks share. */
export function writeTimesBlock(timeMs: Float64Array): Uint8Array {
  out.clear();
  out.byte(version);
  out.varint(timeMs.length);
  if (timeMs.length > 0) writeIntegers(out, timeMs, timeMs.length);
  return out.finish();
}

/** Unpacks what `writeTimesBlock` packed. Throws BlockError. */
export function readTimesBlock(bytes: Uint8Array, start = 0, end = bytes.length): Float64Array {
  const timeMs = new Float64Array(readHead(reader.open(bytes, start, end)));
  if (timeMs.length > 0) readIntegers(reader, timeMs, 0, timeMs.length);
  reader.end();
  return timeMs;
}

function readHead(from: BlockReader): number {
  const found = from.byte();
  if (found !== version) throw new BlockError(`version ${found} is not known, ${version} is`, 0);
  const at = from.at;
  const count = from.varint();
  if (count > mostSamples || (count > 0 && from.remaining === 0))
    throw new BlockError(`${count} entries are claimed, ${from.remaining} bytes remain`, at);
  return count;
}

const emptySummary: ChunkSummary = {
  count: 0,
  numbers: 0,
  sum: Number.NaN,
  min: Number.NaN,
  max: Number.NaN,
  first: Number.NaN,
  last: Number.NaN,
};

/** The sum is compensated (Neumaier 1974): it stands for samples that may be gone later. */
function summarise(value: Float64Array): ChunkSummary {
  let numbers = 0;
  let sum = 0;
  let lost = 0;
  let min = Number.POSITIVE_INFINITY;
  let max = Number.NEGATIVE_INFINITY;
  let first = Number.NaN;
  let last = Number.NaN;
  for (let i = 0; i < value.length; i++) {
    const v = value[i];
    if (Number.isNaN(v)) continue;
    const next = sum + v;
    lost += Math.abs(sum) >= Math.abs(v) ? sum - next + v : v - next + sum;
    sum = next;
    if (v < min) min = v;
    if (v > max) max = v;
    if (numbers++ === 0) first = v;
    last = v;
  }
  return { count: value.length, numbers, sum: Number.isFinite(lost) ? sum + lost : sum, min, max, first, last };
}

function writeSummary(summary: ChunkSummary): void {
  out.varint(summary.numbers);
  if (summary.numbers === 0) return;
  writeNumber(out, summary.sum);
  writeNumber(out, summary.min);
  if (summary.max === summary.min) {
    out.byte(asTheLeast);
    return;
  }
  writeNumber(out, summary.max);
  writeNumber(out, summary.first);
  writeNumber(out, summary.last);
}

function readSummary(from: BlockReader): Omit<ChunkSummary, "count"> {
  const numbers = from.varint();
  if (numbers === 0) return emptySummary;
  const sum = readNumber(from);
  const min = readNumber(from);
  const form = from.byte();
  if (form === asTheLeast) return { numbers, sum, min, max: min, first: min, last: min };
  return { numbers, sum, min, max: readNumber(from, form), first: readNumber(from), last: readNumber(from) };
}
