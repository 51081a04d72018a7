import { parseNumber } from "../../text/number-text.ts";
import { utf8Text } from "../../text/utf8.ts";

/** Those powers of ten that are exact. */
export const powers = Float64Array.from({ length: 23 }, (_, i) => Number(`1e${i}`));
/**
 * A decimal of at most 15 digits is below 2^53, so that one division by an exact power of ten rounds once: correctly.
 */
export const mostDigits = 15;

/**
 * The number that stands in `bytes[from..to)`; undefined where none stands there. What is short and plain is worked out
 * here, ten times
 * as fast as through text: a whole number of up to 15 digits, divided or multiplied by an exact power of ten (to
 * 10^22).
 */
export function numberOfBytes(bytes: Uint8Array, from: number, to: number): number | undefined {
  let i = from;
  const negative = bytes[i] === 0x2d;
  if (negative || bytes[i] === 0x2b) i++;
  let mantissa = 0;
  let digits = 0;
  let scale = 0;
  let c = bytes[i];
  while (i < to && c >= 0x30 && c <= 0x39) {
    mantissa = mantissa * 10 + (c - 0x30);
    digits++;
    c = bytes[++i];
  }
  if (i < to && c === 0x2e) {
    c = bytes[++i];
    while (i < to && c >= 0x30 && c <= 0x39) {
      mantissa = mantissa * 10 + (c - 0x30);
      digits++;
      scale--;
      c = bytes[++i];
    }
  }
  if (digits === 0 || digits > mostDigits) return parseNumber(utf8Text(bytes, from, to) ?? "");
  if (i < to) {
    if (c !== 0x65 && c !== 0x45) return undefined;
    c = bytes[++i];
    const down = c === 0x2d;
    if (down || c === 0x2b) c = bytes[++i];
    let exponent = 0;
    const first = i;
    while (i < to && c >= 0x30 && c <= 0x39 && exponent < 1000) {
      exponent = exponent * 10 + (c - 0x30);
      c = bytes[++i];
    }
    if (i === first) return undefined;
    if (i < to) return parseNumber(utf8Text(bytes, from, to) ?? "");
    scale += down ? -exponent : exponent;
  }
  if (scale < -22 || scale > 22) return parseNumber(utf8Text(bytes, from, to) ?? "");
  const size = scale < 0 ? mantissa / powers[-scale] : mantissa * powers[scale];
  return negative ? -size : size;
}
