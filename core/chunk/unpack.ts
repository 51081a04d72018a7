// Made by scripts/generate-unpack.mjs; do not edit by hand.

/**
 * `unpackers[width](words, at, into, from)` unpacks 32 numbers of `width` bits, low bits first, from `words[at]`
 * on into `into[from]` and the 31 after it.
 */
export const unpackers: readonly ((words: Uint32Array, at: number, into: Uint32Array, from: number) => void)[] = [
  (_words, _at, into, from) => void into.fill(0, from, from + 32),
  unpack1, unpack2, unpack3, unpack4, unpack5, unpack6, unpack7, unpack8,
  unpack9, unpack10, unpack11, unpack12, unpack13, unpack14, unpack15, unpack16,
  unpack17, unpack18, unpack19, unpack20, unpack21, unpack22, unpack23, unpack24,
  unpack25, unpack26, unpack27, unpack28, unpack29, unpack30, unpack31, unpack32,
];

function unpack1(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number;
  o[b + 0] = w0 & 1; o[b + 1] = (w0 >>> 1) & 1; o[b + 2] = (w0 >>> 2) & 1; o[b + 3] = (w0 >>> 3) & 1; o[b + 4] = (w0 >>> 4) & 1; o[b + 5] = (w0 >>> 5) & 1; o[b + 6] = (w0 >>> 6) & 1; o[b + 7] = (w0 >>> 7) & 1;
  o[b + 8] = (w0 >>> 8) & 1; o[b + 9] = (w0 >>> 9) & 1; o[b + 10] = (w0 >>> 10) & 1; o[b + 11] = (w0 >>> 11) & 1; o[b + 12] = (w0 >>> 12) & 1; o[b + 13] = (w0 >>> 13) & 1; o[b + 14] = (w0 >>> 14) & 1; o[b + 15] = (w0 >>> 15) & 1;
  o[b + 16] = (w0 >>> 16) & 1; o[b + 17] = (w0 >>> 17) & 1; o[b + 18] = (w0 >>> 18) & 1; o[b + 19] = (w0 >>> 19) & 1; o[b + 20] = (w0 >>> 20) & 1; o[b + 21] = (w0 >>> 21) & 1; o[b + 22] = (w0 >>> 22) & 1; o[b + 23] = (w0 >>> 23) & 1;
  o[b + 24] = (w0 >>> 24) & 1; o[b + 25] = (w0 >>> 25) & 1; o[b + 26] = (w0 >>> 26) & 1; o[b + 27] = (w0 >>> 27) & 1; o[b + 28] = (w0 >>> 28) & 1; o[b + 29] = (w0 >>> 29) & 1; o[b + 30] = (w0 >>> 30) & 1; o[b + 31] = w0 >>> 31;
}

function unpack2(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number;
  o[b + 0] = w0 & 3; o[b + 1] = (w0 >>> 2) & 3; o[b + 2] = (w0 >>> 4) & 3; o[b + 3] = (w0 >>> 6) & 3; o[b + 4] = (w0 >>> 8) & 3; o[b + 5] = (w0 >>> 10) & 3; o[b + 6] = (w0 >>> 12) & 3; o[b + 7] = (w0 >>> 14) & 3;
  o[b + 8] = (w0 >>> 16) & 3; o[b + 9] = (w0 >>> 18) & 3; o[b + 10] = (w0 >>> 20) & 3; o[b + 11] = (w0 >>> 22) & 3; o[b + 12] = (w0 >>> 24) & 3; o[b + 13] = (w0 >>> 26) & 3; o[b + 14] = (w0 >>> 28) & 3; o[b + 15] = w0 >>> 30;
  o[b + 16] = w1 & 3; o[b + 17] = (w1 >>> 2) & 3; o[b + 18] = (w1 >>> 4) & 3; o[b + 19] = (w1 >>> 6) & 3; o[b + 20] = (w1 >>> 8) & 3; o[b + 21] = (w1 >>> 10) & 3; o[b + 22] = (w1 >>> 12) & 3; o[b + 23] = (w1 >>> 14) & 3;
  o[b + 24] = (w1 >>> 16) & 3; o[b + 25] = (w1 >>> 18) & 3; o[b + 26] = (w1 >>> 20) & 3; o[b + 27] = (w1 >>> 22) & 3; o[b + 28] = (w1 >>> 24) & 3; o[b + 29] = (w1 >>> 26) & 3; o[b + 30] = (w1 >>> 28) & 3; o[b + 31] = w1 >>> 30;
}

function unpack3(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number;
  o[b + 0] = w0 & 7; o[b + 1] = (w0 >>> 3) & 7; o[b + 2] = (w0 >>> 6) & 7; o[b + 3] = (w0 >>> 9) & 7; o[b + 4] = (w0 >>> 12) & 7; o[b + 5] = (w0 >>> 15) & 7; o[b + 6] = (w0 >>> 18) & 7; o[b + 7] = (w0 >>> 21) & 7;
  o[b + 8] = (w0 >>> 24) & 7; o[b + 9] = (w0 >>> 27) & 7; o[b + 10] = ((w0 >>> 30) | (w1 << 2)) & 7; o[b + 11] = (w1 >>> 1) & 7; o[b + 12] = (w1 >>> 4) & 7; o[b + 13] = (w1 >>> 7) & 7; o[b + 14] = (w1 >>> 10) & 7; o[b + 15] = (w1 >>> 13) & 7;
  o[b + 16] = (w1 >>> 16) & 7; o[b + 17] = (w1 >>> 19) & 7; o[b + 18] = (w1 >>> 22) & 7; o[b + 19] = (w1 >>> 25) & 7; o[b + 20] = (w1 >>> 28) & 7; o[b + 21] = ((w1 >>> 31) | (w2 << 1)) & 7; o[b + 22] = (w2 >>> 2) & 7; o[b + 23] = (w2 >>> 5) & 7;
  o[b + 24] = (w2 >>> 8) & 7; o[b + 25] = (w2 >>> 11) & 7; o[b + 26] = (w2 >>> 14) & 7; o[b + 27] = (w2 >>> 17) & 7; o[b + 28] = (w2 >>> 20) & 7; o[b + 29] = (w2 >>> 23) & 7; o[b + 30] = (w2 >>> 26) & 7; o[b + 31] = w2 >>> 29;
}

function unpack4(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number;
  o[b + 0] = w0 & 15; o[b + 1] = (w0 >>> 4) & 15; o[b + 2] = (w0 >>> 8) & 15; o[b + 3] = (w0 >>> 12) & 15; o[b + 4] = (w0 >>> 16) & 15; o[b + 5] = (w0 >>> 20) & 15; o[b + 6] = (w0 >>> 24) & 15; o[b + 7] = w0 >>> 28;
  o[b + 8] = w1 & 15; o[b + 9] = (w1 >>> 4) & 15; o[b + 10] = (w1 >>> 8) & 15; o[b + 11] = (w1 >>> 12) & 15; o[b + 12] = (w1 >>> 16) & 15; o[b + 13] = (w1 >>> 20) & 15; o[b + 14] = (w1 >>> 24) & 15; o[b + 15] = w1 >>> 28;
  o[b + 16] = w2 & 15; o[b + 17] = (w2 >>> 4) & 15; o[b + 18] = (w2 >>> 8) & 15; o[b + 19] = (w2 >>> 12) & 15; o[b + 20] = (w2 >>> 16) & 15; o[b + 21] = (w2 >>> 20) & 15; o[b + 22] = (w2 >>> 24) & 15; o[b + 23] = w2 >>> 28;
  o[b + 24] = w3 & 15; o[b + 25] = (w3 >>> 4) & 15; o[b + 26] = (w3 >>> 8) & 15; o[b + 27] = (w3 >>> 12) & 15; o[b + 28] = (w3 >>> 16) & 15; o[b + 29] = (w3 >>> 20) & 15; o[b + 30] = (w3 >>> 24) & 15; o[b + 31] = w3 >>> 28;
}

function unpack5(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number;
  o[b + 0] = w0 & 31; o[b + 1] = (w0 >>> 5) & 31; o[b + 2] = (w0 >>> 10) & 31; o[b + 3] = (w0 >>> 15) & 31; o[b + 4] = (w0 >>> 20) & 31; o[b + 5] = (w0 >>> 25) & 31; o[b + 6] = ((w0 >>> 30) | (w1 << 2)) & 31; o[b + 7] = (w1 >>> 3) & 31;
  o[b + 8] = (w1 >>> 8) & 31; o[b + 9] = (w1 >>> 13) & 31; o[b + 10] = (w1 >>> 18) & 31; o[b + 11] = (w1 >>> 23) & 31; o[b + 12] = ((w1 >>> 28) | (w2 << 4)) & 31; o[b + 13] = (w2 >>> 1) & 31; o[b + 14] = (w2 >>> 6) & 31; o[b + 15] = (w2 >>> 11) & 31;
  o[b + 16] = (w2 >>> 16) & 31; o[b + 17] = (w2 >>> 21) & 31; o[b + 18] = (w2 >>> 26) & 31; o[b + 19] = ((w2 >>> 31) | (w3 << 1)) & 31; o[b + 20] = (w3 >>> 4) & 31; o[b + 21] = (w3 >>> 9) & 31; o[b + 22] = (w3 >>> 14) & 31; o[b + 23] = (w3 >>> 19) & 31;
  o[b + 24] = (w3 >>> 24) & 31; o[b + 25] = ((w3 >>> 29) | (w4 << 3)) & 31; o[b + 26] = (w4 >>> 2) & 31; o[b + 27] = (w4 >>> 7) & 31; o[b + 28] = (w4 >>> 12) & 31; o[b + 29] = (w4 >>> 17) & 31; o[b + 30] = (w4 >>> 22) & 31; o[b + 31] = w4 >>> 27;
}

