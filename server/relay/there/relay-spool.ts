import {
  appendFileSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  truncateSync,
  writeFileSync,
} from "node:fs";
import { randomBytes } from "node:crypto";
import { join } from "node:path";
import { gunzipSync, gzipSync } from "node:zlib";
import type { RelayRecord } from "../../../core/relay/relay-wire.ts";

/** A part is sent whole: on a weak link a small one gets through, and what is sent again is little. */
const partBytes = 131_072;
const usualMostBytes = 1_073_741_824;

interface Part {
  /** The number of its first record, which is its name. */
  readonly first: number;
  last: number;
  records: number;
  bytes: number;
  /** It may be on its way: nothing more is added. */
  isClosed: boolean;
  /** When it was begun. */
  readonly sinceMs: number;
}

/** Some of what waits, as it is sent: lines of JSON, packed by gzip. */
export interface SpooledPart {
  readonly bytes: Buffer;
  readonly last: number;
}

/** Whatever a relay has gathered stands here until its server has taken it: without what a record has but its number. */
export type Unnumbered = RelayRecord extends infer R ? (R extends RelayRecord ? Omit<R, "seq"> : never) : never;

/**
 * What a relay gathered and its server has not taken yet, in files of a folder: each record is a line of JSON, packed by
 * itself, so that a file is one gzip stream of many members (RFC 1952 §2.2) that goes out as it is. What a death cut off
 * at its end is left. Where more waits than there is room for, the oldest goes, and is counted.
 */
export class RelaySpool {
  readonly #folder: string;
  readonly #most: number;
  readonly life: string;
  #parts: Part[] = [];
  #next = 1;
  #dropped = 0;
  #failure: string | null = null;

  constructor(folder: string, mostBytes = usualMostBytes) {
    this.#folder = folder;
    this.#most = mostBytes;
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    const lifeFile = join(folder, "life");
    if (!existsSync(lifeFile)) writeFileSync(lifeFile, randomBytes(12).toString("hex"), { mode: 0o600 });
    this.life = readFileSync(lifeFile, "utf8").trim();
    const firsts = readdirSync(folder).flatMap((name) => /^(\d+)\.gz$/.exec(name)?.[1] ?? []);
    for (const first of firsts.map(Number).sort((a, b) => a - b)) this.#find(first);
    const noted = existsSync(this.#nextFile) ? Number(readFileSync(this.#nextFile, "utf8")) : 1;
    this.#next = Math.max(noted || 1, ...this.#parts.map(({ last }) => last + 1));
  }

  get waiting(): { readonly records: number; readonly bytes: number; readonly sinceMs: number | null } {
    return {
      sinceMs: this.#parts[0]?.sinceMs ?? null,
      records: this.#parts.reduce((sum, { records }) => sum + records, 0),
      bytes: this.#parts.reduce((sum, { bytes }) => sum + bytes, 0),
    };
  }

  /** Why the newest could not be kept; null where it could. */
  get failure(): string | null {
    return this.#failure;
  }

  /** How many had to go since the start: the oldest, for want of room, or what could not be kept. */
  get dropped(): number {
    return this.#dropped;
  }

  add(record: Unnumbered): void {
    const line = gzipSync(`${JSON.stringify({ seq: this.#next, ...record })}\n`);
    let part = this.#parts.at(-1);
    if (!part || part.isClosed || part.bytes >= partBytes) {
      part = { first: this.#next, last: this.#next, records: 0, bytes: 0, isClosed: false, sinceMs: Date.now() };
      this.#parts.push(part);
    }
    try {
      appendFileSync(this.#fileOf(part), line, { mode: 0o600 });
    } catch (error) {
      this.#fail(part, error as Error);
      return;
    }
    this.#failure = null;
    part.records++;
    part.bytes += line.length;
    part.last = this.#next++;
    for (let { bytes } = this.waiting; bytes > this.#most && this.#parts.length > 1; ) {
      const oldest = this.#parts[0] as Part;
      this.#dropped += oldest.records;
      bytes -= oldest.bytes;
      this.#remove(oldest);
    }
  }

  /** What was written in part would spoil what comes after it. */
  #fail(part: Part, error: Error): void {
    this.#failure = error.message;
    this.#dropped++;
    try {
      if (part.records === 0) this.#remove(part);
      else truncateSync(this.#fileOf(part), part.bytes);
    } catch {
      part.isClosed = true; // the next goes to another file
    }
  }

  /** The oldest of what waits; undefined where nothing does. What is added from now on stands in another part. */
  oldest(): SpooledPart | undefined {
    const part = this.#parts[0];
    if (!part) return undefined;
    part.isClosed = true;
    return { bytes: readFileSync(this.#fileOf(part)), last: part.last };
  }

  /** Forgets what the server has taken. */
  taken(until: number): void {
    // The number goes on where nothing is left to tell it.
    writeFileSync(this.#nextFile, String(this.#next), { mode: 0o600 });
    for (const part of this.#parts.filter(({ last }) => last <= until)) this.#remove(part);
  }

  get #nextFile(): string {
    return join(this.#folder, "next");
  }

  #fileOf({ first }: Pick<Part, "first">): string {
    return join(this.#folder, `${String(first).padStart(12, "0")}.gz`);
  }

  #remove(part: Part): void {
    rmSync(this.#fileOf(part), { force: true });
    this.#parts = this.#parts.filter((one) => one !== part);
  }

  /** A part of a process before this one; one that is damaged is written anew with what can be read of it. */
  #find(first: number): void {
    const file = this.#fileOf({ first });
    const { birthtimeMs: sinceMs } = statSync(file);
    const part: Part = { first, last: first, records: 0, bytes: 0, isClosed: true, sinceMs };
    const packed = readFileSync(file);
    let text: Buffer;
    try {
      text = gunzipSync(packed);
    } catch {
      text = wholeMembers(packed);
      writeFileSync(file, gzipSync(text), { mode: 0o600 });
    }
    const lines = text.toString().split("\n").slice(0, -1);
    part.records = lines.length;
    part.last = lines.length === 0 ? first : (JSON.parse(lines.at(-1) as string) as RelayRecord).seq;
    part.bytes = statSync(file).size;
    if (part.records === 0) rmSync(file, { force: true });
    else this.#parts.push(part);
  }
}

/** How a gzip member begins (RFC 1952 §2.3), packed by deflate. */
const memberBegins = Buffer.from([0x1f, 0x8b, 0x08]);

/** What the members hold that can be read, one after the other. */
function wholeMembers(packed: Buffer): Buffer {
  const found: Buffer[] = [];
  const nextAfter = (at: number) => {
    const next = packed.indexOf(memberBegins, at + 1);
    return next < 0 ? packed.length : next;
  };
  for (let at = 0; at < packed.length; at = nextAfter(at)) {
    try {
      found.push(gunzipSync(packed.subarray(at, nextAfter(at))));
    } catch {
      // It is damaged, or its content has the bytes by which one begins: what follows is looked at by itself.
    }
  }
  return Buffer.concat(found);
}
