/**
 * A plain bit stream of XORs after the published scheme (PVLDB 8(12), 2015, §4.1.2), values only: what the codec's
 * decoding is measured
 * against. 0: as before; 10: inside the window of significant bits before; 11: five bits of leading zeros, six of
 * length, the bits.
 */
export function writeXorStream(values: Float64Array): Uint32Array {
  const bits = new Uint32Array(values.buffer, values.byteOffset, values.length * 2);
  const words = new Uint32Array(values.length * 3 + 4);
  let at = 0;
  const put = (value: number, count: number) => {
    for (let i = count - 1; i >= 0; i--, at++)
      if ((value >>> i) & 1) words[at >>> 5] = (words[at >>> 5] as number) | (1 << (31 - (at & 31)));
  };
  const put64 = (high: number, low: number, from: number, count: number) => {
    for (let i = from + count - 1; i >= from; i--) put(i >= 32 ? (high >>> (i - 32)) & 1 : (low >>> i) & 1, 1);
  };
  put(bits[1] as number, 32);
  put(bits[0] as number, 32);
  let leading = 65;
  let trailing = 0;
  for (let k = 1; k < values.length; k++) {
    const high = ((bits[2 * k + 1] as number) ^ (bits[2 * k - 1] as number)) >>> 0;
    const low = ((bits[2 * k] as number) ^ (bits[2 * k - 2] as number)) >>> 0;
    if (high === 0 && low === 0) {
      put(0, 1);
      continue;
    }
    const lead = Math.min(31, high === 0 ? 32 + Math.clz32(low) : Math.clz32(high));
    const trail = low === 0 ? 63 - Math.clz32(high & -high) : 31 - Math.clz32(low & -low);
    if (lead >= leading && trail >= trailing) {
      put(2, 2);
      put64(high, low, trailing, 64 - leading - trailing);
      continue;
    }
    leading = lead;
    trailing = trail;
    put(3, 2);
    put(leading, 5);
    put(64 - leading - trailing - 1, 6);
    put64(high, low, trailing, 64 - leading - trailing);
  }
  return words.slice(0, (at >>> 5) + 2);
}

export function readXorStream(words: Uint32Array, into: Float64Array, n: number): void {
  const bits = new Uint32Array(into.buffer, into.byteOffset, n * 2);
  let at = 64;
  let high = words[0] as number;
  let low = words[1] as number;
  bits[1] = high;
  bits[0] = low;
  let leading = 0;
  let length = 0;
  /** `count` bits, 1 to 32. */
  const take = (count: number): number => {
    const shift = at & 31;
    const word = at >>> 5;
    at += count;
    const left =
      shift === 0
        ? (words[word] as number)
        : ((words[word] as number) << shift) | ((words[word + 1] as number) >>> (32 - shift));
    return left >>> (32 - count);
  };
  for (let k = 1; k < n; k++) {
    if (take(1) === 1) {
      if (take(1) === 1) {
        leading = take(5);
        length = take(6) + 1;
      }
      const trailing = 64 - leading - length;
      let h = 0;
      let l: number;
      if (length > 32) {
        h = take(length - 32);
        l = take(32);
      } else l = take(length);
      if (trailing >= 32) {
        h = trailing === 32 ? l : l << (trailing - 32);
        l = 0;
      } else if (trailing > 0) {
        h = (h << trailing) | (l >>> (32 - trailing));
        l <<= trailing;
      }
      high ^= h;
      low ^= l;
    }
    bits[2 * k + 1] = high;
    bits[2 * k] = low;
  }
}