function unpack6(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number;
  o[b + 0] = w0 & 63; o[b + 1] = (w0 >>> 6) & 63; o[b + 2] = (w0 >>> 12) & 63; o[b + 3] = (w0 >>> 18) & 63; o[b + 4] = (w0 >>> 24) & 63; o[b + 5] = ((w0 >>> 30) | (w1 << 2)) & 63; o[b + 6] = (w1 >>> 4) & 63; o[b + 7] = (w1 >>> 10) & 63;
  o[b + 8] = (w1 >>> 16) & 63; o[b + 9] = (w1 >>> 22) & 63; o[b + 10] = ((w1 >>> 28) | (w2 << 4)) & 63; o[b + 11] = (w2 >>> 2) & 63; o[b + 12] = (w2 >>> 8) & 63; o[b + 13] = (w2 >>> 14) & 63; o[b + 14] = (w2 >>> 20) & 63; o[b + 15] = w2 >>> 26;
  o[b + 16] = w3 & 63; o[b + 17] = (w3 >>> 6) & 63; o[b + 18] = (w3 >>> 12) & 63; o[b + 19] = (w3 >>> 18) & 63; o[b + 20] = (w3 >>> 24) & 63; o[b + 21] = ((w3 >>> 30) | (w4 << 2)) & 63; o[b + 22] = (w4 >>> 4) & 63; o[b + 23] = (w4 >>> 10) & 63;
  o[b + 24] = (w4 >>> 16) & 63; o[b + 25] = (w4 >>> 22) & 63; o[b + 26] = ((w4 >>> 28) | (w5 << 4)) & 63; o[b + 27] = (w5 >>> 2) & 63; o[b + 28] = (w5 >>> 8) & 63; o[b + 29] = (w5 >>> 14) & 63; o[b + 30] = (w5 >>> 20) & 63; o[b + 31] = w5 >>> 26;
}

function unpack7(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number; const w6 = w[a + 6] as number;
  o[b + 0] = w0 & 127; o[b + 1] = (w0 >>> 7) & 127; o[b + 2] = (w0 >>> 14) & 127; o[b + 3] = (w0 >>> 21) & 127; o[b + 4] = ((w0 >>> 28) | (w1 << 4)) & 127; o[b + 5] = (w1 >>> 3) & 127; o[b + 6] = (w1 >>> 10) & 127; o[b + 7] = (w1 >>> 17) & 127;
  o[b + 8] = (w1 >>> 24) & 127; o[b + 9] = ((w1 >>> 31) | (w2 << 1)) & 127; o[b + 10] = (w2 >>> 6) & 127; o[b + 11] = (w2 >>> 13) & 127; o[b + 12] = (w2 >>> 20) & 127; o[b + 13] = ((w2 >>> 27) | (w3 << 5)) & 127; o[b + 14] = (w3 >>> 2) & 127; o[b + 15] = (w3 >>> 9) & 127;
  o[b + 16] = (w3 >>> 16) & 127; o[b + 17] = (w3 >>> 23) & 127; o[b + 18] = ((w3 >>> 30) | (w4 << 2)) & 127; o[b + 19] = (w4 >>> 5) & 127; o[b + 20] = (w4 >>> 12) & 127; o[b + 21] = (w4 >>> 19) & 127; o[b + 22] = ((w4 >>> 26) | (w5 << 6)) & 127; o[b + 23] = (w5 >>> 1) & 127;
  o[b + 24] = (w5 >>> 8) & 127; o[b + 25] = (w5 >>> 15) & 127; o[b + 26] = (w5 >>> 22) & 127; o[b + 27] = ((w5 >>> 29) | (w6 << 3)) & 127; o[b + 28] = (w6 >>> 4) & 127; o[b + 29] = (w6 >>> 11) & 127; o[b + 30] = (w6 >>> 18) & 127; o[b + 31] = w6 >>> 25;
}

function unpack8(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number; const w6 = w[a + 6] as number; const w7 = w[a + 7] as number;
  o[b + 0] = w0 & 255; o[b + 1] = (w0 >>> 8) & 255; o[b + 2] = (w0 >>> 16) & 255; o[b + 3] = w0 >>> 24; o[b + 4] = w1 & 255; o[b + 5] = (w1 >>> 8) & 255; o[b + 6] = (w1 >>> 16) & 255; o[b + 7] = w1 >>> 24;
  o[b + 8] = w2 & 255; o[b + 9] = (w2 >>> 8) & 255; o[b + 10] = (w2 >>> 16) & 255; o[b + 11] = w2 >>> 24; o[b + 12] = w3 & 255; o[b + 13] = (w3 >>> 8) & 255; o[b + 14] = (w3 >>> 16) & 255; o[b + 15] = w3 >>> 24;
  o[b + 16] = w4 & 255; o[b + 17] = (w4 >>> 8) & 255; o[b + 18] = (w4 >>> 16) & 255; o[b + 19] = w4 >>> 24; o[b + 20] = w5 & 255; o[b + 21] = (w5 >>> 8) & 255; o[b + 22] = (w5 >>> 16) & 255; o[b + 23] = w5 >>> 24;
  o[b + 24] = w6 & 255; o[b + 25] = (w6 >>> 8) & 255; o[b + 26] = (w6 >>> 16) & 255; o[b + 27] = w6 >>> 24; o[b + 28] = w7 & 255; o[b + 29] = (w7 >>> 8) & 255; o[b + 30] = (w7 >>> 16) & 255; o[b + 31] = w7 >>> 24;
}

function unpack9(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number; const w6 = w[a + 6] as number; const w7 = w[a + 7] as number;
  const w8 = w[a + 8] as number;
  o[b + 0] = w0 & 511; o[b + 1] = (w0 >>> 9) & 511; o[b + 2] = (w0 >>> 18) & 511; o[b + 3] = ((w0 >>> 27) | (w1 << 5)) & 511; o[b + 4] = (w1 >>> 4) & 511; o[b + 5] = (w1 >>> 13) & 511; o[b + 6] = (w1 >>> 22) & 511; o[b + 7] = ((w1 >>> 31) | (w2 << 1)) & 511;
  o[b + 8] = (w2 >>> 8) & 511; o[b + 9] = (w2 >>> 17) & 511; o[b + 10] = ((w2 >>> 26) | (w3 << 6)) & 511; o[b + 11] = (w3 >>> 3) & 511; o[b + 12] = (w3 >>> 12) & 511; o[b + 13] = (w3 >>> 21) & 511; o[b + 14] = ((w3 >>> 30) | (w4 << 2)) & 511; o[b + 15] = (w4 >>> 7) & 511;
  o[b + 16] = (w4 >>> 16) & 511; o[b + 17] = ((w4 >>> 25) | (w5 << 7)) & 511; o[b + 18] = (w5 >>> 2) & 511; o[b + 19] = (w5 >>> 11) & 511; o[b + 20] = (w5 >>> 20) & 511; o[b + 21] = ((w5 >>> 29) | (w6 << 3)) & 511; o[b + 22] = (w6 >>> 6) & 511; o[b + 23] = (w6 >>> 15) & 511;
  o[b + 24] = ((w6 >>> 24) | (w7 << 8)) & 511; o[b + 25] = (w7 >>> 1) & 511; o[b + 26] = (w7 >>> 10) & 511; o[b + 27] = (w7 >>> 19) & 511; o[b + 28] = ((w7 >>> 28) | (w8 << 4)) & 511; o[b + 29] = (w8 >>> 5) & 511; o[b + 30] = (w8 >>> 14) & 511; o[b + 31] = w8 >>> 23;
}

function unpack10(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number; const w6 = w[a + 6] as number; const w7 = w[a + 7] as number;
  const w8 = w[a + 8] as number; const w9 = w[a + 9] as number;
  o[b + 0] = w0 & 1023; o[b + 1] = (w0 >>> 10) & 1023; o[b + 2] = (w0 >>> 20) & 1023; o[b + 3] = ((w0 >>> 30) | (w1 << 2)) & 1023; o[b + 4] = (w1 >>> 8) & 1023; o[b + 5] = (w1 >>> 18) & 1023; o[b + 6] = ((w1 >>> 28) | (w2 << 4)) & 1023; o[b + 7] = (w2 >>> 6) & 1023;
  o[b + 8] = (w2 >>> 16) & 1023; o[b + 9] = ((w2 >>> 26) | (w3 << 6)) & 1023; o[b + 10] = (w3 >>> 4) & 1023; o[b + 11] = (w3 >>> 14) & 1023; o[b + 12] = ((w3 >>> 24) | (w4 << 8)) & 1023; o[b + 13] = (w4 >>> 2) & 1023; o[b + 14] = (w4 >>> 12) & 1023; o[b + 15] = w4 >>> 22;
  o[b + 16] = w5 & 1023; o[b + 17] = (w5 >>> 10) & 1023; o[b + 18] = (w5 >>> 20) & 1023; o[b + 19] = ((w5 >>> 30) | (w6 << 2)) & 1023; o[b + 20] = (w6 >>> 8) & 1023; o[b + 21] = (w6 >>> 18) & 1023; o[b + 22] = ((w6 >>> 28) | (w7 << 4)) & 1023; o[b + 23] = (w7 >>> 6) & 1023;
  o[b + 24] = (w7 >>> 16) & 1023; o[b + 25] = ((w7 >>> 26) | (w8 << 6)) & 1023; o[b + 26] = (w8 >>> 4) & 1023; o[b + 27] = (w8 >>> 14) & 1023; o[b + 28] = ((w8 >>> 24) | (w9 << 8)) & 1023; o[b + 29] = (w9 >>> 2) & 1023; o[b + 30] = (w9 >>> 12) & 1023; o[b + 31] = w9 >>> 22;
}

