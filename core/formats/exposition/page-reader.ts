import type { Page } from "../../pages/page.ts";
import type { FileSeries } from "../../pages/file-series.ts";
import { TextError } from "../../pages/text-error.ts";
import { BucketRules } from "./bucket-rules.ts";
import { type Dialect, Families, type SampleSense } from "./families.ts";
import { beginPlainLines, type PlainReading, readPlainLines } from "./plain-lines.ts";
import { isComment, KnownLines } from "./known-lines.ts";
import { numberOfBytes } from "./number-bytes.ts";
import { readLineHead } from "./sample-line.ts";
import type { Tags } from "../../counters/counter.ts";
import { setTag } from "../../counters/set-tag.ts";
import { utf8Text } from "../../text/utf8.ts";

export interface PageLimits {
  readonly lineBytes: number;
  readonly tags: number;
  /** Series that a page may have for the first time; those beyond are counted and not remembered. */
  readonly newSeries: number;
}

const defaultPageLimits: PageLimits = { lineBytes: 65_536, tags: 40, newSeries: 50_000 };

/** A line that is not gathered: its reason's number, below zero. */
const reasons = [
  "comment",
  "times of creation",
  "more tags than allowed",
  "more new series than a page may have",
] as const;
const noNumber = "no number (NaN)";
const isCreated = -2;
const hasManyTags = -3;
const isOneTooMany = -4;

const onlyGrows = 1;
const mayHaveExemplar = 2;
const notNegative = 4;
const isInfo = 8;
const isStateset = 16;
const byteOrderMark = [0xef, 0xbb, 0xbf] as const;
const lastLine = Uint8Array.from("# EOF", (letter) => letter.charCodeAt(0));

/**
 * Roles of a line among the buckets of its metric: a bucket, the first, one whose counts only grow; the count of all.
 */
const roles = { bucket: 1, first: 2, count: 4, grows: 8 } as const;

const newline = 0x0a;
const space = 0x20;
const hash = 0x23;
const carriageReturn = 0x0d;
const rowsAtFirst = 1024;

/**
 * Reads pages of OpenMetrics 1.0 or of the older text exposition format, piece by piece as they come, and remembers the
 * lines of the page
 * before: a page keeps its order, so that each line is compared with the one expected next and only its value is read.
 * A line that is not
 * the expected one is read in full, and so are those after it. Everything is checked before a page is answered: one
 * that breaks a rule gives
 * a TextError with line and column, and nothing of it.
 */
export class PageReader {
  /** All series that were ever read, by their index. */
  readonly series: FileSeries[] = [];
  /** Explanations by counter, as pages give them. */
  readonly help = new Map<string, string>();
  readonly #dialect: Dialect;
  readonly #limits: PageLimits;
  #newSeries = 0;
  /** Buckets of the metric that was read last as expected: their lines and counts. */
  #group: { readonly line: number; readonly count: number }[] = [];
  /** Lines read as expected whose value is no number: their series and times. */
  #without: { readonly series: number; readonly timeMs: number }[] = [];
  /** By series: 1 where values may not be negative or NaN, 2 where an exemplar may follow. */
  #rules = new Uint8Array(64);
  readonly #indexOf = new Map<string, number>();
  readonly #texts = new Map<string, string>();
  readonly #tags = new Map<string, Tags>();
  /** Lines of the page before, in its order. */
  #expected = new KnownLines();
  #next = 0;
  /** Lines of this page, once it differs; undefined while it goes as expected. */
  #fresh: KnownLines | undefined;
  #families: Families | undefined;
  #buckets = new BucketRules();
  #lastTime = new Map<number, number>();
  #which = new Uint32Array(rowsAtFirst);
  #timeMs = new Float64Array(rowsAtFirst);
  #value = new Float64Array(rowsAtFirst);
  #length = 0;
  #found = 0;
  #leftOut = new Map<string, number>();
  #rest = new Uint8Array(0);
  #line = 0;
  #ended = false;

  constructor(dialect: Dialect, limits: PageLimits = defaultPageLimits) {
    this.#dialect = dialect;
    this.#limits = limits;
  }

