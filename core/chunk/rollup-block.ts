import { type Rollup, rollupPlanes } from "../series/rollup.ts";
import { BlockError, BlockReader, BlockWriter } from "./cursor.ts";
import { readIntegers, writeIntegers } from "./integers.ts";
import { readValues, writeValues } from "./values.ts";

const version = 1;
const kinds = ["level", "total"] as const;
/** More buckets than any period of a tier has. */
const mostBuckets = 100_000;

const out = new BlockWriter();
const part = new BlockWriter();
const nothing = new Float64Array(0);
const reader = new BlockReader(new Uint8Array(0));

/** Packs buckets: version, kind, count, starts, then each plane (`rollupPlanes`) as its length and a column of values, so that planes can be passed over. */
export function writeRollupBlock(rollup: Rollup): Uint8Array {
  const n = rollup.startMs.length;
  out.clear();
  out.byte(version);
  out.byte(kinds.indexOf(rollup.kind));
  out.varint(n);
  if (n > 0) {
    writeIntegers(out, rollup.startMs, n);
    for (const plane of rollupPlanes[rollup.kind]) {
      part.clear();
      writeValues(part, (rollup as never as Record<string, Float64Array>)[plane] as Float64Array, 0, n);
      const bytes = part.finish();
      out.varint(bytes.length);
      out.bytes(bytes);
    }
  }
  return out.finish();
}

/** Unpacks what writeRollupBlock packed; of the planes only those that are `wanted`, the others are left empty. Throws BlockError. */
export function readRollupBlock(bytes: Uint8Array, start = 0, end = bytes.length, wanted?: ReadonlySet<string>): Rollup {
  reader.open(bytes, start, end);
  const found = reader.byte();
  if (found !== version) throw new BlockError(`version ${found} is not known, ${version} is`, 0);
  const kind = kinds[reader.byte()];
  if (!kind) throw new BlockError("the kind of rollup is not known", 1);
  const n = reader.varint();
  if (n > mostBuckets || (n > 0 && reader.remaining === 0)) throw new BlockError(`${n} buckets are claimed, ${reader.remaining} bytes remain`, 2);
  const rollup: Record<string, unknown> = { kind, startMs: new Float64Array(n) };
  if (n > 0) readIntegers(reader, rollup["startMs"] as Float64Array, 0, n);
  for (const plane of rollupPlanes[kind]) {
    rollup[plane] = nothing;
    if (n === 0) continue;
    const length = reader.varint();
    if (wanted && !wanted.has(plane)) {
      reader.skip(length);
      continue;
    }
    const values = new Float64Array(n);
    readValues(reader, values, 0, n);
    rollup[plane] = values;
  }
  reader.end();
  return rollup as unknown as Rollup;
}