function unpack11(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number; const w6 = w[a + 6] as number; const w7 = w[a + 7] as number;
  const w8 = w[a + 8] as number; const w9 = w[a + 9] as number; const w10 = w[a + 10] as number;
  o[b + 0] = w0 & 2047; o[b + 1] = (w0 >>> 11) & 2047; o[b + 2] = ((w0 >>> 22) | (w1 << 10)) & 2047; o[b + 3] = (w1 >>> 1) & 2047; o[b + 4] = (w1 >>> 12) & 2047; o[b + 5] = ((w1 >>> 23) | (w2 << 9)) & 2047; o[b + 6] = (w2 >>> 2) & 2047; o[b + 7] = (w2 >>> 13) & 2047;
  o[b + 8] = ((w2 >>> 24) | (w3 << 8)) & 2047; o[b + 9] = (w3 >>> 3) & 2047; o[b + 10] = (w3 >>> 14) & 2047; o[b + 11] = ((w3 >>> 25) | (w4 << 7)) & 2047; o[b + 12] = (w4 >>> 4) & 2047; o[b + 13] = (w4 >>> 15) & 2047; o[b + 14] = ((w4 >>> 26) | (w5 << 6)) & 2047; o[b + 15] = (w5 >>> 5) & 2047;
  o[b + 16] = (w5 >>> 16) & 2047; o[b + 17] = ((w5 >>> 27) | (w6 << 5)) & 2047; o[b + 18] = (w6 >>> 6) & 2047; o[b + 19] = (w6 >>> 17) & 2047; o[b + 20] = ((w6 >>> 28) | (w7 << 4)) & 2047; o[b + 21] = (w7 >>> 7) & 2047; o[b + 22] = (w7 >>> 18) & 2047; o[b + 23] = ((w7 >>> 29) | (w8 << 3)) & 2047;
  o[b + 24] = (w8 >>> 8) & 2047; o[b + 25] = (w8 >>> 19) & 2047; o[b + 26] = ((w8 >>> 30) | (w9 << 2)) & 2047; o[b + 27] = (w9 >>> 9) & 2047; o[b + 28] = (w9 >>> 20) & 2047; o[b + 29] = ((w9 >>> 31) | (w10 << 1)) & 2047; o[b + 30] = (w10 >>> 10) & 2047; o[b + 31] = w10 >>> 21;
}

function unpack12(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number; const w6 = w[a + 6] as number; const w7 = w[a + 7] as number;
  const w8 = w[a + 8] as number; const w9 = w[a + 9] as number; const w10 = w[a + 10] as number; const w11 = w[a + 11] as number;
  o[b + 0] = w0 & 4095; o[b + 1] = (w0 >>> 12) & 4095; o[b + 2] = ((w0 >>> 24) | (w1 << 8)) & 4095; o[b + 3] = (w1 >>> 4) & 4095; o[b + 4] = (w1 >>> 16) & 4095; o[b + 5] = ((w1 >>> 28) | (w2 << 4)) & 4095; o[b + 6] = (w2 >>> 8) & 4095; o[b + 7] = w2 >>> 20;
  o[b + 8] = w3 & 4095; o[b + 9] = (w3 >>> 12) & 4095; o[b + 10] = ((w3 >>> 24) | (w4 << 8)) & 4095; o[b + 11] = (w4 >>> 4) & 4095; o[b + 12] = (w4 >>> 16) & 4095; o[b + 13] = ((w4 >>> 28) | (w5 << 4)) & 4095; o[b + 14] = (w5 >>> 8) & 4095; o[b + 15] = w5 >>> 20;
  o[b + 16] = w6 & 4095; o[b + 17] = (w6 >>> 12) & 4095; o[b + 18] = ((w6 >>> 24) | (w7 << 8)) & 4095; o[b + 19] = (w7 >>> 4) & 4095; o[b + 20] = (w7 >>> 16) & 4095; o[b + 21] = ((w7 >>> 28) | (w8 << 4)) & 4095; o[b + 22] = (w8 >>> 8) & 4095; o[b + 23] = w8 >>> 20;
  o[b + 24] = w9 & 4095; o[b + 25] = (w9 >>> 12) & 4095; o[b + 26] = ((w9 >>> 24) | (w10 << 8)) & 4095; o[b + 27] = (w10 >>> 4) & 4095; o[b + 28] = (w10 >>> 16) & 4095; o[b + 29] = ((w10 >>> 28) | (w11 << 4)) & 4095; o[b + 30] = (w11 >>> 8) & 4095; o[b + 31] = w11 >>> 20;
}

function unpack13(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number; const w6 = w[a + 6] as number; const w7 = w[a + 7] as number;
  const w8 = w[a + 8] as number; const w9 = w[a + 9] as number; const w10 = w[a + 10] as number; const w11 = w[a + 11] as number; const w12 = w[a + 12] as number;
  o[b + 0] = w0 & 8191; o[b + 1] = (w0 >>> 13) & 8191; o[b + 2] = ((w0 >>> 26) | (w1 << 6)) & 8191; o[b + 3] = (w1 >>> 7) & 8191; o[b + 4] = ((w1 >>> 20) | (w2 << 12)) & 8191; o[b + 5] = (w2 >>> 1) & 8191; o[b + 6] = (w2 >>> 14) & 8191; o[b + 7] = ((w2 >>> 27) | (w3 << 5)) & 8191;
  o[b + 8] = (w3 >>> 8) & 8191; o[b + 9] = ((w3 >>> 21) | (w4 << 11)) & 8191; o[b + 10] = (w4 >>> 2) & 8191; o[b + 11] = (w4 >>> 15) & 8191; o[b + 12] = ((w4 >>> 28) | (w5 << 4)) & 8191; o[b + 13] = (w5 >>> 9) & 8191; o[b + 14] = ((w5 >>> 22) | (w6 << 10)) & 8191; o[b + 15] = (w6 >>> 3) & 8191;
  o[b + 16] = (w6 >>> 16) & 8191; o[b + 17] = ((w6 >>> 29) | (w7 << 3)) & 8191; o[b + 18] = (w7 >>> 10) & 8191; o[b + 19] = ((w7 >>> 23) | (w8 << 9)) & 8191; o[b + 20] = (w8 >>> 4) & 8191; o[b + 21] = (w8 >>> 17) & 8191; o[b + 22] = ((w8 >>> 30) | (w9 << 2)) & 8191; o[b + 23] = (w9 >>> 11) & 8191;
  o[b + 24] = ((w9 >>> 24) | (w10 << 8)) & 8191; o[b + 25] = (w10 >>> 5) & 8191; o[b + 26] = (w10 >>> 18) & 8191; o[b + 27] = ((w10 >>> 31) | (w11 << 1)) & 8191; o[b + 28] = (w11 >>> 12) & 8191; o[b + 29] = ((w11 >>> 25) | (w12 << 7)) & 8191; o[b + 30] = (w12 >>> 6) & 8191; o[b + 31] = w12 >>> 19;
}

function unpack14(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number; const w6 = w[a + 6] as number; const w7 = w[a + 7] as number;
  const w8 = w[a + 8] as number; const w9 = w[a + 9] as number; const w10 = w[a + 10] as number; const w11 = w[a + 11] as number; const w12 = w[a + 12] as number; const w13 = w[a + 13] as number;
  o[b + 0] = w0 & 16383; o[b + 1] = (w0 >>> 14) & 16383; o[b + 2] = ((w0 >>> 28) | (w1 << 4)) & 16383; o[b + 3] = (w1 >>> 10) & 16383; o[b + 4] = ((w1 >>> 24) | (w2 << 8)) & 16383; o[b + 5] = (w2 >>> 6) & 16383; o[b + 6] = ((w2 >>> 20) | (w3 << 12)) & 16383; o[b + 7] = (w3 >>> 2) & 16383;
  o[b + 8] = (w3 >>> 16) & 16383; o[b + 9] = ((w3 >>> 30) | (w4 << 2)) & 16383; o[b + 10] = (w4 >>> 12) & 16383; o[b + 11] = ((w4 >>> 26) | (w5 << 6)) & 16383; o[b + 12] = (w5 >>> 8) & 16383; o[b + 13] = ((w5 >>> 22) | (w6 << 10)) & 16383; o[b + 14] = (w6 >>> 4) & 16383; o[b + 15] = w6 >>> 18;
  o[b + 16] = w7 & 16383; o[b + 17] = (w7 >>> 14) & 16383; o[b + 18] = ((w7 >>> 28) | (w8 << 4)) & 16383; o[b + 19] = (w8 >>> 10) & 16383; o[b + 20] = ((w8 >>> 24) | (w9 << 8)) & 16383; o[b + 21] = (w9 >>> 6) & 16383; o[b + 22] = ((w9 >>> 20) | (w10 << 12)) & 16383; o[b + 23] = (w10 >>> 2) & 16383;
  o[b + 24] = (w10 >>> 16) & 16383; o[b + 25] = ((w10 >>> 30) | (w11 << 2)) & 16383; o[b + 26] = (w11 >>> 12) & 16383; o[b + 27] = ((w11 >>> 26) | (w12 << 6)) & 16383; o[b + 28] = (w12 >>> 8) & 16383; o[b + 29] = ((w12 >>> 22) | (w13 << 10)) & 16383; o[b + 30] = (w13 >>> 4) & 16383; o[b + 31] = w13 >>> 18;
}

function unpack15(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number; const w6 = w[a + 6] as number; const w7 = w[a + 7] as number;
  const w8 = w[a + 8] as number; const w9 = w[a + 9] as number; const w10 = w[a + 10] as number; const w11 = w[a + 11] as number; const w12 = w[a + 12] as number; const w13 = w[a + 13] as number; const w14 = w[a + 14] as number;
  o[b + 0] = w0 & 32767; o[b + 1] = (w0 >>> 15) & 32767; o[b + 2] = ((w0 >>> 30) | (w1 << 2)) & 32767; o[b + 3] = (w1 >>> 13) & 32767; o[b + 4] = ((w1 >>> 28) | (w2 << 4)) & 32767; o[b + 5] = (w2 >>> 11) & 32767; o[b + 6] = ((w2 >>> 26) | (w3 << 6)) & 32767; o[b + 7] = (w3 >>> 9) & 32767;
  o[b + 8] = ((w3 >>> 24) | (w4 << 8)) & 32767; o[b + 9] = (w4 >>> 7) & 32767; o[b + 10] = ((w4 >>> 22) | (w5 << 10)) & 32767; o[b + 11] = (w5 >>> 5) & 32767; o[b + 12] = ((w5 >>> 20) | (w6 << 12)) & 32767; o[b + 13] = (w6 >>> 3) & 32767; o[b + 14] = ((w6 >>> 18) | (w7 << 14)) & 32767; o[b + 15] = (w7 >>> 1) & 32767;
  o[b + 16] = (w7 >>> 16) & 32767; o[b + 17] = ((w7 >>> 31) | (w8 << 1)) & 32767; o[b + 18] = (w8 >>> 14) & 32767; o[b + 19] = ((w8 >>> 29) | (w9 << 3)) & 32767; o[b + 20] = (w9 >>> 12) & 32767; o[b + 21] = ((w9 >>> 27) | (w10 << 5)) & 32767; o[b + 22] = (w10 >>> 10) & 32767; o[b + 23] = ((w10 >>> 25) | (w11 << 7)) & 32767;
  o[b + 24] = (w11 >>> 8) & 32767; o[b + 25] = ((w11 >>> 23) | (w12 << 9)) & 32767; o[b + 26] = (w12 >>> 6) & 32767; o[b + 27] = ((w12 >>> 21) | (w13 << 11)) & 32767; o[b + 28] = (w13 >>> 4) & 32767; o[b + 29] = ((w13 >>> 19) | (w14 << 13)) & 32767; o[b + 30] = (w14 >>> 2) & 32767; o[b + 31] = w14 >>> 17;
}

