import type { Batch } from "../series/batch.ts";
import { BlockError, BlockReader, BlockWriter } from "./cursor.ts";

const version = 1;

/**
 * Packs a batch for the journal. Layout, after the version byte and the number of rows: runs of rows that share a time
 * (all series of one answer of a source do), each with its length, its time as float64, then ids as zigzag gaps, then values as float64.
 */
export function writeJournalBlock(batch: Batch): Uint8Array {
  const { series, timeMs, value, length } = batch;
  const out = new BlockWriter();
  out.byte(version);
  out.varint(length);
  let at = 0;
  while (at < length) {
    let end = at + 1;
    while (end < length && timeMs[end] === timeMs[at]) end++;
    out.varint(end - at);
    out.float64(timeMs[at] as number);
    let before = 0;
    for (let i = at; i < end; i++) {
      out.zigzag((series[i] as number) - before);
      before = series[i] as number;
    }
    for (let i = at; i < end; i++) out.float64From(value, i);
    at = end;
  }
  return out.finish();
}

/** Unpacks a journal block. Throws BlockError, with the position, for a block that is cut short, hostile or of another version. */
export function readJournalBlock(bytes: Uint8Array): Batch {
  const from = new BlockReader(bytes);
  if (from.byte() !== version) throw new BlockError(`version ${bytes[0]} is not known, ${version} is`, 0);
  const length = from.count(9); // an id and a value at least
  const batch = { series: new Uint32Array(length), timeMs: new Float64Array(length), value: new Float64Array(length), length };
  let at = 0;
  while (at < length) {
    const run = from.count(9);
    if (run === 0 || at + run > length) throw new BlockError(`a run of ${run} rows where ${length - at} are left`, from.at);
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
