import { utf8Text } from "../../text/utf8.ts";

/** Types of values as they go over the wire: BER tags of RFC 2578 §7.1 and RFC 3416 §3. */
export const snmpType = {
  integer: 2,
  text: 4,
  oid: 6,
  address: 64,
  counter32: 65,
  gauge32: 66,
  timeTicks: 67,
  opaque: 68,
  counter64: 70,
} as const;

/**
 * One variable of a device: its number, its type, and what it holds. Integers of 64 bits are doubles here: exact up to
 * 2^53.
 */
export interface VarBind {
  readonly oid: string;
  readonly type: number;
  readonly value: number | string | Uint8Array | null;
}

const typeWords: Readonly<Record<number, string>> = {
  [snmpType.integer]: "Integer32",
  [snmpType.text]: "text",
  [snmpType.oid]: "number of an object",
  [snmpType.address]: "address",
  [snmpType.counter32]: "Counter32",
  [snmpType.gauge32]: "Gauge32",
  [snmpType.timeTicks]: "TimeTicks",
  [snmpType.opaque]: "opaque",
  [snmpType.counter64]: "Counter64",
};

export function wordsOfType(type: number): string {
  return typeWords[type] ?? `type ${type}`;
}

/** The value as a number; NaN where it is none. TimeTicks are hundredths of a second and become seconds. */
export function numberOf({ type, value }: VarBind): number {
  if (type === snmpType.opaque && value instanceof Uint8Array) return opaqueFloat(value);
  if (typeof value !== "number")
    return typeof value === "string" && type === snmpType.text && /^\s*-?\d+(\.\d+)?\s*$/.test(value)
      ? Number(value)
      : Number.NaN;
  return type === snmpType.timeTicks ? value / 100 : value;
}

/**
 * Agents of Linux wrap a float: 9f 78 04 and four bytes of IEEE 754, the most significant first. From memory of their
 * module.
 */
function opaqueFloat(bytes: Uint8Array): number {
  if (bytes.length !== 7 || bytes[0] !== 0x9f || bytes[1] !== 0x78) return Number.NaN;
  return new DataView(bytes.buffer, bytes.byteOffset).getFloat32(3);
}

/** The value as text: what is UTF-8 as it stands, other bytes as hexadecimal digits in pairs. */
export function textOf({ value }: VarBind): string {
  if (value instanceof Uint8Array) return textOfBytes(value);
  return value === null ? "" : String(value);
}

function textOfBytes(bytes: Uint8Array): string {
  let end = bytes.length;
  while (end > 0 && bytes[end - 1] === 0) end--;
  let isPlain = true;
  for (let i = 0; i < end && isPlain; i++) {
    const byte = bytes[i];
    isPlain = byte >= 0x20 && byte < 0x7f;
  }
  const shown = bytes.subarray(0, end);
  if (isPlain) return utf8Text(shown) as string;
  const text = decodeUtf8(shown);
  return text ?? hexPairs(bytes);
}

const hexDigits = Uint8Array.from("0123456789abcdef", (digit) => digit.charCodeAt(0));

function hexPairs(bytes: Uint8Array): string {
  const pairs = new Uint8Array(Math.max(0, bytes.length * 3 - 1)).fill(0x20);
  for (const [i, byte] of bytes.entries()) {
    pairs[i * 3] = hexDigits[byte >> 4];
    pairs[i * 3 + 1] = hexDigits[byte & 15];
  }
  return utf8Text(pairs) as string;
}

function decodeUtf8(bytes: Uint8Array): string | undefined {
  const text = utf8Text(bytes);
  return text === undefined || hasControlSign(text) ? undefined : text;
}

function hasControlSign(text: string): boolean {
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    if (code < 0x20 || code === 0x7f) return true;
  }
  return false;
}

/** Order of numbers, piece by piece (RFC 3416 §4.2.2). */
export function compareOids(a: string, b: string): number {
  const [left, right] = [a.split("."), b.split(".")];
  for (let i = 0; i < Math.min(left.length, right.length); i++) {
    const difference = Number(left[i]) - Number(right[i]);
    if (difference !== 0) return difference;
  }
  return left.length - right.length;
}

/** Whether a number is below another, or that one itself. */
export function isBelow(oid: string, base: string): boolean {
  return oid === base || (oid.startsWith(base) && oid.charCodeAt(base.length) === 46);
}