function unpack16(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number; const w6 = w[a + 6] as number; const w7 = w[a + 7] as number;
  const w8 = w[a + 8] as number; const w9 = w[a + 9] as number; const w10 = w[a + 10] as number; const w11 = w[a + 11] as number; const w12 = w[a + 12] as number; const w13 = w[a + 13] as number; const w14 = w[a + 14] as number; const w15 = w[a + 15] as number;
  o[b + 0] = w0 & 65535; o[b + 1] = w0 >>> 16; o[b + 2] = w1 & 65535; o[b + 3] = w1 >>> 16; o[b + 4] = w2 & 65535; o[b + 5] = w2 >>> 16; o[b + 6] = w3 & 65535; o[b + 7] = w3 >>> 16;
  o[b + 8] = w4 & 65535; o[b + 9] = w4 >>> 16; o[b + 10] = w5 & 65535; o[b + 11] = w5 >>> 16; o[b + 12] = w6 & 65535; o[b + 13] = w6 >>> 16; o[b + 14] = w7 & 65535; o[b + 15] = w7 >>> 16;
  o[b + 16] = w8 & 65535; o[b + 17] = w8 >>> 16; o[b + 18] = w9 & 65535; o[b + 19] = w9 >>> 16; o[b + 20] = w10 & 65535; o[b + 21] = w10 >>> 16; o[b + 22] = w11 & 65535; o[b + 23] = w11 >>> 16;
  o[b + 24] = w12 & 65535; o[b + 25] = w12 >>> 16; o[b + 26] = w13 & 65535; o[b + 27] = w13 >>> 16; o[b + 28] = w14 & 65535; o[b + 29] = w14 >>> 16; o[b + 30] = w15 & 65535; o[b + 31] = w15 >>> 16;
}

function unpack17(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number; const w6 = w[a + 6] as number; const w7 = w[a + 7] as number;
  const w8 = w[a + 8] as number; const w9 = w[a + 9] as number; const w10 = w[a + 10] as number; const w11 = w[a + 11] as number; const w12 = w[a + 12] as number; const w13 = w[a + 13] as number; const w14 = w[a + 14] as number; const w15 = w[a + 15] as number;
  const w16 = w[a + 16] as number;
  o[b + 0] = w0 & 131071; o[b + 1] = ((w0 >>> 17) | (w1 << 15)) & 131071; o[b + 2] = (w1 >>> 2) & 131071; o[b + 3] = ((w1 >>> 19) | (w2 << 13)) & 131071; o[b + 4] = (w2 >>> 4) & 131071; o[b + 5] = ((w2 >>> 21) | (w3 << 11)) & 131071; o[b + 6] = (w3 >>> 6) & 131071; o[b + 7] = ((w3 >>> 23) | (w4 << 9)) & 131071;
  o[b + 8] = (w4 >>> 8) & 131071; o[b + 9] = ((w4 >>> 25) | (w5 << 7)) & 131071; o[b + 10] = (w5 >>> 10) & 131071; o[b + 11] = ((w5 >>> 27) | (w6 << 5)) & 131071; o[b + 12] = (w6 >>> 12) & 131071; o[b + 13] = ((w6 >>> 29) | (w7 << 3)) & 131071; o[b + 14] = (w7 >>> 14) & 131071; o[b + 15] = ((w7 >>> 31) | (w8 << 1)) & 131071;
  o[b + 16] = ((w8 >>> 16) | (w9 << 16)) & 131071; o[b + 17] = (w9 >>> 1) & 131071; o[b + 18] = ((w9 >>> 18) | (w10 << 14)) & 131071; o[b + 19] = (w10 >>> 3) & 131071; o[b + 20] = ((w10 >>> 20) | (w11 << 12)) & 131071; o[b + 21] = (w11 >>> 5) & 131071; o[b + 22] = ((w11 >>> 22) | (w12 << 10)) & 131071; o[b + 23] = (w12 >>> 7) & 131071;
  o[b + 24] = ((w12 >>> 24) | (w13 << 8)) & 131071; o[b + 25] = (w13 >>> 9) & 131071; o[b + 26] = ((w13 >>> 26) | (w14 << 6)) & 131071; o[b + 27] = (w14 >>> 11) & 131071; o[b + 28] = ((w14 >>> 28) | (w15 << 4)) & 131071; o[b + 29] = (w15 >>> 13) & 131071; o[b + 30] = ((w15 >>> 30) | (w16 << 2)) & 131071; o[b + 31] = w16 >>> 15;
}

function unpack18(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number; const w6 = w[a + 6] as number; const w7 = w[a + 7] as number;
  const w8 = w[a + 8] as number; const w9 = w[a + 9] as number; const w10 = w[a + 10] as number; const w11 = w[a + 11] as number; const w12 = w[a + 12] as number; const w13 = w[a + 13] as number; const w14 = w[a + 14] as number; const w15 = w[a + 15] as number;
  const w16 = w[a + 16] as number; const w17 = w[a + 17] as number;
  o[b + 0] = w0 & 262143; o[b + 1] = ((w0 >>> 18) | (w1 << 14)) & 262143; o[b + 2] = (w1 >>> 4) & 262143; o[b + 3] = ((w1 >>> 22) | (w2 << 10)) & 262143; o[b + 4] = (w2 >>> 8) & 262143; o[b + 5] = ((w2 >>> 26) | (w3 << 6)) & 262143; o[b + 6] = (w3 >>> 12) & 262143; o[b + 7] = ((w3 >>> 30) | (w4 << 2)) & 262143;
  o[b + 8] = ((w4 >>> 16) | (w5 << 16)) & 262143; o[b + 9] = (w5 >>> 2) & 262143; o[b + 10] = ((w5 >>> 20) | (w6 << 12)) & 262143; o[b + 11] = (w6 >>> 6) & 262143; o[b + 12] = ((w6 >>> 24) | (w7 << 8)) & 262143; o[b + 13] = (w7 >>> 10) & 262143; o[b + 14] = ((w7 >>> 28) | (w8 << 4)) & 262143; o[b + 15] = w8 >>> 14;
  o[b + 16] = w9 & 262143; o[b + 17] = ((w9 >>> 18) | (w10 << 14)) & 262143; o[b + 18] = (w10 >>> 4) & 262143; o[b + 19] = ((w10 >>> 22) | (w11 << 10)) & 262143; o[b + 20] = (w11 >>> 8) & 262143; o[b + 21] = ((w11 >>> 26) | (w12 << 6)) & 262143; o[b + 22] = (w12 >>> 12) & 262143; o[b + 23] = ((w12 >>> 30) | (w13 << 2)) & 262143;
  o[b + 24] = ((w13 >>> 16) | (w14 << 16)) & 262143; o[b + 25] = (w14 >>> 2) & 262143; o[b + 26] = ((w14 >>> 20) | (w15 << 12)) & 262143; o[b + 27] = (w15 >>> 6) & 262143; o[b + 28] = ((w15 >>> 24) | (w16 << 8)) & 262143; o[b + 29] = (w16 >>> 10) & 262143; o[b + 30] = ((w16 >>> 28) | (w17 << 4)) & 262143; o[b + 31] = w17 >>> 14;
}

function unpack19(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number; const w6 = w[a + 6] as number; const w7 = w[a + 7] as number;
  const w8 = w[a + 8] as number; const w9 = w[a + 9] as number; const w10 = w[a + 10] as number; const w11 = w[a + 11] as number; const w12 = w[a + 12] as number; const w13 = w[a + 13] as number; const w14 = w[a + 14] as number; const w15 = w[a + 15] as number;
  const w16 = w[a + 16] as number; const w17 = w[a + 17] as number; const w18 = w[a + 18] as number;
  o[b + 0] = w0 & 524287; o[b + 1] = ((w0 >>> 19) | (w1 << 13)) & 524287; o[b + 2] = (w1 >>> 6) & 524287; o[b + 3] = ((w1 >>> 25) | (w2 << 7)) & 524287; o[b + 4] = (w2 >>> 12) & 524287; o[b + 5] = ((w2 >>> 31) | (w3 << 1)) & 524287; o[b + 6] = ((w3 >>> 18) | (w4 << 14)) & 524287; o[b + 7] = (w4 >>> 5) & 524287;
  o[b + 8] = ((w4 >>> 24) | (w5 << 8)) & 524287; o[b + 9] = (w5 >>> 11) & 524287; o[b + 10] = ((w5 >>> 30) | (w6 << 2)) & 524287; o[b + 11] = ((w6 >>> 17) | (w7 << 15)) & 524287; o[b + 12] = (w7 >>> 4) & 524287; o[b + 13] = ((w7 >>> 23) | (w8 << 9)) & 524287; o[b + 14] = (w8 >>> 10) & 524287; o[b + 15] = ((w8 >>> 29) | (w9 << 3)) & 524287;
  o[b + 16] = ((w9 >>> 16) | (w10 << 16)) & 524287; o[b + 17] = (w10 >>> 3) & 524287; o[b + 18] = ((w10 >>> 22) | (w11 << 10)) & 524287; o[b + 19] = (w11 >>> 9) & 524287; o[b + 20] = ((w11 >>> 28) | (w12 << 4)) & 524287; o[b + 21] = ((w12 >>> 15) | (w13 << 17)) & 524287; o[b + 22] = (w13 >>> 2) & 524287; o[b + 23] = ((w13 >>> 21) | (w14 << 11)) & 524287;
  o[b + 24] = (w14 >>> 8) & 524287; o[b + 25] = ((w14 >>> 27) | (w15 << 5)) & 524287; o[b + 26] = ((w15 >>> 14) | (w16 << 18)) & 524287; o[b + 27] = (w16 >>> 1) & 524287; o[b + 28] = ((w16 >>> 20) | (w17 << 12)) & 524287; o[b + 29] = (w17 >>> 7) & 524287; o[b + 30] = ((w17 >>> 26) | (w18 << 6)) & 524287; o[b + 31] = w18 >>> 13;
}