  /** Reads a whole page at once. Throws TextError. */
  read(bytes: Uint8Array): Page {
    this.begin();
    this.feed(bytes);
    return this.end();
  }

  /** Starts a page; what was fed of one before is forgotten. */
  begin(): void {
    this.#next = 0;
    this.#fresh = undefined;
    this.#length = 0;
    this.#found = 0;
    this.#leftOut = new Map();
    this.#rest = new Uint8Array(0);
    this.#line = 0;
    this.#ended = false;
    this.#newSeries = 0;
    this.#group = [];
    this.#without = [];
    this.#lastTime = new Map();
  }

  /** Reads what has come of the page. Throws TextError. */
  feed(bytes: Uint8Array): void {
    let from = 0;
    if (this.#rest.length > 0) {
      // Only the line that was cut is put together; the rest of the piece is read where it stands.
      const cut = bytes.indexOf(newline) + 1;
      const line = joined(this.#rest, cut === 0 ? bytes : bytes.subarray(0, cut));
      this.#rest = line.slice(this.#readLines(line));
      from = cut === 0 ? bytes.length : cut;
    }
    if (from < bytes.length) {
      const whole = from === 0 ? bytes : bytes.subarray(from);
      this.#rest = whole.slice(this.#readLines(whole));
    }
    if (this.#rest.length > this.#limits.lineBytes)
      throw new TextError(`the line is longer than ${this.#limits.lineBytes} bytes`, this.#line + 1);
  }

  /**
   * Ends the page and answers what it says. Its arrays are overwritten by the next page. Throws TextError where it was
   * cut off.
   */
  end(): Page {
    if (this.#rest.length > 0) {
      // its line feed may be left out
      const isLast = this.#rest.length === lastLine.length && lastLine.every((byte, i) => this.#rest[i] === byte);
      if ((this.#dialect === "text" || isLast) && !this.#ended)
        this.#readLines(joined(this.#rest, Uint8Array.of(newline)));
      else throw new TextError("the page ends within a line: it was cut off", this.#line + 1);
    }
    if (this.#dialect === "openmetrics" && !this.#ended)
      throw new TextError("the page ends without # EOF: it was cut off", this.#line + 1);
    if (this.#next !== this.#expected.count && !this.#fresh) this.#differ(); // fewer lines than before
    if (this.#fresh) {
      this.#buckets.end(this.#line);
      this.#families?.end();
      this.#expected = this.#fresh;
    }
    return {
      which: this.#which,
      timeMs: this.#timeMs,
      value: this.#value,
      length: this.#length,
      found: this.#found,
      leftOut: this.#leftOut,
    };
  }

  /** Reads all whole lines and answers where they end. */
  #readLines(bytes: Uint8Array): number {
    let at = this.#fresh ? 0 : this.#readExpected(bytes);
    while (at < bytes.length) {
      const end = bytes.indexOf(newline, at);
      if (end < 0) break;
      this.#line++;
      this.#readLine(bytes, at, end);
      at = end + 1;
    }
    return at;
  }

  /** Goes on while lines are the expected ones; answers where the first other one begins, or an unfinished one. */
  // biome-ignore lint/complexity/noExcessiveLinesPerFunction: one pass over a page, without a call a line
  #readExpected(bytes: Uint8Array): number {
    const { bytes: known, starts, meanings, count, roles: lineRoles, hasRepeats, hasNul } = this.#expected;
    // eight bytes at a time, wherever they stand
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
    const knownView = new DataView(known.buffer, known.byteOffset, known.length);
    const size = bytes.length;
    const rules = this.#rules;
    const strict = this.#dialect === "openmetrics";
    this.#makeRoom(count - this.#next);
    const [which, times, values] = [this.#which, this.#timeMs, this.#value];
    let taken = this.#length;
    const plain: PlainReading = {
      ...{
        bytes,
        expected: this.#expected,
        rules,
        careful: isInfo | isStateset,
        neverNegative: onlyGrows | notNegative,
      },
      ...{ inSeconds: strict, which, timeMs: times, value: values, at: 0, next: this.#next, taken },
    };
    beginPlainLines();
    let next = this.#next;
    let at = 0;
    for (;;) {
      Object.assign(plain, { at, next, taken });
      if (!this.#ended) readPlainLines(plain);
      ({ at, next, taken } = plain);
      if (next >= count || this.#ended) break;
      const start = starts[next];
      const length = starts[next + 1] - start;
      if (at + length > size) break;
      // Eight bytes of text without NUL are the same where they are the same number (IEEE 754: none of them is NaN or 0).
      const whole = hasNul ? 0 : length & ~7;
      let k = 0;
      while (k < whole && view.getFloat64(at + k, true) === knownView.getFloat64(start + k, true)) k += 8;
      if (k < whole) break;
      while (k < length && bytes[at + k] === known[start + k]) k++;
      if (k < length) break;
      const meaning = meanings[next];
      let end = at + length;
      if (meaning === isComment) {
        next++;
        at = end;
        continue;
      }
      const valueAt = end;
      while (end < size && bytes[end] !== newline && bytes[end] !== space) end++;
      if (end >= size) break; // not all of the line is here yet
      let timeMs = Number.NaN;
      let lineEnd = end;
      if (bytes[end] === space) {
        let hasExemplar = false;
        for (lineEnd = end; lineEnd < size && bytes[lineEnd] !== newline; lineEnd++)
          if (bytes[lineEnd] === hash) hasExemplar = true;
        if (lineEnd >= size || (hasExemplar && (meaning < 0 || !strict || (rules[meaning] & mayHaveExemplar) === 0)))
          break;
        if (hasExemplar) {
          const tail = timeBesideExemplar(utf8Text(bytes, valueAt, lineEnd));
          if (tail === undefined) break;
          timeMs = tail;
          this.#leave("exemplars");
        } else {
          const time = numberOfBytes(bytes, end + 1, lineEnd);
          if (time === undefined || time - time !== 0 || (!strict && !Number.isInteger(time))) break;
          timeMs = strict ? Math.round(time * 1000) : time;
        }
      }
      const value = numberOfBytes(bytes, valueAt, end);
      if (value === undefined || (strict && meaning >= 0 && rules[meaning] !== 0 && !keepsRule(rules[meaning], value)))
        break; // told in full by the careful reader
      const role = lineRoles[next];
      if (role !== 0 && !this.#keepsRole(role, next, value)) break;
      if (hasRepeats && meaning >= 0 && !this.#timeGrows(meaning, timeMs)) break;
      if (strict && Number.isNaN(value) && meaning >= 0) this.#without.push({ series: meaning, timeMs });
      next++;
      at = lineEnd + 1;
      if (meaning < 0) this.#leaveFound(reasons[-1 - meaning] as string);
      else if (Number.isNaN(value)) this.#leaveFound(noNumber);
      else {
        which[taken] = meaning;
        times[taken] = timeMs;
        values[taken++] = value;
      }
    }
    this.#line += next - this.#next;
    this.#found += taken - this.#length;
    this.#length = taken;
    this.#next = next;
    if (strict && count > 0 && next === count) this.#ended = true;
    if (at < size && (next >= count || bytes.indexOf(newline, at) >= 0)) this.#differ();
    return at;
  }

  /** Whether a count keeps to the rules of its metric's buckets; else the careful reader tells. */
  #keepsRole(role: number, line: number, value: number): boolean {
    const before = this.#group.at(-1)?.count ?? 0;
    if ((role & roles.count) !== 0) return value === before;
    if ((role & roles.first) !== 0) this.#group = [];
    else if ((role & roles.grows) !== 0 && value < before) return false;
    this.#group.push({ line, count: value });
    return true;
  }

  /** Whether a series' time is after the one before it in this page; notes it. */
  #timeGrows(series: number, timeMs: number): boolean {
    const before = this.#lastTime.get(series);
    if (before !== undefined && !(timeMs > before)) return false;
    this.#lastTime.set(series, Number.isNaN(timeMs) ? Number.POSITIVE_INFINITY : timeMs);
    return true;
  }

  /** From here on the page is read in full; what was as expected is brought to mind again. */
  #differ(): void {
    this.#families = new Families(this.#dialect, this.help);
    this.#buckets = new BucketRules();
    this.#lastTime = new Map();
    const strict = this.#dialect === "openmetrics";
    const fresh = new KnownLines();
    fresh.hasRepeats = this.#expected.hasRepeats;
    const counts = new Map(this.#group.map(({ line, count }) => [line, count]));
    const grouped = this.#group[0]?.line ?? Number.POSITIVE_INFINITY;
    if (strict) {
      for (let i = 0; i < this.#length; i++) this.#timeGrows(this.#which[i], this.#timeMs[i]);
      for (const { series, timeMs } of this.#without) this.#timeGrows(series, timeMs);
    }
    for (let i = 0; i < this.#next; i++) {
      const text = utf8Text(this.#expected.bytes, this.#expected.starts[i], this.#expected.starts[i + 1]) as string;
      const meaning = this.#expected.meanings[i];
      fresh.add(
        this.#expected.bytes,
        this.#expected.starts[i],
        this.#expected.starts[i + 1],
        meaning,
        this.#expected.roles[i],
      );
      if (meaning !== isComment) {
        const head = readLineHead(text, i + 1, strict);
        const { upTo, grows } = this.#families.sample(head, i + 1);
        if (!strict || i < grouped) continue;
        const count = counts.get(i);
        if (upTo !== undefined && count !== undefined) this.#buckets.bucket(head, upTo, count, grows, i + 1);
        else if (meaning >= 0) this.#buckets.other(head, this.#group.at(-1)?.count ?? 0, i + 1);
      } else if (text.trimStart().startsWith("#") && text !== "# EOF\n")
        this.#families.comment(text.slice(0, -1).trimStart(), i + 1);
    }
    this.#fresh = fresh;
  }

  // biome-ignore lint/complexity/noExcessiveLinesPerFunction: one pass over a page, without a call a line
  #readLine(bytes: Uint8Array, from: number, end: number): void {
    const line = this.#line;
    const strict = this.#dialect === "openmetrics";
    if (end - from > this.#limits.lineBytes)
      throw new TextError(`the line is longer than ${this.#limits.lineBytes} bytes`, line);
    if (this.#ended) throw new TextError("text follows # EOF", line, 1);
    const to = !strict && end > from && bytes[end - 1] === carriageReturn ? end - 1 : end;
    if (strict && byteOrderMark.every((byte, i) => bytes[from + i] === byte))
      throw new TextError("a byte order mark stands here; a page begins without one", line, 1);
    const text = utf8Text(bytes, from, to);
    if (text === undefined) throw new TextError("this is not UTF-8 text", line);
    const fresh = this.#fresh as KnownLines;
    const families = this.#families as Families;
    if (strict && text === "# EOF") {
      this.#ended = true;
      fresh.add(bytes, from, end + 1, isComment);
      return;
    }
    if (text.trimStart().startsWith("#")) {
      families.comment(text.trimStart(), line);
      fresh.add(bytes, from, end + 1, isComment);
      return;
    }
    if (text.trim() === "") {
      if (strict) throw new TextError("an empty line is not allowed here", line, 1);
      fresh.add(bytes, from, end + 1, isComment);
      return;
    }
    const head = readLineHead(text, line, strict);
    const { value, timeMs, exemplar } = readTail(text, head.length, line, strict);
    const sense = families.sample(head, line, value);
    if (exemplar) {
      if (!sense.exemplarAllowed)
        throw new TextError("an exemplar stands only at a counter or a bucket", line, head.length + 1);
      this.#leave("exemplars");
    }
    if (strict && sense.notNegative && value < 0)
      throw new TextError(`a quantile of ${head.name} is not below 0`, line, head.length + 1);
    if (strict && sense.grows && !(value >= 0))
      throw new TextError(
        `${head.name} only grows, ${text.slice(head.length).split(" ")[0]} cannot be its value`,
        line,
        head.length + 1,
      );
    const headEnd = from + utf8Length(text, head.length);
    const meaning = sense.created
      ? isCreated
      : head.labels.length > this.#limits.tags
        ? hasManyTags
        : this.#indexFor(utf8Text(bytes, from, headEnd) as string, sense);
    let role = 0;
    if (strict && meaning >= 0) {
      if (sense.upTo !== undefined) {
        const isFirst = this.#buckets.bucket(head, sense.upTo, value, sense.grows, line);
        role = roles.bucket | (isFirst ? roles.first : 0) | (sense.grows ? roles.grows : 0);
      } else {
        if (this.#buckets.isCount(head)) role = roles.count;
        this.#buckets.other(head, value, line);
      }
      if (this.#lastTime.has(meaning)) fresh.hasRepeats = true;
      if (!this.#timeGrows(meaning, timeMs))
        throw new TextError(
          `${head.name} stands there twice with these labels${Number.isNaN(timeMs) ? "" : ", and its time does not grow"}`,
          line,
          1,
        );
    }
    if (meaning !== isOneTooMany) fresh.add(bytes, from, headEnd, meaning, role);
    if (meaning < 0) this.#leaveFound(reasons[-1 - meaning] as string);
    else this.#take(meaning, timeMs, value);
  }

  #indexFor(head: string, sense: SampleSense): number {
    const { counter, unit, kind } = sense.series;
    const known = this.#indexOf.get(head);
    if (known !== undefined) {
      const series = this.series[known] as FileSeries;
      if (series.counter === counter && series.unit === unit && series.kind === kind) return known;
    }
    if (this.#newSeries >= this.#limits.newSeries) return isOneTooMany;
    this.#newSeries++;
    const index = this.series.length;
    this.series.push({
      counter: this.#shared(counter),
      unit: this.#shared(unit),
      kind,
      tags: this.#sharedTags(sense.series.tags),
    });
    this.#indexOf.set(head, index);
    if (index >= this.#rules.length) {
      const more = new Uint8Array(this.#rules.length * 4);
      more.set(this.#rules);
      this.#rules = more;
    }
    this.#rules[index] =
      (sense.grows ? onlyGrows : 0) |
      (sense.exemplarAllowed ? mayHaveExemplar : 0) |
      (sense.notNegative ? notNegative : 0) |
      (sense.isState === "info" ? isInfo : sense.isState === "stateset" ? isStateset : 0);
    return index;
  }

  /**
   * One text for all that are equal: labels repeat from series to series, and a piece of a line keeps the whole line in
   * memory.
   */
  #shared(text: string): string {
    const known = this.#texts.get(text);
    if (known !== undefined) return known;
    this.#texts.set(text, text);
    return text;
  }

  /** One object for all tags that are equal: counters of a page are told for the same parts. */
  #sharedTags(told: Tags): Tags {
    const text = JSON.stringify(told);
    const known = this.#tags.get(text);
    if (known) return known;
    const tags: Record<string, string> = {};
    // set one by one, objects of the same tags share their shape
    for (const [tag, value] of Object.entries(told)) setTag(tags, this.#shared(tag), this.#shared(value));
    this.#tags.set(text, tags);
    return tags;
  }

  #take(which: number, timeMs: number, value: number): void {
    if (Number.isNaN(value)) {
      this.#leaveFound(noNumber);
      return;
    }
    this.#found++;
    this.#makeRoom(1);
    this.#which[this.#length] = which;
    this.#timeMs[this.#length] = timeMs;
    this.#value[this.#length++] = value;
  }

  /** Has place for so many more samples. */
  #makeRoom(more: number): void {
    while (this.#length + more > this.#which.length) {
      this.#which = wider(this.#which, Uint32Array);
      this.#timeMs = wider(this.#timeMs, Float64Array);
      this.#value = wider(this.#value, Float64Array);
    }
  }

  #leaveFound(reason: string): void {
    this.#found++;
    this.#leave(reason);
  }

  #leave(reason: string): void {
    this.#leftOut.set(reason, (this.#leftOut.get(reason) ?? 0) + 1);
  }
}

/**
 * Whether a value keeps what its series must keep to. That one state alone is 1, the careful reader tells: there it
 * begins.
 */
function keepsRule(rule: number, value: number): boolean {
  if ((rule & onlyGrows) !== 0 && !(value >= 0)) return false;
  if ((rule & notNegative) !== 0 && value < 0) return false;
  if ((rule & isInfo) !== 0 && value !== 1) return false;
  return (rule & isStateset) === 0 || value === 0;
}

/** Value, time and exemplar of a line. Throws TextError. */
function readTail(
  text: string,
  from: number,
  line: number,
  strict: boolean,
): { readonly value: number; readonly timeMs: number; readonly exemplar: boolean } {
  const hashAt = strict ? text.indexOf(" # ", from) : -1;
  const plain = hashAt < 0 ? text.slice(from) : text.slice(from, hashAt);
  const parts = strict ? plain.split(" ") : plain.trim().split(/[ \t]+/);
  const valueBytes = asciiBytes(parts[0] as string);
  const value = valueBytes && numberOfBytes(valueBytes, 0, valueBytes.length);
  if (value === undefined) throw new TextError(`${JSON.stringify(parts[0])} is not a number`, line, from + 1);
  if (parts.length > 2)
    throw new TextError(
      `${JSON.stringify(parts.slice(2).join(" "))} is too much`,
      line,
      from + (parts[0] as string).length + (parts[1] as string).length + 3,
    );
  let timeMs = Number.NaN;
  if (parts[1] !== undefined) {
    const timeBytes = asciiBytes(parts[1]);
    const time = timeBytes && numberOfBytes(timeBytes, 0, timeBytes.length);
    if (time === undefined || !Number.isFinite(time) || (!strict && !Number.isInteger(time)))
      throw new TextError(
        `timestamp ${JSON.stringify(parts[1])} is not a number of ${strict ? "seconds" : "milliseconds"}`,
        line,
        from + (parts[0] as string).length + 2,
      );
    timeMs = strict ? Math.round(time * 1000) : time;
  }
  if (hashAt >= 0) checkExemplar(text.slice(hashAt + 3), line, hashAt + 4);
  return { value, timeMs, exemplar: hashAt >= 0 };
}

/** The time of a known line that has an exemplar; undefined where it breaks a rule. */
function timeBesideExemplar(tail: string | undefined): number | undefined {
  try {
    return tail === undefined ? undefined : readTail(tail, 0, 0, true).timeMs;
  } catch (error) {
    if (error instanceof TextError) return undefined; // told with its place by the careful reading
    throw error;
  }
}

/** An exemplar: labels of at most 128 characters together, a value, perhaps a time (OpenMetrics 1.0, "Exemplars"). */
function checkExemplar(text: string, line: number, column: number): void {
  if (!text.startsWith("{")) throw new TextError("an exemplar begins with its labels in braces", line, column);
  const head = shifted(column - 2, () => readLineHead(`x${text}`, line, true));
  const characters = head.labels.reduce((sum, [label, value]) => sum + [...label].length + [...value].length, 0);
  if (characters > 128)
    throw new TextError(`the labels of an exemplar have ${characters} characters, 128 are allowed`, line, column);
  shifted(column - 2, () => readTail(`x${text}`, head.length, line, true));
}

/** What a part of a line breaks is told at its place in the line: `by` characters stand before the part. */
function shifted<T>(by: number, read: () => T): T {
  try {
    return read();
  } catch (error) {
    if (error instanceof TextError && error.column !== undefined)
      throw new TextError(error.plain, error.line, error.column + by);
    throw error;
  }
}

function asciiBytes(text: string): Uint8Array | undefined {
  const bytes = new Uint8Array(text.length);
  for (let i = 0; i < text.length; i++) {
    const c = text.charCodeAt(i);
    if (c > 0x7f) return undefined;
    bytes[i] = c;
  }
  return bytes;
}

/** How many bytes the first `length` UTF-16 units of a text take in UTF-8. */
function utf8Length(text: string, length: number): number {
  let bytes = 0;
  for (let i = 0; i < length; i++) {
    const c = text.charCodeAt(i);
    bytes += c < 0x80 ? 1 : c < 0x800 ? 2 : c >= 0xd800 && c < 0xe000 ? 2 : 3;
  }
  return bytes;
}

function joined(a: Uint8Array, b: Uint8Array): Uint8Array {
  const all = new Uint8Array(a.length + b.length);
  all.set(a);
  all.set(b, a.length);
  return all;
}

function wider<T extends Uint32Array | Float64Array>(array: T, make: new (length: number) => T): T {
  const more = new make(array.length * 2);
  more.set(array as never);
  return more;
}
