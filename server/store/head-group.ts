import {
  absentHigh,
  absentLow,
  packRowBlock,
  plainRowBlock,
  readRowBlockTimes,
  turnRows,
  viewRowBlock,
} from "../../core/chunk/row-block.ts";
import { allFinite } from "../../core/reading/combine.ts";
import { medianIntervalMs } from "../../core/series/interval.ts";

/** Rows of a row block; an open one grows to that many. */
const mostRows = 64;
/** So few answers say less than the row block before them. */
const leastAnswers = 4;
const looksAt = 9;

/** The series `series[from..to)`, which came with one time; `lasts` where the array is theirs alone and never changes. */
export interface Run {
  readonly series: Uint32Array;
  readonly from: number;
  readonly to: number;
  readonly lasts: boolean;
}

/**
 * Series that one source answers together, in one slot: their samples share their times. The newest rows are open;
 * every 64 rows are
 * made a row block, plain at first (8 bytes a sample), packed when the head says so (1 to 3 bytes).
 *
 * Layout of the open rows: one after the other, lane `k` (the series `ids[k]`) at `open[row * lanes + k]`: an answer is
 * written in one piece. With each lane in one piece, writing was a cache miss a sample.
 */
export class HeadGroup {
  readonly ids: Uint32Array;
  readonly rowBlocks: Uint8Array[] = [];
  /** First and last time of each row block, in pairs. */
  readonly #rowBlockTimes: number[] = [];
  #open: Float64Array;
  #openWords: Uint32Array;
  #openTimeMs = new Float64Array(mostRows);
  #rows = 0;
  /** Rows that there is room for. */
  #room = 4;
  #newestMs = Number.NEGATIVE_INFINITY;
  #samples = 0;
  #rowBlockBytes = 0;

  /** An array that lasts and is known to hold the same. */
  #sameAs: Uint32Array | undefined;
  readonly #blockMade: (group: HeadGroup, rowBlock: number, sizeBytes: number) => void;

  /** `blockMade` is told of every new row block. */
  constructor(ids: Uint32Array, blockMade: (group: HeadGroup, rowBlock: number, sizeBytes: number) => void) {
    this.ids = ids;
    this.#blockMade = blockMade;
    this.#open = new Float64Array(ids.length * this.#room);
    this.#openWords = new Uint32Array(this.#open.buffer);
  }

  get newestMs(): number {
    return this.#newestMs;
  }

  get sizeBytes(): number {
    return this.#open.byteLength + this.#rowBlockBytes + this.ids.byteLength + 600;
  }

  /** Samples put so far; one that replaced another counts again. */
  get samples(): number {
    return this.#samples;
  }