function unpack20(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number; const w6 = w[a + 6] as number; const w7 = w[a + 7] as number;
  const w8 = w[a + 8] as number; const w9 = w[a + 9] as number; const w10 = w[a + 10] as number; const w11 = w[a + 11] as number; const w12 = w[a + 12] as number; const w13 = w[a + 13] as number; const w14 = w[a + 14] as number; const w15 = w[a + 15] as number;
  const w16 = w[a + 16] as number; const w17 = w[a + 17] as number; const w18 = w[a + 18] as number; const w19 = w[a + 19] as number;
  o[b + 0] = w0 & 1048575; o[b + 1] = ((w0 >>> 20) | (w1 << 12)) & 1048575; o[b + 2] = (w1 >>> 8) & 1048575; o[b + 3] = ((w1 >>> 28) | (w2 << 4)) & 1048575; o[b + 4] = ((w2 >>> 16) | (w3 << 16)) & 1048575; o[b + 5] = (w3 >>> 4) & 1048575; o[b + 6] = ((w3 >>> 24) | (w4 << 8)) & 1048575; o[b + 7] = w4 >>> 12;
  o[b + 8] = w5 & 1048575; o[b + 9] = ((w5 >>> 20) | (w6 << 12)) & 1048575; o[b + 10] = (w6 >>> 8) & 1048575; o[b + 11] = ((w6 >>> 28) | (w7 << 4)) & 1048575; o[b + 12] = ((w7 >>> 16) | (w8 << 16)) & 1048575; o[b + 13] = (w8 >>> 4) & 1048575; o[b + 14] = ((w8 >>> 24) | (w9 << 8)) & 1048575; o[b + 15] = w9 >>> 12;
  o[b + 16] = w10 & 1048575; o[b + 17] = ((w10 >>> 20) | (w11 << 12)) & 1048575; o[b + 18] = (w11 >>> 8) & 1048575; o[b + 19] = ((w11 >>> 28) | (w12 << 4)) & 1048575; o[b + 20] = ((w12 >>> 16) | (w13 << 16)) & 1048575; o[b + 21] = (w13 >>> 4) & 1048575; o[b + 22] = ((w13 >>> 24) | (w14 << 8)) & 1048575; o[b + 23] = w14 >>> 12;
  o[b + 24] = w15 & 1048575; o[b + 25] = ((w15 >>> 20) | (w16 << 12)) & 1048575; o[b + 26] = (w16 >>> 8) & 1048575; o[b + 27] = ((w16 >>> 28) | (w17 << 4)) & 1048575; o[b + 28] = ((w17 >>> 16) | (w18 << 16)) & 1048575; o[b + 29] = (w18 >>> 4) & 1048575; o[b + 30] = ((w18 >>> 24) | (w19 << 8)) & 1048575; o[b + 31] = w19 >>> 12;
}

function unpack21(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number; const w6 = w[a + 6] as number; const w7 = w[a + 7] as number;
  const w8 = w[a + 8] as number; const w9 = w[a + 9] as number; const w10 = w[a + 10] as number; const w11 = w[a + 11] as number; const w12 = w[a + 12] as number; const w13 = w[a + 13] as number; const w14 = w[a + 14] as number; const w15 = w[a + 15] as number;
  const w16 = w[a + 16] as number; const w17 = w[a + 17] as number; const w18 = w[a + 18] as number; const w19 = w[a + 19] as number; const w20 = w[a + 20] as number;
  o[b + 0] = w0 & 2097151; o[b + 1] = ((w0 >>> 21) | (w1 << 11)) & 2097151; o[b + 2] = (w1 >>> 10) & 2097151; o[b + 3] = ((w1 >>> 31) | (w2 << 1)) & 2097151; o[b + 4] = ((w2 >>> 20) | (w3 << 12)) & 2097151; o[b + 5] = (w3 >>> 9) & 2097151; o[b + 6] = ((w3 >>> 30) | (w4 << 2)) & 2097151; o[b + 7] = ((w4 >>> 19) | (w5 << 13)) & 2097151;
  o[b + 8] = (w5 >>> 8) & 2097151; o[b + 9] = ((w5 >>> 29) | (w6 << 3)) & 2097151; o[b + 10] = ((w6 >>> 18) | (w7 << 14)) & 2097151; o[b + 11] = (w7 >>> 7) & 2097151; o[b + 12] = ((w7 >>> 28) | (w8 << 4)) & 2097151; o[b + 13] = ((w8 >>> 17) | (w9 << 15)) & 2097151; o[b + 14] = (w9 >>> 6) & 2097151; o[b + 15] = ((w9 >>> 27) | (w10 << 5)) & 2097151;
  o[b + 16] = ((w10 >>> 16) | (w11 << 16)) & 2097151; o[b + 17] = (w11 >>> 5) & 2097151; o[b + 18] = ((w11 >>> 26) | (w12 << 6)) & 2097151; o[b + 19] = ((w12 >>> 15) | (w13 << 17)) & 2097151; o[b + 20] = (w13 >>> 4) & 2097151; o[b + 21] = ((w13 >>> 25) | (w14 << 7)) & 2097151; o[b + 22] = ((w14 >>> 14) | (w15 << 18)) & 2097151; o[b + 23] = (w15 >>> 3) & 2097151;
  o[b + 24] = ((w15 >>> 24) | (w16 << 8)) & 2097151; o[b + 25] = ((w16 >>> 13) | (w17 << 19)) & 2097151; o[b + 26] = (w17 >>> 2) & 2097151; o[b + 27] = ((w17 >>> 23) | (w18 << 9)) & 2097151; o[b + 28] = ((w18 >>> 12) | (w19 << 20)) & 2097151; o[b + 29] = (w19 >>> 1) & 2097151; o[b + 30] = ((w19 >>> 22) | (w20 << 10)) & 2097151; o[b + 31] = w20 >>> 11;
}

function unpack22(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number; const w6 = w[a + 6] as number; const w7 = w[a + 7] as number;
  const w8 = w[a + 8] as number; const w9 = w[a + 9] as number; const w10 = w[a + 10] as number; const w11 = w[a + 11] as number; const w12 = w[a + 12] as number; const w13 = w[a + 13] as number; const w14 = w[a + 14] as number; const w15 = w[a + 15] as number;
  const w16 = w[a + 16] as number; const w17 = w[a + 17] as number; const w18 = w[a + 18] as number; const w19 = w[a + 19] as number; const w20 = w[a + 20] as number; const w21 = w[a + 21] as number;
  o[b + 0] = w0 & 4194303; o[b + 1] = ((w0 >>> 22) | (w1 << 10)) & 4194303; o[b + 2] = ((w1 >>> 12) | (w2 << 20)) & 4194303; o[b + 3] = (w2 >>> 2) & 4194303; o[b + 4] = ((w2 >>> 24) | (w3 << 8)) & 4194303; o[b + 5] = ((w3 >>> 14) | (w4 << 18)) & 4194303; o[b + 6] = (w4 >>> 4) & 4194303; o[b + 7] = ((w4 >>> 26) | (w5 << 6)) & 4194303;
  o[b + 8] = ((w5 >>> 16) | (w6 << 16)) & 4194303; o[b + 9] = (w6 >>> 6) & 4194303; o[b + 10] = ((w6 >>> 28) | (w7 << 4)) & 4194303; o[b + 11] = ((w7 >>> 18) | (w8 << 14)) & 4194303; o[b + 12] = (w8 >>> 8) & 4194303; o[b + 13] = ((w8 >>> 30) | (w9 << 2)) & 4194303; o[b + 14] = ((w9 >>> 20) | (w10 << 12)) & 4194303; o[b + 15] = w10 >>> 10;
  o[b + 16] = w11 & 4194303; o[b + 17] = ((w11 >>> 22) | (w12 << 10)) & 4194303; o[b + 18] = ((w12 >>> 12) | (w13 << 20)) & 4194303; o[b + 19] = (w13 >>> 2) & 4194303; o[b + 20] = ((w13 >>> 24) | (w14 << 8)) & 4194303; o[b + 21] = ((w14 >>> 14) | (w15 << 18)) & 4194303; o[b + 22] = (w15 >>> 4) & 4194303; o[b + 23] = ((w15 >>> 26) | (w16 << 6)) & 4194303;
  o[b + 24] = ((w16 >>> 16) | (w17 << 16)) & 4194303; o[b + 25] = (w17 >>> 6) & 4194303; o[b + 26] = ((w17 >>> 28) | (w18 << 4)) & 4194303; o[b + 27] = ((w18 >>> 18) | (w19 << 14)) & 4194303; o[b + 28] = (w19 >>> 8) & 4194303; o[b + 29] = ((w19 >>> 30) | (w20 << 2)) & 4194303; o[b + 30] = ((w20 >>> 20) | (w21 << 12)) & 4194303; o[b + 31] = w21 >>> 10;
}

