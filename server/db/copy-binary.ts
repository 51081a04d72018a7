import { once } from "node:events";
import { from as copyFrom, to as copyTo } from "pg-copy-streams";
import type pg from "pg";

/** What COPY needs of a connection: a pooled one, or one of its own. */
export type CopyConnection = Pick<pg.ClientBase, "query">;

// PGCOPY, a header without flags; then rows: fields as 16 bits, each with its length as 32 bits, −1 for null; −1 ends
// it (PostgreSQL, COPY, "Binary Format").
const signature = Buffer.from("PGCOPY\n\xff\r\n\0", "latin1");
const headerLength = signature.length + 8;

/** Rows that came by binary COPY, as one buffer. */
export class CopiedRows {
  readonly bytes: Buffer;

  constructor(bytes: Buffer) {
    this.bytes = bytes;
  }

  /**
   * Calls `visit` with where each field of a row starts and ends; a null starts at −1. The arrays are the same for
   * every row.
   */
  forEach(fields: number, visit: (starts: Int32Array, ends: Int32Array) => void): void {
    const { bytes } = this;
    const starts = new Int32Array(fields);
    const ends = new Int32Array(fields);
    let at = headerLength;
    while (at + 2 <= bytes.length) {
      const count = bytes.readInt16BE(at);
      at += 2;
      if (count === -1) return;
      if (count !== fields) throw new Error(`COPY answered a row of ${count} fields, ${fields} were expected`);
      for (let k = 0; k < fields; k++) {
        const length = bytes.readInt32BE(at);
        at += 4;
        starts[k] = length < 0 ? -1 : at;
        if (length > 0) at += length;
        ends[k] = at;
      }
      visit(starts, ends);
    }
    throw new Error("COPY's answer ends in the middle");
  }

  int(start: number): number {
    return this.bytes.readInt32BE(start);
  }
}

/**
 * Reads rows by `copy (select …) to stdout (format binary)`: two to three times as fast as a query, which brings
 * `bytea` as hex text.
 * COPY takes no parameters: only computed whole numbers may stand in `select`.
 */
export async function copyOut(connection: CopyConnection, select: string): Promise<CopiedRows> {
  const stream = connection.query(copyTo(`copy (${select}) to stdout (format binary)`));
  const parts: Buffer[] = [];
  for await (const part of stream) parts.push(part as Buffer);
  return new CopiedRows(parts.length === 1 ? (parts[0] as Buffer) : Buffer.concat(parts));
}

/** Builds rows for binary COPY in memory that grows. */
export class CopyRowsWriter {
  #bytes = Buffer.allocUnsafe(1 << 16);
  #at = 0;
  rows = 0;

  constructor() {
    this.#header();
  }

  get length(): number {
    return this.#at;
  }

  row(fields: number): void {
    this.#room(2);
    this.#at = this.#bytes.writeInt16BE(fields, this.#at);
    this.rows++;
  }

  int(value: number | undefined): void {
    this.#room(8);
    this.#at = this.#bytes.writeInt32BE(value === undefined ? -1 : 4, this.#at);
    if (value !== undefined) this.#at = this.#bytes.writeInt32BE(value, this.#at);
  }

  bytea(value: Uint8Array): void {
    this.#room(4 + value.length);
    this.#at = this.#bytes.writeInt32BE(value.length, this.#at);
    this.#bytes.set(value, this.#at);
    this.#at += value.length;
  }

  /** What has been built since the last time, for a stream that takes it at once. */
  take(): Buffer {
    const taken = Buffer.from(this.#bytes.subarray(0, this.#at));
    this.#at = 0;
    return taken;
  }

  finish(): Buffer {
    this.#room(2);
    this.#at = this.#bytes.writeInt16BE(-1, this.#at);
    const taken = this.take();
    this.#header();
    this.rows = 0;
    return taken;
  }

  #header(): void {
    this.#bytes.set(signature, 0);
    this.#bytes.fill(0, signature.length, headerLength);
    this.#at = headerLength;
  }

  #room(bytes: number): void {
    if (this.#at + bytes <= this.#bytes.length) return;
    const larger = Buffer.allocUnsafe(Math.max(this.#bytes.length * 2, this.#at + bytes));
    larger.set(this.#bytes.subarray(0, this.#at));
    this.#bytes = larger;
  }
}

/** Writes finished rows (CopyRowsWriter) to `table (columns)`, a constant text. */
export async function copyIn(connection: CopyConnection, target: string, rows: Buffer): Promise<void> {
  const stream = connection.query(copyFrom(`copy ${target} from stdin (format binary)`));
  const done = once(stream, "finish");
  stream.end(rows);
  await done;
}
