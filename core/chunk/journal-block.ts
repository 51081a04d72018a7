import type { Batch, Runs } from "../series/batch.ts";
import { BlockError, BlockReader, BlockWriter } from "./cursor.ts";
import { pageBytes, readValues, tags } from "./journal-values.ts";
import { powersOfTen } from "./values.ts";

/**
 * Blocks of the journal belong to a segment and are read in the order in which they were written: a value is written as
 * its difference
 * from the series' last one in the segment, which takes 1 to 3 bytes for most. A segment starts from nothing, so that
 * it needs no other.
 *
 * Layout: version, number of samples, then runs of samples that share a time. A run: 0 and a new list of ids (their
 * number, then gaps),
 * or 1 + the place of a list written before; the time's difference from the run before; the values. A value is a varint
 * whose two low bits say
 * what stands above them: 0 a whole difference, 1 a difference in hundredths, 2 a difference in pages of 4096, 3 the
 * number of decimals
 * of a difference that follows, or none and the eight bytes.
 */
const version = 2;
/** Lists of ids that a segment remembers; the oldest gives way. */
const mostShapes = 256;
/** Numbers up to this size, and their differences times four, stay exact. */
const largest = 2 ** 48;

/** What writer and reader of a segment both know. */
class SegmentState {
  last = new Float64Array(256);
  lastTimeMs = 0;
  readonly shapes: Uint32Array[] = [];
  #next = 0;

  remember(ids: Uint32Array): void {
    this.shapes[this.#next] = ids;
    this.#next = (this.#next + 1) % mostShapes;
  }

  /** Makes room for the value of a series. Ids come from the store and are dense. */
  reach(id: number): void {
    if (id < this.last.length) return;
    const larger = new Float64Array(Math.max(id + 1, this.last.length * 2));
    larger.set(this.last);
    this.last = larger;
  }
}

const out = new BlockWriter();

/** Writes the blocks of one segment. */
export class JournalSegmentWriter {
  readonly #state = new SegmentState();
  #shape = 0;

  write(batch: Batch): Uint8Array {
    const { series, timeMs, length } = batch;
    out.clear();
    out.byte(version);
    out.varint(length);
    let at = 0;
    while (at < length) {
      const time = timeMs[at];
      let end = at + 1;
      while (end < length && timeMs[end] === time) end++;
      this.#writeShape(series, at, end);
      out.zigzag(time - this.#state.lastTimeMs);
      this.#state.lastTimeMs = time;
      this.#writeValues(batch, at, end);
      at = end;
    }
    return out.finish();
  }

  /** Sources answer in turns, so the list that followed last time is tried before all others. */
  #writeShape(series: Uint32Array, at: number, end: number): void {
    const { shapes } = this.#state;
    for (let k = 0; k < shapes.length; k++) {
      const place = (this.#shape + 1 + k) % shapes.length;
      const shape = shapes[place] as Uint32Array;
      if (shape.length !== end - at || shape[0] !== series[at]) continue;
      let i = at;
      while (i < end && shape[i - at] === series[i]) i++;
      if (i < end) continue;
      this.#shape = place;
      out.varint(place + 1);
      return;
    }
    const ids = series.slice(at, end);
    out.varint(0);
    out.varint(ids.length);
    let before = 0;
    let highest = 0;
    for (let i = 0; i < ids.length; i++) {
      const id = ids[i];
      out.zigzag(id - before);
      before = id;
      if (id > highest) highest = id;
    }
    this.#state.reach(highest);
    this.#state.remember(ids);
  }

  /** The loop that every sample goes through: bytes are put straight into the writer's memory. */
  #writeValues({ series, value }: Batch, start: number, end: number): void {
    const { last } = this.#state;
    const bytes = out.reserve((end - start) * mostBytes);
    let at = out.length;
    for (let i = start; i < end; i++) {
      const id = series[i];
      const v = value[i];
      const before = last[id];
      last[id] = v;
      let code: number;
      if (v === before && v !== 0) code = 0;
      else if (isWhole(v) && isWhole(before)) {
        const step = v - before;
        // The low bits of a whole number of up to 2^53 survive "&"; "%" of float64 takes longer than all the rest.
        code =
          (step & (pageBytes - 1)) === 0
            ? signedLow(step / pageBytes) * 4 + tags.pages
            : signedLow(step) * 4 + tags.whole;
      } else {
        code = hundredths(v, before);
        if (code < 0) {
          at = writeOther(bytes, at, value, i, before);
          continue;
        }
      }
      at = putVarint(bytes, at, code);
    }
    out.wrote(at);
  }
}

/** Bytes of a value at most: a tag and eight bytes, or a tag and a varint. */
const mostBytes = 10;

/** Reads the blocks of one segment, in their order. */
export class JournalSegmentReader {
  readonly #state = new SegmentState();