function unpack23(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number; const w6 = w[a + 6] as number; const w7 = w[a + 7] as number;
  const w8 = w[a + 8] as number; const w9 = w[a + 9] as number; const w10 = w[a + 10] as number; const w11 = w[a + 11] as number; const w12 = w[a + 12] as number; const w13 = w[a + 13] as number; const w14 = w[a + 14] as number; const w15 = w[a + 15] as number;
  const w16 = w[a + 16] as number; const w17 = w[a + 17] as number; const w18 = w[a + 18] as number; const w19 = w[a + 19] as number; const w20 = w[a + 20] as number; const w21 = w[a + 21] as number; const w22 = w[a + 22] as number;
  o[b + 0] = w0 & 8388607; o[b + 1] = ((w0 >>> 23) | (w1 << 9)) & 8388607; o[b + 2] = ((w1 >>> 14) | (w2 << 18)) & 8388607; o[b + 3] = (w2 >>> 5) & 8388607; o[b + 4] = ((w2 >>> 28) | (w3 << 4)) & 8388607; o[b + 5] = ((w3 >>> 19) | (w4 << 13)) & 8388607; o[b + 6] = ((w4 >>> 10) | (w5 << 22)) & 8388607; o[b + 7] = (w5 >>> 1) & 8388607;
  o[b + 8] = ((w5 >>> 24) | (w6 << 8)) & 8388607; o[b + 9] = ((w6 >>> 15) | (w7 << 17)) & 8388607; o[b + 10] = (w7 >>> 6) & 8388607; o[b + 11] = ((w7 >>> 29) | (w8 << 3)) & 8388607; o[b + 12] = ((w8 >>> 20) | (w9 << 12)) & 8388607; o[b + 13] = ((w9 >>> 11) | (w10 << 21)) & 8388607; o[b + 14] = (w10 >>> 2) & 8388607; o[b + 15] = ((w10 >>> 25) | (w11 << 7)) & 8388607;
  o[b + 16] = ((w11 >>> 16) | (w12 << 16)) & 8388607; o[b + 17] = (w12 >>> 7) & 8388607; o[b + 18] = ((w12 >>> 30) | (w13 << 2)) & 8388607; o[b + 19] = ((w13 >>> 21) | (w14 << 11)) & 8388607; o[b + 20] = ((w14 >>> 12) | (w15 << 20)) & 8388607; o[b + 21] = (w15 >>> 3) & 8388607; o[b + 22] = ((w15 >>> 26) | (w16 << 6)) & 8388607; o[b + 23] = ((w16 >>> 17) | (w17 << 15)) & 8388607;
  o[b + 24] = (w17 >>> 8) & 8388607; o[b + 25] = ((w17 >>> 31) | (w18 << 1)) & 8388607; o[b + 26] = ((w18 >>> 22) | (w19 << 10)) & 8388607; o[b + 27] = ((w19 >>> 13) | (w20 << 19)) & 8388607; o[b + 28] = (w20 >>> 4) & 8388607; o[b + 29] = ((w20 >>> 27) | (w21 << 5)) & 8388607; o[b + 30] = ((w21 >>> 18) | (w22 << 14)) & 8388607; o[b + 31] = w22 >>> 9;
}

function unpack24(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number; const w6 = w[a + 6] as number; const w7 = w[a + 7] as number;
  const w8 = w[a + 8] as number; const w9 = w[a + 9] as number; const w10 = w[a + 10] as number; const w11 = w[a + 11] as number; const w12 = w[a + 12] as number; const w13 = w[a + 13] as number; const w14 = w[a + 14] as number; const w15 = w[a + 15] as number;
  const w16 = w[a + 16] as number; const w17 = w[a + 17] as number; const w18 = w[a + 18] as number; const w19 = w[a + 19] as number; const w20 = w[a + 20] as number; const w21 = w[a + 21] as number; const w22 = w[a + 22] as number; const w23 = w[a + 23] as number;
  o[b + 0] = w0 & 16777215; o[b + 1] = ((w0 >>> 24) | (w1 << 8)) & 16777215; o[b + 2] = ((w1 >>> 16) | (w2 << 16)) & 16777215; o[b + 3] = w2 >>> 8; o[b + 4] = w3 & 16777215; o[b + 5] = ((w3 >>> 24) | (w4 << 8)) & 16777215; o[b + 6] = ((w4 >>> 16) | (w5 << 16)) & 16777215; o[b + 7] = w5 >>> 8;
  o[b + 8] = w6 & 16777215; o[b + 9] = ((w6 >>> 24) | (w7 << 8)) & 16777215; o[b + 10] = ((w7 >>> 16) | (w8 << 16)) & 16777215; o[b + 11] = w8 >>> 8; o[b + 12] = w9 & 16777215; o[b + 13] = ((w9 >>> 24) | (w10 << 8)) & 16777215; o[b + 14] = ((w10 >>> 16) | (w11 << 16)) & 16777215; o[b + 15] = w11 >>> 8;
  o[b + 16] = w12 & 16777215; o[b + 17] = ((w12 >>> 24) | (w13 << 8)) & 16777215; o[b + 18] = ((w13 >>> 16) | (w14 << 16)) & 16777215; o[b + 19] = w14 >>> 8; o[b + 20] = w15 & 16777215; o[b + 21] = ((w15 >>> 24) | (w16 << 8)) & 16777215; o[b + 22] = ((w16 >>> 16) | (w17 << 16)) & 16777215; o[b + 23] = w17 >>> 8;
  o[b + 24] = w18 & 16777215; o[b + 25] = ((w18 >>> 24) | (w19 << 8)) & 16777215; o[b + 26] = ((w19 >>> 16) | (w20 << 16)) & 16777215; o[b + 27] = w20 >>> 8; o[b + 28] = w21 & 16777215; o[b + 29] = ((w21 >>> 24) | (w22 << 8)) & 16777215; o[b + 30] = ((w22 >>> 16) | (w23 << 16)) & 16777215; o[b + 31] = w23 >>> 8;
}

function unpack25(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number; const w6 = w[a + 6] as number; const w7 = w[a + 7] as number;
  const w8 = w[a + 8] as number; const w9 = w[a + 9] as number; const w10 = w[a + 10] as number; const w11 = w[a + 11] as number; const w12 = w[a + 12] as number; const w13 = w[a + 13] as number; const w14 = w[a + 14] as number; const w15 = w[a + 15] as number;
  const w16 = w[a + 16] as number; const w17 = w[a + 17] as number; const w18 = w[a + 18] as number; const w19 = w[a + 19] as number; const w20 = w[a + 20] as number; const w21 = w[a + 21] as number; const w22 = w[a + 22] as number; const w23 = w[a + 23] as number;
  const w24 = w[a + 24] as number;
  o[b + 0] = w0 & 33554431; o[b + 1] = ((w0 >>> 25) | (w1 << 7)) & 33554431; o[b + 2] = ((w1 >>> 18) | (w2 << 14)) & 33554431; o[b + 3] = ((w2 >>> 11) | (w3 << 21)) & 33554431; o[b + 4] = (w3 >>> 4) & 33554431; o[b + 5] = ((w3 >>> 29) | (w4 << 3)) & 33554431; o[b + 6] = ((w4 >>> 22) | (w5 << 10)) & 33554431; o[b + 7] = ((w5 >>> 15) | (w6 << 17)) & 33554431;
  o[b + 8] = ((w6 >>> 8) | (w7 << 24)) & 33554431; o[b + 9] = (w7 >>> 1) & 33554431; o[b + 10] = ((w7 >>> 26) | (w8 << 6)) & 33554431; o[b + 11] = ((w8 >>> 19) | (w9 << 13)) & 33554431; o[b + 12] = ((w9 >>> 12) | (w10 << 20)) & 33554431; o[b + 13] = (w10 >>> 5) & 33554431; o[b + 14] = ((w10 >>> 30) | (w11 << 2)) & 33554431; o[b + 15] = ((w11 >>> 23) | (w12 << 9)) & 33554431;
  o[b + 16] = ((w12 >>> 16) | (w13 << 16)) & 33554431; o[b + 17] = ((w13 >>> 9) | (w14 << 23)) & 33554431; o[b + 18] = (w14 >>> 2) & 33554431; o[b + 19] = ((w14 >>> 27) | (w15 << 5)) & 33554431; o[b + 20] = ((w15 >>> 20) | (w16 << 12)) & 33554431; o[b + 21] = ((w16 >>> 13) | (w17 << 19)) & 33554431; o[b + 22] = (w17 >>> 6) & 33554431; o[b + 23] = ((w17 >>> 31) | (w18 << 1)) & 33554431;
  o[b + 24] = ((w18 >>> 24) | (w19 << 8)) & 33554431; o[b + 25] = ((w19 >>> 17) | (w20 << 15)) & 33554431; o[b + 26] = ((w20 >>> 10) | (w21 << 22)) & 33554431; o[b + 27] = (w21 >>> 3) & 33554431; o[b + 28] = ((w21 >>> 28) | (w22 << 4)) & 33554431; o[b + 29] = ((w22 >>> 21) | (w23 << 11)) & 33554431; o[b + 30] = ((w23 >>> 14) | (w24 << 18)) & 33554431; o[b + 31] = w24 >>> 7;
}

function unpack26(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number; const w6 = w[a + 6] as number; const w7 = w[a + 7] as number;
  const w8 = w[a + 8] as number; const w9 = w[a + 9] as number; const w10 = w[a + 10] as number; const w11 = w[a + 11] as number; const w12 = w[a + 12] as number; const w13 = w[a + 13] as number; const w14 = w[a + 14] as number; const w15 = w[a + 15] as number;
  const w16 = w[a + 16] as number; const w17 = w[a + 17] as number; const w18 = w[a + 18] as number; const w19 = w[a + 19] as number; const w20 = w[a + 20] as number; const w21 = w[a + 21] as number; const w22 = w[a + 22] as number; const w23 = w[a + 23] as number;
  const w24 = w[a + 24] as number; const w25 = w[a + 25] as number;
  o[b + 0] = w0 & 67108863; o[b + 1] = ((w0 >>> 26) | (w1 << 6)) & 67108863; o[b + 2] = ((w1 >>> 20) | (w2 << 12)) & 67108863; o[b + 3] = ((w2 >>> 14) | (w3 << 18)) & 67108863; o[b + 4] = ((w3 >>> 8) | (w4 << 24)) & 67108863; o[b + 5] = (w4 >>> 2) & 67108863; o[b + 6] = ((w4 >>> 28) | (w5 << 4)) & 67108863; o[b + 7] = ((w5 >>> 22) | (w6 << 10)) & 67108863;
  o[b + 8] = ((w6 >>> 16) | (w7 << 16)) & 67108863; o[b + 9] = ((w7 >>> 10) | (w8 << 22)) & 67108863; o[b + 10] = (w8 >>> 4) & 67108863; o[b + 11] = ((w8 >>> 30) | (w9 << 2)) & 67108863; o[b + 12] = ((w9 >>> 24) | (w10 << 8)) & 67108863; o[b + 13] = ((w10 >>> 18) | (w11 << 14)) & 67108863; o[b + 14] = ((w11 >>> 12) | (w12 << 20)) & 67108863; o[b + 15] = w12 >>> 6;
  o[b + 16] = w13 & 67108863; o[b + 17] = ((w13 >>> 26) | (w14 << 6)) & 67108863; o[b + 18] = ((w14 >>> 20) | (w15 << 12)) & 67108863; o[b + 19] = ((w15 >>> 14) | (w16 << 18)) & 67108863; o[b + 20] = ((w16 >>> 8) | (w17 << 24)) & 67108863; o[b + 21] = (w17 >>> 2) & 67108863; o[b + 22] = ((w17 >>> 28) | (w18 << 4)) & 67108863; o[b + 23] = ((w18 >>> 22) | (w19 << 10)) & 67108863;
  o[b + 24] = ((w19 >>> 16) | (w20 << 16)) & 67108863; o[b + 25] = ((w20 >>> 10) | (w21 << 22)) & 67108863; o[b + 26] = (w21 >>> 4) & 67108863; o[b + 27] = ((w21 >>> 30) | (w22 << 2)) & 67108863; o[b + 28] = ((w22 >>> 24) | (w23 << 8)) & 67108863; o[b + 29] = ((w23 >>> 18) | (w24 << 14)) & 67108863; o[b + 30] = ((w24 >>> 12) | (w25 << 20)) & 67108863; o[b + 31] = w25 >>> 6;
}

