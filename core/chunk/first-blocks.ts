import type { Batch, Column } from "../series/batch.ts";
import { BlockError, BlockReader } from "./cursor.ts";

// The first version of both blocks, for taking over what it wrote (server/store/take-over.ts). Nothing writes it any
// more.
const version = 1;
const valuesAre = { constant: 0, whole: 1, plain: 2 } as const;

/**
 * Unpacks a chunk of version 1: times as deltas of deltas; values as one constant, as deltas of whole numbers, or as
 * float64. Throws BlockError.
 */
export function readFirstChunkBlock(bytes: Uint8Array): Column {
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

/**
 * Unpacks a journal block of version 1: runs of rows that share a time, ids as gaps, values as float64. Throws
 * BlockError.
 */
export function readFirstJournalBlock(bytes: Uint8Array): Batch {
  const from = new BlockReader(bytes);
  if (from.byte() !== version) throw new BlockError(`version ${bytes[0]} is not known, ${version} is`, 0);
  const length = from.count(9); // an id and a value at least
  const batch = {
    series: new Uint32Array(length),
    timeMs: new Float64Array(length),
    value: new Float64Array(length),
    length,
  };
  let at = 0;
  while (at < length) {
    const run = from.count(9);
    if (run === 0 || at + run > length)
      throw new BlockError(`a run of ${run} rows where ${length - at} are left`, from.at);
    batch.timeMs.fill(from.float64(), at, at + run);
    let id = 0;
    for (let i = at; i < at + run; i++) {
      id += from.zigzag();
      if (!(id >= 0 && id <= 0xffffffff)) throw new BlockError(`series id ${id} is out of range`, from.at);
      batch.series[i] = id;
    }
    from.float64s(batch.value.subarray(at), run);
    at += run;
  }
  from.end();
  return batch;
}
