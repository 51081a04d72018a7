import { isComment, type KnownLines } from "./known-lines.ts";
import { mostDigits, powers } from "./number-bytes.ts";

// Lines whose heads are the expected ones and whose numbers are plain: nearly all of a page. Both pages are copied into
// memory of the module, a window at a time: the compiler knows where a constant array lies, and looks that up at each
// access of any other, which takes several times as long as copying.

const windowBytes = 65_536;
const page = new Uint8Array(windowBytes + 1);
const pageView = new DataView(page.buffer);
const known = new Uint8Array(windowBytes);
const knownView = new DataView(known.buffer);

/** Value and time of a line have room in this. */
const longestNumbers = 64;

const newline = 0x0a;
const space = 0x20;
const mostPower = powers.length - 1;

/** Where the windows stand: what is copied is `[from, to)` of the page and of the known lines. */
const window = { pageFrom: 0, pageTo: 0, knownFrom: 0, knownTo: 0 };
let numberEnd = 0;

/** What plain lines are read of, and into. */
export interface PlainReading {
  readonly bytes: Uint8Array;
  readonly expected: KnownLines;
  /** By series, what its values must keep to (`page-reader.ts`). */
  readonly rules: Uint8Array;
  /** A series with any of these is read with more care, and one with any of the others where a value is below zero. */
  readonly careful: number;
  readonly neverNegative: number;
  /** Whether times are seconds, else ms. */
  readonly inSeconds: boolean;
  readonly which: Uint32Array;
  readonly timeMs: Float64Array;
  readonly value: Float64Array;
  /** Where reading goes on: in the page, in the known lines, and in what is taken. */
  at: number;
  next: number;
  taken: number;
}

/** Forgets what was copied: another page begins, or another piece of it. */
export function beginPlainLines(): void {
  window.pageTo = 0;
  window.knownTo = 0;
}

/**
 * Goes on while lines are the expected ones, comments or a series with a plain number and perhaps a plain time. Stops
 * before the first that is anything else, or not whole: whoever calls looks at that one with care.
 */
export function readPlainLines(reading: PlainReading): void {
  if (reading.expected.hasNul || reading.expected.hasRepeats) return;
  for (;;) {
    const begun = reading.next;
    moveWindows(reading);
    readInWindows(reading);
    if (reading.next === begun) return;
  }
}

/** Has the windows begin where reading goes on, once it has come near their end. */
function moveWindows({ bytes, expected, at, next }: PlainReading): void {
  const start = expected.starts[next];
  const size = expected.starts[Math.min(next + 1, expected.count)] - start;
  if (at + size + longestNumbers > window.pageTo && window.pageTo < bytes.length) {
    const to = Math.min(bytes.length, at + windowBytes);
    page.set(bytes.subarray(at, to));
    // No digit, so that a number ends there; it is no line feed either, so that its line is not whole.
    page[to - at] = 0;
    window.pageFrom = at;
    window.pageTo = to;
  }
  const end = expected.starts[expected.count];
  if (start + size > window.knownTo && window.knownTo < end) {
    const to = Math.min(end, start + windowBytes);
    known.set(expected.bytes.subarray(start, to));
    window.knownFrom = start;
    window.knownTo = to;
  }
}

function readInWindows(reading: PlainReading): void {
  const { expected, rules, careful, neverNegative, inSeconds, which, timeMs, value } = reading;
  const { starts, meanings, roles, count } = expected;
  const { pageFrom, knownFrom } = window;
  const pageSize = window.pageTo - pageFrom;
  const knownSize = window.knownTo - knownFrom;
  let { next, taken } = reading;
  let at = reading.at - pageFrom;
  let start = next < count ? starts[next] - knownFrom : 0;
  while (next < count) {
    const end = starts[next + 1] - knownFrom;
    const length = end - start;
    if (at + length > pageSize || end > knownSize || roles[next] !== 0) break;
    // Eight bytes of text without NUL are the same where they are the same number (IEEE 754: none of them is NaN or 0).
    let k = 0;
    const whole = length & ~7;
    while (k < whole && pageView.getFloat64(at + k, true) === knownView.getFloat64(start + k, true)) k += 8;
    if (k < whole) break;
    while (k < length && page[at + k] === known[start + k]) k++;
    if (k < length) break;
    const meaning = meanings[next];
    let lineEnd = at + length;
    if (meaning >= 0) {
      const number = plainNumber(lineEnd);
      if (Number.isNaN(number) || (rules[meaning] & careful) !== 0) break;
      if (number < 0 && (rules[meaning] & neverNegative) !== 0) break;
      let time = Number.NaN;
      if (page[numberEnd] === space) {
        time = plainNumber(numberEnd + 1);
        if (Number.isNaN(time) || (!inSeconds && time !== Math.floor(time))) break;
        if (inSeconds) time = Math.round(time * 1000);
      }
      if (page[numberEnd] !== newline) break;
      which[taken] = meaning;
      timeMs[taken] = time;
      value[taken++] = number;
      lineEnd = numberEnd + 1;
    } else if (meaning !== isComment) break;
    at = lineEnd;
    start = end;
    next++;
  }
  reading.at = at + pageFrom;
  reading.next = next;
  reading.taken = taken;
}

/**
 * As `numberOfBytes`: the number that begins in the page's window; `numberEnd` is where it ends. NaN where none begins
 * there that is plain: at most 15 digits, times an exact power of ten (to 10^22).
 */
function plainNumber(from: number): number {
  let i = from;
  const negative = page[i] === 0x2d;
  if (negative) i++;
  let mantissa = 0;
  const first = i;
  let c = page[i] - 0x30;
  while (c >= 0 && c <= 9) {
    mantissa = mantissa * 10 + c;
    c = page[++i] - 0x30;
  }
  let digits = i - first;
  let scale = 0;
  if (c === -2) {
    const point = i;
    c = page[++i] - 0x30;
    while (c >= 0 && c <= 9) {
      mantissa = mantissa * 10 + c;
      c = page[++i] - 0x30;
    }
    scale = point + 1 - i;
    digits -= scale;
  }
  numberEnd = i;
  if (digits === 0 || digits > mostDigits) return Number.NaN;
  if (c === 0x35 || c === 0x15) {
    const down = page[++i] === 0x2d;
    if (down || page[i] === 0x2b) i++;
    const begins = i;
    let exponent = 0;
    c = page[i] - 0x30;
    while (c >= 0 && c <= 9 && exponent < 1000) {
      exponent = exponent * 10 + c;
      c = page[++i] - 0x30;
    }
    if (i === begins) return Number.NaN;
    numberEnd = i;
    scale += down ? -exponent : exponent;
  }
  if (scale < -mostPower || scale > mostPower) return Number.NaN;
  const size = scale < 0 ? mantissa / powers[-scale] : mantissa * powers[scale];
  return negative ? -size : size;
}
