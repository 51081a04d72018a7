import {
  closeSync,
  existsSync,
  fsyncSync,
  ftruncateSync,
  openSync,
  readFileSync,
  renameSync,
  rmSync,
  writeSync,
} from "node:fs";
import { crc32c } from "@node-rs/crc32";
import type { Batch } from "../../core/series/batch.ts";
import type { NewSeries } from "./series-registry.ts";

/** Five million samples, and as many again of series that have no id. */
const mostSpoolBytes = 268_435_456;
const markOf = (database: string) => Buffer.from(`nubrel spool 1 ${database}\n`);
const headBytes = 8;

/**
 * Samples of series that the database has not given an id yet: `which` says for each sample which of `named` it is of.
 */
export interface NamedSamples {
  readonly named: readonly NewSeries[];
  readonly which: Uint32Array;
  readonly timeMs: Float64Array;
  readonly value: Float64Array;
}

export type Spooled = { readonly kind: "batch"; readonly batch: Batch } | ({ readonly kind: "named" } & NamedSamples);

/**
 * What waits for the database while that is away, on disk: it outlives the process. A file of records, each its length,
 * its CRC-32C and its content; every
 * addition is fsync-ed. Records that a death cut off or a disk damaged are passed over when it is read.
 */
export class Spool {
  readonly #file: string;
  readonly #most: number;
  #fd: number | undefined;
  #bytes = 0;
  #failure: Error | undefined;

  /** Of the database for which it waits, whose ids the records have. */
  database = "";

  constructor(file: string, mostBytes = mostSpoolBytes) {
    this.#file = file;
    this.#most = mostBytes;
  }

  /** Why the last addition is not on disk; undefined while all is. */
  get failure(): Error | undefined {
    return this.#failure;
  }

  /** Adds records and waits for the disk. False where it takes no more: what waits is in memory alone then. */
  add(records: readonly Spooled[]): boolean {
    if (records.length === 0) return true;
    const written = records.map(recordOf);
    const size = written.reduce((sum, { length }) => sum + length, 0);
    try {
      if (this.#bytes + size > this.#most)
        throw new Error(`the spool has ${this.#bytes} bytes, and may have ${this.#most}`);
      if (this.#fd === undefined) {
        this.#fd = openSync(this.#file, "w", 0o600);
        const mark = markOf(this.database);
        writeSync(this.#fd, mark);
        this.#bytes = mark.length;
      }
      const before = this.#bytes;
      try {
        for (const record of written) {
          writeSync(this.#fd, record, 0, record.length, this.#bytes);
          this.#bytes += record.length;
        }
        fsyncSync(this.#fd);
      } catch (error) {
        this.#bytes = before;
        ftruncateSync(this.#fd, before);
        throw error;
      }
      this.#failure = undefined;
      return true;
    } catch (error) {
      this.#failure = error as Error;
      return false;
    }
  }

  /** Everything in it is stored: takes the file away. */
  clear(): void {
    if (this.#fd !== undefined) closeSync(this.#fd);
    this.#fd = undefined;
    this.#bytes = 0;
    this.#failure = undefined;
    rmSync(this.#file, { force: true });
  }

  /**
   * What a process before this one left in it. It stays until `clear`; one of another database is put aside under
   * another name.
   */
  read(): readonly Spooled[] {
    if (!existsSync(this.#file)) return [];
    const bytes = readFileSync(this.#file);
    const found: Spooled[] = [];
    const mark = markOf(this.database);
    if (!bytes.subarray(0, mark.length).equals(mark)) {
      renameSync(this.#file, `${this.#file}.of-another-database`);
      return found;
    }
    for (let at = mark.length; at + headBytes <= bytes.length; ) {
      const length = bytes.readUInt32LE(at);
      const content = bytes.subarray(at + headBytes, at + headBytes + length);
      if (content.length < length) break;
      if (crc32c(content) === bytes.readUInt32LE(at + 4)) found.push(spooledOf(content));
      at += headBytes + length;
    }
    return found;
  }
}

/** Kind, number of samples, ids or places, times, values; of named ones their names as JSON behind these. */
function recordOf(record: Spooled): Buffer {
  const [which, timeMs, value, length] =
    record.kind === "batch"
      ? [record.batch.series, record.batch.timeMs, record.batch.value, record.batch.length]
      : [record.which, record.timeMs, record.value, record.which.length];
  const names = record.kind === "named" ? Buffer.from(JSON.stringify(record.named)) : Buffer.alloc(0);
  const content = Buffer.concat(
    [
      Uint32Array.of(record.kind === "batch" ? 0 : 1, length),
      which.subarray(0, length),
      timeMs.subarray(0, length),
      value.subarray(0, length),
    ]
      .map(({ buffer, byteOffset, byteLength }) => Buffer.from(buffer as ArrayBuffer, byteOffset, byteLength))
      .concat(names),
  );
  const head = Buffer.alloc(headBytes);
  head.writeUInt32LE(content.length, 0);
  head.writeUInt32LE(crc32c(content), 4);
  return Buffer.concat([head, content]);
}

function spooledOf(content: Buffer): Spooled {
  const bytes = content.buffer.slice(content.byteOffset, content.byteOffset + content.length) as ArrayBuffer;
  const [kind, length] = new Uint32Array(bytes, 0, 2) as unknown as [number, number];
  const which = new Uint32Array(bytes, 8, length);
  const timesAt = 8 + 4 * length;
  const timeMs = new Float64Array(bytes.slice(timesAt, timesAt + 8 * length));
  const value = new Float64Array(bytes.slice(timesAt + 8 * length, timesAt + 16 * length));
  if (kind === 0) return { kind: "batch", batch: { series: which, timeMs, value, length } };
  return {
    kind: "named",
    named: JSON.parse(content.subarray(timesAt + 16 * length).toString("utf8")) as NewSeries[],
    which,
    timeMs,
    value,
  };
}
