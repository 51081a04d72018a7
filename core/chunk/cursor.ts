/** A block that cannot be read: cut short, of another version, or not a block at all. */
export class BlockError extends Error {
  readonly at: number;
  constructor(message: string, at: number) {
    super(`byte ${at}: ${message}`);
    this.name = "BlockError";
    this.at = at;
  }
}

/** Writes bytes into a buffer that grows. */
export class BlockWriter {
  #bytes = new Uint8Array(1024);
  #view = new DataView(this.#bytes.buffer);
  #at = 0;

  byte(value: number): void {
    this.#room(1);
    this.#bytes[this.#at++] = value;
  }

  /** A whole number from 0 to 2^53 − 1, seven bits a byte, low bits first. */
  varint(value: number): void {
    this.#room(8);
    let rest = value;
    while (rest >= 0x80) {
      this.#bytes[this.#at++] = (rest % 0x80) | 0x80;
      rest = Math.floor(rest / 0x80);
    }
    this.#bytes[this.#at++] = rest;
  }

  /** A whole number of size below 2^52, small ones short whatever their sign. */
  zigzag(value: number): void {
    this.varint(value < 0 ? -2 * value - 1 : 2 * value);
  }

  float64(value: number): void {
    this.#room(8);
    this.#view.setFloat64(this.#at, value, true);
    this.#at += 8;
  }

  /** Copies the eight bytes of `values[index]` as they are: a NaN keeps its payload. */
  float64From(values: Float64Array, index: number): void {
    this.bytes(new Uint8Array(values.buffer, values.byteOffset + index * 8, 8));
  }

  bytes(bytes: Uint8Array): void {
    this.#room(bytes.length);
    this.#bytes.set(bytes, this.#at);
    this.#at += bytes.length;
  }

  get length(): number {
    return this.#at;
  }

  /**
   * For writers that fill many bytes in one loop: memory with room for `most` more; they start at `length`, and `wrote`
   * says where they end.
   */
  reserve(most: number): Uint8Array {
    this.#room(most);
    return this.#bytes;
  }

  wrote(length: number): void {
    this.#at = length;
  }

  /** Starts anew in the same memory. */
  clear(): void {
    this.#at = 0;
  }

  finish(): Uint8Array {
    return this.#bytes.slice(0, this.#at);
  }

  #room(bytes: number): void {
    if (this.#at + bytes <= this.#bytes.length) return;
    const larger = new Uint8Array(Math.max(this.#bytes.length * 2, this.#at + bytes));
    larger.set(this.#bytes);
    this.#bytes = larger;
    this.#view = new DataView(larger.buffer);
  }
}

const oneFloat = new Float64Array(1);
const itsBytes = new Uint8Array(oneFloat.buffer);

/**
 * Reads what BlockWriter wrote; every read is checked against the bytes that remain. One reader can be opened on block
 * after block.
 */
export class BlockReader {
  #bytes: Uint8Array;
  #given: Uint8Array;
  #start: number;
  #end: number;
  #at: number;

  /** Reads `bytes[start..end)`; positions in errors count from `start`. */
  constructor(bytes: Uint8Array, start = 0, end = bytes.length) {
    this.#given = bytes;
    this.#bytes = bytes;
    this.#start = start;
    this.#end = end;
    this.#at = start;
  }

  open(bytes: Uint8Array, start = 0, end = bytes.length): this {
    if (bytes !== this.#given) {
      this.#given = bytes;
      // A part of a Buffer is made by ways of its own, which are slower.
      this.#bytes =
        bytes.constructor === Uint8Array ? bytes : new Uint8Array(bytes.buffer, bytes.byteOffset, bytes.length);
    }
    this.#start = start;
    this.#end = end;
    this.#at = start;
    return this;
  }

  get at(): number {
    return this.#at - this.#start;
  }

  get remaining(): number {
    return this.#end - this.#at;
  }

  byte(): number {
    if (this.remaining < 1) throw new BlockError("the block ends here, a byte was expected", this.at);
    return this.#bytes[this.#at++];
  }

  varint(): number {
    const start = this.at;
    let value = 0;
    let weight = 1;
    for (let i = 0; i < 8; i++) {
      const byte = this.byte();
      value += (byte & 0x7f) * weight;
      if (byte < 0x80) {
        if (value > Number.MAX_SAFE_INTEGER) throw new BlockError("a whole number above 2^53 − 1", start);
        return value;
      }
      weight *= 0x80;
    }
    throw new BlockError("a whole number of more than eight bytes", start);
  }

  zigzag(): number {
    const value = this.varint();
    return value % 2 === 1 ? -(value + 1) / 2 : value / 2;
  }

  float64(): number {
    this.copy(itsBytes, 8);
    return oneFloat[0];
  }

  /** Copies `length` numbers bit for bit. */
  float64s(into: Float64Array, length: number): void {
    if (this.remaining < length * 8)
      throw new BlockError(`${this.remaining} bytes remain, ${length} numbers of 8 were expected`, this.at);
    this.copy(new Uint8Array(into.buffer, into.byteOffset, length * 8), length * 8);
  }

  /** Copies the next `length` bytes to the start of `into`. */
  copy(into: Uint8Array, length: number): void {
    const at = this.skip(length);
    const bytes = this.#bytes;
    if (length < 48) for (let i = 0; i < length; i++) into[i] = bytes[at + i];
    else into.set(bytes.subarray(at, at + length));
  }

  /** Passes over `length` bytes; gives where they start in the array that was opened. */
  skip(length: number): number {
    if (this.remaining < length)
      throw new BlockError(`${this.remaining} bytes remain, ${length} were expected`, this.at);
    const at = this.#at;
    this.#at += length;
    return at;
  }

  /** The array that was opened, whole. */
  get opened(): Uint8Array {
    return this.#bytes;
  }

  /** A count of things that take at least `bytesEach`; refused where the block could not hold them. */
  count(bytesEach: number): number {
    const at = this.at;
    const count = this.varint();
    if (count * bytesEach > this.remaining)
      throw new BlockError(`${count} entries are claimed, ${this.remaining} bytes remain`, at);
    return count;
  }

  end(): void {
    if (this.remaining > 0) throw new BlockError(`${this.remaining} bytes too many`, this.at);
  }
}