function unpack27(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number; const w6 = w[a + 6] as number; const w7 = w[a + 7] as number;
  const w8 = w[a + 8] as number; const w9 = w[a + 9] as number; const w10 = w[a + 10] as number; const w11 = w[a + 11] as number; const w12 = w[a + 12] as number; const w13 = w[a + 13] as number; const w14 = w[a + 14] as number; const w15 = w[a + 15] as number;
  const w16 = w[a + 16] as number; const w17 = w[a + 17] as number; const w18 = w[a + 18] as number; const w19 = w[a + 19] as number; const w20 = w[a + 20] as number; const w21 = w[a + 21] as number; const w22 = w[a + 22] as number; const w23 = w[a + 23] as number;
  const w24 = w[a + 24] as number; const w25 = w[a + 25] as number; const w26 = w[a + 26] as number;
  o[b + 0] = w0 & 134217727; o[b + 1] = ((w0 >>> 27) | (w1 << 5)) & 134217727; o[b + 2] = ((w1 >>> 22) | (w2 << 10)) & 134217727; o[b + 3] = ((w2 >>> 17) | (w3 << 15)) & 134217727; o[b + 4] = ((w3 >>> 12) | (w4 << 20)) & 134217727; o[b + 5] = ((w4 >>> 7) | (w5 << 25)) & 134217727; o[b + 6] = (w5 >>> 2) & 134217727; o[b + 7] = ((w5 >>> 29) | (w6 << 3)) & 134217727;
  o[b + 8] = ((w6 >>> 24) | (w7 << 8)) & 134217727; o[b + 9] = ((w7 >>> 19) | (w8 << 13)) & 134217727; o[b + 10] = ((w8 >>> 14) | (w9 << 18)) & 134217727; o[b + 11] = ((w9 >>> 9) | (w10 << 23)) & 134217727; o[b + 12] = (w10 >>> 4) & 134217727; o[b + 13] = ((w10 >>> 31) | (w11 << 1)) & 134217727; o[b + 14] = ((w11 >>> 26) | (w12 << 6)) & 134217727; o[b + 15] = ((w12 >>> 21) | (w13 << 11)) & 134217727;
  o[b + 16] = ((w13 >>> 16) | (w14 << 16)) & 134217727; o[b + 17] = ((w14 >>> 11) | (w15 << 21)) & 134217727; o[b + 18] = ((w15 >>> 6) | (w16 << 26)) & 134217727; o[b + 19] = (w16 >>> 1) & 134217727; o[b + 20] = ((w16 >>> 28) | (w17 << 4)) & 134217727; o[b + 21] = ((w17 >>> 23) | (w18 << 9)) & 134217727; o[b + 22] = ((w18 >>> 18) | (w19 << 14)) & 134217727; o[b + 23] = ((w19 >>> 13) | (w20 << 19)) & 134217727;
  o[b + 24] = ((w20 >>> 8) | (w21 << 24)) & 134217727; o[b + 25] = (w21 >>> 3) & 134217727; o[b + 26] = ((w21 >>> 30) | (w22 << 2)) & 134217727; o[b + 27] = ((w22 >>> 25) | (w23 << 7)) & 134217727; o[b + 28] = ((w23 >>> 20) | (w24 << 12)) & 134217727; o[b + 29] = ((w24 >>> 15) | (w25 << 17)) & 134217727; o[b + 30] = ((w25 >>> 10) | (w26 << 22)) & 134217727; o[b + 31] = w26 >>> 5;
}

function unpack28(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number; const w6 = w[a + 6] as number; const w7 = w[a + 7] as number;
  const w8 = w[a + 8] as number; const w9 = w[a + 9] as number; const w10 = w[a + 10] as number; const w11 = w[a + 11] as number; const w12 = w[a + 12] as number; const w13 = w[a + 13] as number; const w14 = w[a + 14] as number; const w15 = w[a + 15] as number;
  const w16 = w[a + 16] as number; const w17 = w[a + 17] as number; const w18 = w[a + 18] as number; const w19 = w[a + 19] as number; const w20 = w[a + 20] as number; const w21 = w[a + 21] as number; const w22 = w[a + 22] as number; const w23 = w[a + 23] as number;
  const w24 = w[a + 24] as number; const w25 = w[a + 25] as number; const w26 = w[a + 26] as number; const w27 = w[a + 27] as number;
  o[b + 0] = w0 & 268435455; o[b + 1] = ((w0 >>> 28) | (w1 << 4)) & 268435455; o[b + 2] = ((w1 >>> 24) | (w2 << 8)) & 268435455; o[b + 3] = ((w2 >>> 20) | (w3 << 12)) & 268435455; o[b + 4] = ((w3 >>> 16) | (w4 << 16)) & 268435455; o[b + 5] = ((w4 >>> 12) | (w5 << 20)) & 268435455; o[b + 6] = ((w5 >>> 8) | (w6 << 24)) & 268435455; o[b + 7] = w6 >>> 4;
  o[b + 8] = w7 & 268435455; o[b + 9] = ((w7 >>> 28) | (w8 << 4)) & 268435455; o[b + 10] = ((w8 >>> 24) | (w9 << 8)) & 268435455; o[b + 11] = ((w9 >>> 20) | (w10 << 12)) & 268435455; o[b + 12] = ((w10 >>> 16) | (w11 << 16)) & 268435455; o[b + 13] = ((w11 >>> 12) | (w12 << 20)) & 268435455; o[b + 14] = ((w12 >>> 8) | (w13 << 24)) & 268435455; o[b + 15] = w13 >>> 4;
  o[b + 16] = w14 & 268435455; o[b + 17] = ((w14 >>> 28) | (w15 << 4)) & 268435455; o[b + 18] = ((w15 >>> 24) | (w16 << 8)) & 268435455; o[b + 19] = ((w16 >>> 20) | (w17 << 12)) & 268435455; o[b + 20] = ((w17 >>> 16) | (w18 << 16)) & 268435455; o[b + 21] = ((w18 >>> 12) | (w19 << 20)) & 268435455; o[b + 22] = ((w19 >>> 8) | (w20 << 24)) & 268435455; o[b + 23] = w20 >>> 4;
  o[b + 24] = w21 & 268435455; o[b + 25] = ((w21 >>> 28) | (w22 << 4)) & 268435455; o[b + 26] = ((w22 >>> 24) | (w23 << 8)) & 268435455; o[b + 27] = ((w23 >>> 20) | (w24 << 12)) & 268435455; o[b + 28] = ((w24 >>> 16) | (w25 << 16)) & 268435455; o[b + 29] = ((w25 >>> 12) | (w26 << 20)) & 268435455; o[b + 30] = ((w26 >>> 8) | (w27 << 24)) & 268435455; o[b + 31] = w27 >>> 4;
}

function unpack29(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number; const w6 = w[a + 6] as number; const w7 = w[a + 7] as number;
  const w8 = w[a + 8] as number; const w9 = w[a + 9] as number; const w10 = w[a + 10] as number; const w11 = w[a + 11] as number; const w12 = w[a + 12] as number; const w13 = w[a + 13] as number; const w14 = w[a + 14] as number; const w15 = w[a + 15] as number;
  const w16 = w[a + 16] as number; const w17 = w[a + 17] as number; const w18 = w[a + 18] as number; const w19 = w[a + 19] as number; const w20 = w[a + 20] as number; const w21 = w[a + 21] as number; const w22 = w[a + 22] as number; const w23 = w[a + 23] as number;
  const w24 = w[a + 24] as number; const w25 = w[a + 25] as number; const w26 = w[a + 26] as number; const w27 = w[a + 27] as number; const w28 = w[a + 28] as number;
  o[b + 0] = w0 & 536870911; o[b + 1] = ((w0 >>> 29) | (w1 << 3)) & 536870911; o[b + 2] = ((w1 >>> 26) | (w2 << 6)) & 536870911; o[b + 3] = ((w2 >>> 23) | (w3 << 9)) & 536870911; o[b + 4] = ((w3 >>> 20) | (w4 << 12)) & 536870911; o[b + 5] = ((w4 >>> 17) | (w5 << 15)) & 536870911; o[b + 6] = ((w5 >>> 14) | (w6 << 18)) & 536870911; o[b + 7] = ((w6 >>> 11) | (w7 << 21)) & 536870911;
  o[b + 8] = ((w7 >>> 8) | (w8 << 24)) & 536870911; o[b + 9] = ((w8 >>> 5) | (w9 << 27)) & 536870911; o[b + 10] = (w9 >>> 2) & 536870911; o[b + 11] = ((w9 >>> 31) | (w10 << 1)) & 536870911; o[b + 12] = ((w10 >>> 28) | (w11 << 4)) & 536870911; o[b + 13] = ((w11 >>> 25) | (w12 << 7)) & 536870911; o[b + 14] = ((w12 >>> 22) | (w13 << 10)) & 536870911; o[b + 15] = ((w13 >>> 19) | (w14 << 13)) & 536870911;
  o[b + 16] = ((w14 >>> 16) | (w15 << 16)) & 536870911; o[b + 17] = ((w15 >>> 13) | (w16 << 19)) & 536870911; o[b + 18] = ((w16 >>> 10) | (w17 << 22)) & 536870911; o[b + 19] = ((w17 >>> 7) | (w18 << 25)) & 536870911; o[b + 20] = ((w18 >>> 4) | (w19 << 28)) & 536870911; o[b + 21] = (w19 >>> 1) & 536870911; o[b + 22] = ((w19 >>> 30) | (w20 << 2)) & 536870911; o[b + 23] = ((w20 >>> 27) | (w21 << 5)) & 536870911;
  o[b + 24] = ((w21 >>> 24) | (w22 << 8)) & 536870911; o[b + 25] = ((w22 >>> 21) | (w23 << 11)) & 536870911; o[b + 26] = ((w23 >>> 18) | (w24 << 14)) & 536870911; o[b + 27] = ((w24 >>> 15) | (w25 << 17)) & 536870911; o[b + 28] = ((w25 >>> 12) | (w26 << 20)) & 536870911; o[b + 29] = ((w26 >>> 9) | (w27 << 23)) & 536870911; o[b + 30] = ((w27 >>> 6) | (w28 << 26)) & 536870911; o[b + 31] = w28 >>> 3;
}

