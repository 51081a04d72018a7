import { BlockError, type BlockReader } from "./cursor.ts";
import { powersOfTen } from "./values.ts";

/** What the two low bits of a value's code say: see core/chunk/journal-block.ts. */
export const tags = { whole: 0, hundredths: 1, pages: 2, other: 3 } as const;
export const pageBytes = 4096;
/** Stands for a code that is not read here; its low bits are those of `other`. */
const longer = -1;

/**
 * Reads the values of a run into `into[start..]`, each as its difference from what `last` holds of its series. Codes of
 * up to three bytes, nearly all, are read right here: a start reads tens of millions.
 */
export function readValues(
  from: BlockReader,
  last: Float64Array,
  ids: Uint32Array,
  into: Float64Array,
  start: number,
): void {
  const bytes = from.opened;
  let words: Uint32Array | undefined;
  let base = from.skip(0);
  let p = base;
  const safe = base + from.remaining - 3;
  for (let i = 0; i < ids.length; i++) {
    const id = ids[i];
    let code = p <= safe ? bytes[p] : longer;
    let length = 1;
    if (code >= 0x80) {
      const second = bytes[p + 1];
      code = (code & 0x7f) | ((second & 0x7f) << 7);
      length = 2;
      if (second >= 0x80) {
        const third = bytes[p + 2];
        code = third < 0x80 ? code | (third << 14) : longer;
        length = 3;
      }
    }
    const above = code >>> 2;
    const step = (above >>> 1) ^ -(above & 1);
    const tag = code & 3;
    if (code === tags.other && p <= safe - 6) {
      // eight bytes, moved as two words: a NaN keeps its payload
      words ??= new Uint32Array(into.buffer, into.byteOffset);
      const word = 2 * (start + i);
      words[word] = bytes[p + 1] | (bytes[p + 2] << 8) | (bytes[p + 3] << 16) | (bytes[p + 4] << 24);
      words[word + 1] = bytes[p + 5] | (bytes[p + 6] << 8) | (bytes[p + 7] << 16) | (bytes[p + 8] << 24);
      last[id] = into[start + i];
      p += 9;
      continue;
    }
    if (tag === tags.other) {
      from.skip(p - base);
      readValue(from, last, id, into, start + i);
      base = p = from.skip(0);
      continue;
    }
    p += length;
    const before = last[id];
    const value =
      tag === tags.whole
        ? before + step
        : tag === tags.pages
          ? before + step * pageBytes
          : (Math.round(before * 100) + step) / 100;
    into[start + i] = value;
    last[id] = value;
  }
  from.skip(p - base);
}

function readValue(from: BlockReader, last: Float64Array, id: number, into: Float64Array, at: number): void {
  const code = from.varint();
  const tag = code % 4;
  const above = Math.floor(code / 4);
  const before = last[id];
  if (tag === tags.other && above === 0) from.float64s(into.subarray(at, at + 1), 1);
  else if (tag === tags.whole) into[at] = before + signed(above);
  else if (tag === tags.pages) into[at] = before + signed(above) * pageBytes;
  else {
    const decimals = tag === tags.hundredths ? 2 : above;
    const factor = powersOfTen[decimals];
    if (factor === undefined) throw new BlockError(`${decimals} decimals are too many`, from.at);
    into[at] = (Math.round(before * factor) + (tag === tags.hundredths ? signed(above) : from.zigzag())) / factor;
  }
  last[id] = into[at];
}

function signed(z: number): number {
  return z % 2 === 1 ? -(z + 1) / 2 : z / 2;
}