  /**
   * The samples of a block, their values in the memory of `room` where that is large enough. Throws BlockError, with the
   * position, for a block that is cut short, hostile, of another version, or read out of its order where that shows.
   */
  read(bytes: Uint8Array, room?: Float64Array): Runs {
    const state = this.#state;
    const from = new BlockReader(bytes);
    if (from.byte() !== version) throw new BlockError(`version ${bytes[0]} is not known, ${version} is`, 0);
    const length = from.count(1);
    const series: Uint32Array[] = [];
    const timeMs: number[] = [];
    const value = room && room.length >= length ? room : new Float64Array(length);
    let at = 0;
    while (at < length) {
      const shape = this.#readShape(from);
      if (shape.length === 0 || at + shape.length > length)
        throw new BlockError(`a run of ${shape.length} rows where ${length - at} are left`, from.at);
      state.lastTimeMs += from.zigzag();
      series.push(shape);
      timeMs.push(state.lastTimeMs);
      readValues(from, state.last, shape, value, at);
      at += shape.length;
    }
    from.end();
    return { series, timeMs, value, length };
  }

  #readShape(from: BlockReader): Uint32Array {
    const start = from.at;
    const place = from.varint();
    if (place > 0) {
      const known = this.#state.shapes[place - 1];
      if (!known) throw new BlockError(`the list of ids ${place} has not been read in this segment`, start);
      return known;
    }
    const ids = new Uint32Array(from.count(1));
    let id = 0;
    let highest = 0;
    for (let i = 0; i < ids.length; i++) {
      id += from.zigzag();
      if (!(id >= 0 && id <= mostId)) throw new BlockError(`series id ${id} is out of range`, from.at);
      ids[i] = id;
      if (id > highest) highest = id;
    }
    this.#state.reach(highest);
    this.#state.remember(ids);
    return ids;
  }
}

/** Ids are counted up from 1 by the database; a block that claims more than a hundred million is damaged. */
const mostId = 1e8;

/**
 * The code of a difference in hundredths; −1 where that is not exact. What is read back must be the very number,
 * whatever stood before.
 */
function hundredths(v: number, before: number): number {
  const step = Math.round(v * 100);
  const from = Math.round(before * 100);
  if (
    step / 100 !== v ||
    (step === 0 && 1 / v < 0) ||
    !(step < largest && step > -largest && from < largest && from > -largest)
  )
    return -1;
  return signedLow(step - from) * 4 + tags.hundredths;
}

/** Four or six decimals, or the eight bytes. Answers where the next value begins. */
function writeOther(bytes: Uint8Array, start: number, value: Float64Array, i: number, before: number): number {
  const v = value[i];
  let at = start;
  // What is exact with four decimals is with six: most numbers of full precision fail one test.
  if (Math.round(v * 1e6) / 1e6 === v) {
    for (let decimals = 4; decimals <= 6; decimals += 2) {
      const factor = powersOfTen[decimals];
      const step = Math.round(v * factor);
      const from = Math.round(before * factor);
      if (step / factor !== v || (step === 0 && 1 / v < 0) || !(Math.abs(step) < largest && Math.abs(from) < largest))
        continue;
      bytes[at++] = decimals * 4 + tags.other;
      return putVarint(bytes, at, signedLow(step - from));
    }
  }
  bytes[at++] = tags.other;
  if (Number.isNaN(v))
    bytes.set(new Uint8Array(value.buffer, value.byteOffset + i * 8, 8), at); // keeps its payload
  else {
    eight[0] = v;
    for (let k = 0; k < 8; k++) bytes[at + k] = eightBytes[k];
  }
  return at + 8;
}

const eight = new Float64Array(1);
const eightBytes = new Uint8Array(eight.buffer);

function putVarint(bytes: Uint8Array, start: number, value: number): number {
  let at = start;
  let rest = value;
  while (rest > 0x7fffffff) {
    bytes[at++] = (rest % 0x80) | 0x80;
    rest = Math.floor(rest / 0x80);
  }
  while (rest >= 0x80) {
    bytes[at++] = (rest & 0x7f) | 0x80;
    rest >>>= 7;
  }
  bytes[at++] = rest;
  return at;
}

function isWhole(v: number): boolean {
  return v < largest && v > -largest && Math.floor(v) === v && (v !== 0 || 1 / v > 0);
}

function signedLow(v: number): number {
  return v < 0 ? -2 * v - 1 : 2 * v;
}