function unpack30(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number; const w6 = w[a + 6] as number; const w7 = w[a + 7] as number;
  const w8 = w[a + 8] as number; const w9 = w[a + 9] as number; const w10 = w[a + 10] as number; const w11 = w[a + 11] as number; const w12 = w[a + 12] as number; const w13 = w[a + 13] as number; const w14 = w[a + 14] as number; const w15 = w[a + 15] as number;
  const w16 = w[a + 16] as number; const w17 = w[a + 17] as number; const w18 = w[a + 18] as number; const w19 = w[a + 19] as number; const w20 = w[a + 20] as number; const w21 = w[a + 21] as number; const w22 = w[a + 22] as number; const w23 = w[a + 23] as number;
  const w24 = w[a + 24] as number; const w25 = w[a + 25] as number; const w26 = w[a + 26] as number; const w27 = w[a + 27] as number; const w28 = w[a + 28] as number; const w29 = w[a + 29] as number;
  o[b + 0] = w0 & 1073741823; o[b + 1] = ((w0 >>> 30) | (w1 << 2)) & 1073741823; o[b + 2] = ((w1 >>> 28) | (w2 << 4)) & 1073741823; o[b + 3] = ((w2 >>> 26) | (w3 << 6)) & 1073741823; o[b + 4] = ((w3 >>> 24) | (w4 << 8)) & 1073741823; o[b + 5] = ((w4 >>> 22) | (w5 << 10)) & 1073741823; o[b + 6] = ((w5 >>> 20) | (w6 << 12)) & 1073741823; o[b + 7] = ((w6 >>> 18) | (w7 << 14)) & 1073741823;
  o[b + 8] = ((w7 >>> 16) | (w8 << 16)) & 1073741823; o[b + 9] = ((w8 >>> 14) | (w9 << 18)) & 1073741823; o[b + 10] = ((w9 >>> 12) | (w10 << 20)) & 1073741823; o[b + 11] = ((w10 >>> 10) | (w11 << 22)) & 1073741823; o[b + 12] = ((w11 >>> 8) | (w12 << 24)) & 1073741823; o[b + 13] = ((w12 >>> 6) | (w13 << 26)) & 1073741823; o[b + 14] = ((w13 >>> 4) | (w14 << 28)) & 1073741823; o[b + 15] = w14 >>> 2;
  o[b + 16] = w15 & 1073741823; o[b + 17] = ((w15 >>> 30) | (w16 << 2)) & 1073741823; o[b + 18] = ((w16 >>> 28) | (w17 << 4)) & 1073741823; o[b + 19] = ((w17 >>> 26) | (w18 << 6)) & 1073741823; o[b + 20] = ((w18 >>> 24) | (w19 << 8)) & 1073741823; o[b + 21] = ((w19 >>> 22) | (w20 << 10)) & 1073741823; o[b + 22] = ((w20 >>> 20) | (w21 << 12)) & 1073741823; o[b + 23] = ((w21 >>> 18) | (w22 << 14)) & 1073741823;
  o[b + 24] = ((w22 >>> 16) | (w23 << 16)) & 1073741823; o[b + 25] = ((w23 >>> 14) | (w24 << 18)) & 1073741823; o[b + 26] = ((w24 >>> 12) | (w25 << 20)) & 1073741823; o[b + 27] = ((w25 >>> 10) | (w26 << 22)) & 1073741823; o[b + 28] = ((w26 >>> 8) | (w27 << 24)) & 1073741823; o[b + 29] = ((w27 >>> 6) | (w28 << 26)) & 1073741823; o[b + 30] = ((w28 >>> 4) | (w29 << 28)) & 1073741823; o[b + 31] = w29 >>> 2;
}

function unpack31(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number; const w6 = w[a + 6] as number; const w7 = w[a + 7] as number;
  const w8 = w[a + 8] as number; const w9 = w[a + 9] as number; const w10 = w[a + 10] as number; const w11 = w[a + 11] as number; const w12 = w[a + 12] as number; const w13 = w[a + 13] as number; const w14 = w[a + 14] as number; const w15 = w[a + 15] as number;
  const w16 = w[a + 16] as number; const w17 = w[a + 17] as number; const w18 = w[a + 18] as number; const w19 = w[a + 19] as number; const w20 = w[a + 20] as number; const w21 = w[a + 21] as number; const w22 = w[a + 22] as number; const w23 = w[a + 23] as number;
  const w24 = w[a + 24] as number; const w25 = w[a + 25] as number; const w26 = w[a + 26] as number; const w27 = w[a + 27] as number; const w28 = w[a + 28] as number; const w29 = w[a + 29] as number; const w30 = w[a + 30] as number;
  o[b + 0] = w0 & 2147483647; o[b + 1] = ((w0 >>> 31) | (w1 << 1)) & 2147483647; o[b + 2] = ((w1 >>> 30) | (w2 << 2)) & 2147483647; o[b + 3] = ((w2 >>> 29) | (w3 << 3)) & 2147483647; o[b + 4] = ((w3 >>> 28) | (w4 << 4)) & 2147483647; o[b + 5] = ((w4 >>> 27) | (w5 << 5)) & 2147483647; o[b + 6] = ((w5 >>> 26) | (w6 << 6)) & 2147483647; o[b + 7] = ((w6 >>> 25) | (w7 << 7)) & 2147483647;
  o[b + 8] = ((w7 >>> 24) | (w8 << 8)) & 2147483647; o[b + 9] = ((w8 >>> 23) | (w9 << 9)) & 2147483647; o[b + 10] = ((w9 >>> 22) | (w10 << 10)) & 2147483647; o[b + 11] = ((w10 >>> 21) | (w11 << 11)) & 2147483647; o[b + 12] = ((w11 >>> 20) | (w12 << 12)) & 2147483647; o[b + 13] = ((w12 >>> 19) | (w13 << 13)) & 2147483647; o[b + 14] = ((w13 >>> 18) | (w14 << 14)) & 2147483647; o[b + 15] = ((w14 >>> 17) | (w15 << 15)) & 2147483647;
  o[b + 16] = ((w15 >>> 16) | (w16 << 16)) & 2147483647; o[b + 17] = ((w16 >>> 15) | (w17 << 17)) & 2147483647; o[b + 18] = ((w17 >>> 14) | (w18 << 18)) & 2147483647; o[b + 19] = ((w18 >>> 13) | (w19 << 19)) & 2147483647; o[b + 20] = ((w19 >>> 12) | (w20 << 20)) & 2147483647; o[b + 21] = ((w20 >>> 11) | (w21 << 21)) & 2147483647; o[b + 22] = ((w21 >>> 10) | (w22 << 22)) & 2147483647; o[b + 23] = ((w22 >>> 9) | (w23 << 23)) & 2147483647;
  o[b + 24] = ((w23 >>> 8) | (w24 << 24)) & 2147483647; o[b + 25] = ((w24 >>> 7) | (w25 << 25)) & 2147483647; o[b + 26] = ((w25 >>> 6) | (w26 << 26)) & 2147483647; o[b + 27] = ((w26 >>> 5) | (w27 << 27)) & 2147483647; o[b + 28] = ((w27 >>> 4) | (w28 << 28)) & 2147483647; o[b + 29] = ((w28 >>> 3) | (w29 << 29)) & 2147483647; o[b + 30] = ((w29 >>> 2) | (w30 << 30)) & 2147483647; o[b + 31] = w30 >>> 1;
}

function unpack32(w: Uint32Array, a: number, o: Uint32Array, b: number): void {
  const w0 = w[a] as number; const w1 = w[a + 1] as number; const w2 = w[a + 2] as number; const w3 = w[a + 3] as number; const w4 = w[a + 4] as number; const w5 = w[a + 5] as number; const w6 = w[a + 6] as number; const w7 = w[a + 7] as number;
  const w8 = w[a + 8] as number; const w9 = w[a + 9] as number; const w10 = w[a + 10] as number; const w11 = w[a + 11] as number; const w12 = w[a + 12] as number; const w13 = w[a + 13] as number; const w14 = w[a + 14] as number; const w15 = w[a + 15] as number;
  const w16 = w[a + 16] as number; const w17 = w[a + 17] as number; const w18 = w[a + 18] as number; const w19 = w[a + 19] as number; const w20 = w[a + 20] as number; const w21 = w[a + 21] as number; const w22 = w[a + 22] as number; const w23 = w[a + 23] as number;
  const w24 = w[a + 24] as number; const w25 = w[a + 25] as number; const w26 = w[a + 26] as number; const w27 = w[a + 27] as number; const w28 = w[a + 28] as number; const w29 = w[a + 29] as number; const w30 = w[a + 30] as number; const w31 = w[a + 31] as number;
  o[b + 0] = w0; o[b + 1] = w1; o[b + 2] = w2; o[b + 3] = w3; o[b + 4] = w4; o[b + 5] = w5; o[b + 6] = w6; o[b + 7] = w7;
  o[b + 8] = w8; o[b + 9] = w9; o[b + 10] = w10; o[b + 11] = w11; o[b + 12] = w12; o[b + 13] = w13; o[b + 14] = w14; o[b + 15] = w15;
  o[b + 16] = w16; o[b + 17] = w17; o[b + 18] = w18; o[b + 19] = w19; o[b + 20] = w20; o[b + 21] = w21; o[b + 22] = w22; o[b + 23] = w23;
  o[b + 24] = w24; o[b + 25] = w25; o[b + 26] = w26; o[b + 27] = w27; o[b + 28] = w28; o[b + 29] = w29; o[b + 30] = w30; o[b + 31] = w31;
}