  /** Whether a run is of these very series, in their order. */
  isOf({ series, from, to, lasts }: Run): boolean {
    if (series === this.#sameAs) return true;
    const { ids } = this;
    if (ids.length !== to - from) return false;
    for (let i = from; i < to; i++) if (ids[i - from] !== series[i]) return false;
    if (lasts) this.#sameAs = series;
    return true;
  }

  /**
   * The row for a time: a new one where the time is later than all, an open one that has it, or −1 where neither is so.
   * With `whole` the caller gives every lane of it a value: a new row has none yet, and one that comes late gets a place
   * among the open ones.
   */
  rowFor(timeMs: number, whole: boolean): number {
    if (timeMs > this.#newestMs) {
      if (this.#rows === mostRows) this.#close();
      if (this.#rows === this.#room) this.#widen();
      const row = this.#rows++;
      this.#openTimeMs[row] = timeMs;
      this.#newestMs = timeMs;
      if (!whole) for (let k = 0; k < this.ids.length; k++) this.#setAbsent(row * this.ids.length + k);
      return row;
    }
    for (let row = this.#rows - 1; row >= 0; row--) if (this.#openTimeMs[row] === timeMs) return row;
    return whole ? this.#lateRow(timeMs) : -1;
  }

  /** A place for a time before the newest; −1 where it lies before a row block, or no row is left. */
  #lateRow(timeMs: number): number {
    if (timeMs <= (this.#rowBlockTimes.at(-1) ?? Number.NEGATIVE_INFINITY) || this.#rows === mostRows) return -1;
    if (this.#rows === this.#room) this.#widen();
    const lanes = this.ids.length;
    let row = this.#rows;
    while (row > 0 && (this.#openTimeMs[row - 1] as number) > timeMs) row--;
    this.#openTimeMs.copyWithin(row + 1, row, this.#rows);
    this.#open.copyWithin((row + 1) * lanes, row * lanes, this.#rows * lanes);
    this.#openTimeMs[row] = timeMs;
    this.#rows++;
    return row;
  }

  /**
   * Puts `values[from..]` into all lanes of a row. False where one of them cannot stand here; then each must be put by
   * itself.
   */
  putAll(row: number, values: Float64Array, from: number): boolean {
    const lanes = this.ids.length;
    const own = values.subarray(from, from + lanes);
    this.#open.set(own, row * lanes);
    this.#samples += lanes;
    return allFinite(own) || !own.some(Number.isNaN);
  }

  /** Puts one value. False for the one bit pattern that means "none" here. */
  put(row: number, lane: number, values: Float64Array, from: number): boolean {
    const at = row * this.ids.length + lane;
    this.#samples++;
    const v = values[from] as number;
    if (!Number.isNaN(v)) {
      this.#open[at] = v;
      return true;
    }
    const words = new Uint32Array(values.buffer, values.byteOffset + from * 8, 2);
    this.#openWords[2 * at] = words[0] as number;
    this.#openWords[2 * at + 1] = words[1] as number;
    return words[0] !== absentLow || words[1] !== absentHigh;
  }

  clear(row: number, lane: number): void {
    this.#setAbsent(row * this.ids.length + lane);
  }

  /** The row blocks that have rows in `[fromMs, toMs)`. */
  rowBlocksIn(fromMs: number, toMs: number): readonly Uint8Array[] {
    return this.rowBlocks.filter(
      (_, i) => (this.#rowBlockTimes[2 * i + 1] as number) >= fromMs && (this.#rowBlockTimes[2 * i] as number) < toMs,
    );
  }

  /** Copies the open rows of some lanes, one lane after the other. */
  copyOpen(lanes: Int32Array): {
    readonly timeMs: Float64Array<ArrayBuffer>;
    readonly values: Float64Array<ArrayBuffer>;
  } {
    const rows = this.#rows;
    const values = new Float64Array(rows * lanes.length);
    turnRows(this.#open, this.ids.length, rows, values, lanes);
    return { timeMs: this.#openTimeMs.slice(0, rows), values };
  }

  /** The usual distance of the newest answers in ms, which one gap does not change; NaN with fewer than two. */
  get intervalMs(): number {
    const rowBlock = this.rowBlocks[this.rowBlocks.length - 1];
    if (this.#rows >= leastAnswers || (!rowBlock && this.#rows >= 2))
      return medianIntervalMs(this.#openTimeMs.subarray(Math.max(0, this.#rows - looksAt), this.#rows));
    if (!rowBlock) return Number.NaN;
    const view = viewRowBlock(rowBlock);
    const times = new Float64Array(view.rows);
    readRowBlockTimes(view, times, 0);
    return medianIntervalMs(times);
  }

  /** Packs a row block; readers that have the plain one keep it. */
  pack(rowBlock: number): void {
    const packed = packRowBlock(this.rowBlocks[rowBlock] as Uint8Array);
    this.#rowBlockBytes += packed.byteLength - (this.rowBlocks[rowBlock] as Uint8Array).byteLength;
    this.rowBlocks[rowBlock] = packed;
  }

  #close(): void {
    const rowBlock = plainRowBlock(this.#openTimeMs, this.#rows, this.#open, this.ids.length);
    this.rowBlocks.push(rowBlock);
    this.#rowBlockTimes.push(this.#openTimeMs[0] as number, this.#openTimeMs[this.#rows - 1] as number);
    this.#rowBlockBytes += rowBlock.byteLength;
    this.#rows = 0;
    this.#blockMade(this, this.rowBlocks.length - 1, rowBlock.byteLength);
  }

  #widen(): void {
    this.#room *= 4;
    const wider = new Float64Array(this.ids.length * this.#room);
    wider.set(this.#open);
    this.#open = wider;
    this.#openWords = new Uint32Array(wider.buffer);
  }

  #setAbsent(at: number): void {
    this.#openWords[2 * at] = absentLow;
    this.#openWords[2 * at + 1] = absentHigh;
  }
}
