import type { Column } from "../series/batch.ts";
import { BlockError, BlockReader, BlockWriter } from "./cursor.ts";

const version = 1;
const valuesAre = { constant: 0, whole: 1, plain: 2 } as const;
/** Differences of numbers up to this size stay exact, and their zigzag form below 2^53. */
const largestWhole = 2 ** 50;

/**
 * Packs a column of one series: version, count, times as zigzag deltas of deltas (whole ms; fractions of a ms are rounded),
 * then values as one constant, as zigzag deltas of whole numbers, or as float64 where neither fits.
 */
export function writeChunkBlock({ timeMs, value }: Column): Uint8Array {
  const out = new BlockWriter();
  const count = timeMs.length;
  out.byte(version);
  out.varint(count);
  let before = 0;
  let stepBefore = 0;
  for (let i = 0; i < count; i++) {
    const time = Math.round(timeMs[i] as number);
    const step = time - before;
    out.zigzag(step - stepBefore);
    before = time;
    stepBefore = step;
  }
  const kind = kindOf(value);
  out.byte(kind);
  if (kind === valuesAre.constant) out.float64From(value, 0);
  else if (kind === valuesAre.whole) {
    let last = 0;
    for (let i = 0; i < count; i++) {
      out.zigzag((value[i] as number) - last);
      last = value[i] as number;
    }
  } else for (let i = 0; i < count; i++) out.float64From(value, i);
  return out.finish();
}

/** Unpacks a column. Throws BlockError, with the position, for a block that is cut short, hostile or of another version. */
export function readChunkBlock(bytes: Uint8Array): Column {
  const from = new BlockReader(bytes);
  if (from.byte() !== version) throw new BlockError(`version ${bytes[0]} is not known, ${version} is`, 0);
  const count = from.count(1);
  const timeMs = new Float64Array(count);
  const value = new Float64Array(count);
  let time = 0;
  let step = 0;
  for (let i = 0; i < count; i++) {
    step += from.zigzag();
    time += step;
    timeMs[i] = time;
  }
  const kind = from.byte();
  if (kind === valuesAre.constant) {
    const one = new Float64Array(1);
    from.float64s(one, 1);
    new BigUint64Array(value.buffer).fill(new BigUint64Array(one.buffer)[0] as bigint);
  } else if (kind === valuesAre.whole) {
    let last = 0;
    for (let i = 0; i < count; i++) {
      last += from.zigzag();
      value[i] = last;
    }
  } else if (kind === valuesAre.plain) from.float64s(value, count);
  else throw new BlockError(`values of kind ${kind} are not known`, from.at - 1);
  from.end();
  return { timeMs, value };
}

/** Compared as bits, so that −0, 0 and the many NaN stay apart. */
function kindOf(value: Float64Array): number {
  if (value.length === 0) return valuesAre.plain;
  const bits = new Uint32Array(value.buffer, value.byteOffset, value.length * 2);
  let constant = true;
  let whole = true;
  for (let i = 0; i < value.length; i++) {
    const v = value[i] as number;
    if (bits[2 * i] !== bits[0] || bits[2 * i + 1] !== bits[1]) constant = false;
    if (!Number.isInteger(v) || Math.abs(v) > largestWhole || Object.is(v, -0)) whole = false;
  }
  return constant ? valuesAre.constant : whole ? valuesAre.whole : valuesAre.plain;
}
