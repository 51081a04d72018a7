import type { Batch, Column, Runs } from "../../core/series/batch.ts";
import { Growing } from "./growing.ts";
import { HeadGroup, type Run } from "./head-group.ts";
import { columnsOfSnapshot, type HeadPart, type HeadSnapshot } from "./head-snapshot.ts";
import { PagedPlaces } from "./paged-places.ts";
import { slotMs, slotOf, slotStart } from "./slots.ts";

/** So many old row blocks are packed for each new one, at most: those of a start are packed by and by. */
const mostPackedAtOnce = 4;
const packedEveryMs = 50;
const packedForMs = 4;
/** What is older than this is packed however much memory there is: the live view looks at the last hour. */
const plainForMs = 3_600_000;

/** What the head holds of one slot. */
interface HeadSlot {
  readonly groups: HeadGroup[];
  readonly places: PagedPlaces;
  readonly strays: Map<number, Growing>;
  /** Series written since the slot was last taken for compaction; undefined while it never was: then all are. */
  changed: Set<number> | undefined;
}

/** A row block that is not packed yet. */
interface PlainRowBlock {
  readonly group: HeadGroup;
  readonly rowBlock: number;
  readonly sizeBytes: number;
  /** The time of its last row. */
  readonly lastMs: number;
}

/** The samples of a slot for compaction. */
export interface SlotSnapshot {
  readonly ids: Int32Array;
  readonly snapshot: HeadSnapshot;
  /** Puts back what was taken, after a failure. */
  readonly restore: () => void;
}

/**
 * The newest samples in memory, by slot and series. It holds everything from `completeFromMs` on, and late samples of
 * earlier slots until they are compacted.
 */
export class Head {
  readonly #slots = new Map<number, HeadSlot>();
  readonly #perMinute = new Map<number, number>();
  /** Plain row blocks, oldest first. */
  readonly #plain: PlainRowBlock[] = [];
  readonly #mostPlainBytes: number;
  readonly #seen: (ids: Uint32Array, slot: number) => void;
  /** As long as it is packed later, what may stand plain meanwhile. */
  #plainForNow = 0;
  /** The time of the last row of the row block that was made last. */
  #lastMadeMs = Number.NEGATIVE_INFINITY;
  #packing: NodeJS.Timeout | undefined;
  #plainBytes = 0;
  /** Newest times of series in slots that were dropped. */
  readonly #lastTimeMs = new Map<number, number>();
  #completeFromMs: number;

  /** Row blocks of an hour ago, and those above `mostPlainBytes`, are packed, oldest first; `seen` hears of series that are new in a slot. */
  constructor(
    completeFromMs: number,
    mostPlainBytes = 64e6,
    seen: (ids: Uint32Array, slot: number) => void = () => {},
  ) {
    this.#completeFromMs = completeFromMs;
    this.#seen = seen;
    this.#mostPlainBytes = mostPlainBytes;
  }

  get completeFromMs(): number {
    return this.#completeFromMs;
  }

  /** The slots held, ascending. */
  get slots(): readonly number[] {
    return [...this.#slots.keys()].sort((a, b) => a - b);
  }

  get sizeBytes(): number {
    let bytes = 0;
    for (const { groups, strays, places } of this.#slots.values()) {
      for (const group of groups) bytes += group.sizeBytes;
      for (const stray of strays.values()) bytes += stray.sizeBytes;
      bytes += places.sizeBytes;
    }
    return bytes;
  }

  get samples(): number {
    let samples = 0;
    for (const { groups, strays } of this.#slots.values()) {
      for (const group of groups) samples += group.samples;
      for (const stray of strays.values()) samples += stray.column.timeMs.length;
    }
    return samples;
  }

  /** Lets row blocks stand plain up to another size, until `packSoon`: packing takes as long as all else of a start. */
  packLater(mostBytes: number): void {
    this.#plainForNow = mostBytes;
  }

  /** Packs what may not stand plain, a little at a time, so that others get their turn; not before `afterMs`. */
  packSoon(afterMs = 0): void {
    this.#plainForNow = 0;
    const fromMs = performance.now() + afterMs;
    this.#packing ??= setInterval(() => {
      if (performance.now() < fromMs) return;
      const until = performance.now() + packedForMs;
      while (this.#isDue() && performance.now() < until) this.#packOldest();
      if (!this.#isDue()) this.stopPacking();
    }, packedEveryMs).unref();
  }

  stopPacking(): void {
    clearInterval(this.#packing);
    this.#packing = undefined;
  }

  /** Takes a batch run by run: samples that share a time stand together. Answers the newest of them, ms. */
  put(batch: Batch): number {
    const { series, timeMs, value, length } = batch;
    let newest = Number.NEGATIVE_INFINITY;
    let at = 0;
    while (at < length) {
      const time = timeMs[at] as number;
      let end = at + 1;
      while (end < length && timeMs[end] === time) end++;
      this.#putRun(time, { series, from: at, to: end, lasts: false }, value, at);
      this.#countMinute(time, end - at);
      if (time > newest) newest = time;
      at = end;
    }
    return newest;
  }

  /** The same of runs that others have found; those of the same series share their array of them, which never changes. */
  putRuns({ series, timeMs, value }: Runs): number {
    let newest = Number.NEGATIVE_INFINITY;
    let at = 0;
    for (let run = 0; run < series.length; run++) {
      const ids = series[run] as Uint32Array;
      const time = timeMs[run] as number;
      this.#putRun(time, { series: ids, from: 0, to: ids.length, lasts: true }, value, at);
      this.#countMinute(time, ids.length);
      if (time > newest) newest = time;
      at += ids.length;
    }
    return newest;
  }

  /** The samples of series in `[fromMs, toMs)`, one column for each id. */
  read(ids: readonly number[], fromMs: number, toMs: number): readonly Column[] {
    return columnsOfSnapshot(this.snapshot(ids, fromMs, toMs), fromMs, toMs);
  }

  /** What is held of the wanted series in slots that meet `[fromMs, toMs)`. */
  snapshot(ids: ArrayLike<number>, fromMs: number, toMs: number): HeadSnapshot {
    const parts: HeadPart[] = [];
    const strays: HeadSnapshot["strays"][number][] = [];
    for (const number of this.slots) {
      if (slotStart(number) + slotMs <= fromMs || slotStart(number) >= toMs) continue;
      const slot = this.#slots.get(number) as HeadSlot;
      // Of each group: the number of its list plus one.
      const listOf = new Int32Array(slot.groups.length);
      const lists: { readonly group: HeadGroup; readonly wanted: number[]; readonly lanes: number[] }[] = [];
      for (let i = 0; i < ids.length; i++) {
        const id = ids[i] as number;
        const place = slot.places.groupOf(id);
        if (place >= 0) {
          if (listOf[place] === 0)
            listOf[place] = lists.push({ group: slot.groups[place] as HeadGroup, wanted: [], lanes: [] });
          const list = lists[(listOf[place] as number) - 1];
          list?.wanted.push(i);
          list?.lanes.push(slot.places.laneOf(id));
        }
        const stray = slot.strays.size === 0 ? undefined : slot.strays.get(id)?.column;
        if (stray) strays.push({ wanted: i, column: { timeMs: stray.timeMs.slice(), value: stray.value.slice() } });
      }
      for (const { group, wanted, lanes: some } of lists) {
        const lanes = new Int32Array(some);
        const open = group.copyOpen(lanes);
        parts.push({
          wanted: new Int32Array(wanted),
          lanes,
          rowBlocks: group.rowBlocksIn(fromMs, toMs),
          openTimeMs: open.timeMs,
          open: open.values,
        });
      }
    }
    return { count: ids.length, parts, strays };
  }

  /** Takes what changed in a slot since it was taken last, for compaction. */
  takeSlot(number: number): SlotSnapshot {
    const slot = this.#slots.get(number);
    if (!slot) return { ids: new Int32Array(0), snapshot: { count: 0, parts: [], strays: [] }, restore: () => {} };
    const before = slot.changed;
    const ids = Int32Array.from(before ?? new Set([...slot.places.ids(), ...slot.strays.keys()])).sort();
    slot.changed = new Set();
    const restore = () => {
      if (!before) slot.changed = undefined;
      else for (const id of before) slot.changed?.add(id);
    };
    return { ids, snapshot: this.snapshot(ids, slotStart(number), slotStart(number) + slotMs), restore };
  }

  /** Time of the newest sample of a series since the start, if any came. */
  lastTimeMs(id: number): number | undefined {
    for (const number of this.slots.toReversed()) {
      const slot = this.#slots.get(number) as HeadSlot;
      if (!slot.places.has(id) && !slot.strays.has(id)) continue;
      const [column] = this.read([id], slotStart(number), slotStart(number) + slotMs);
      if (column && column.timeMs.length > 0) return column.timeMs[column.timeMs.length - 1];
    }
    return this.#lastTimeMs.get(id);
  }

  /**
   * Time of the newest answer in which one of the series could be, without looking whether it was: cheap, for many
   * series.
   */
  newestAnswerMs(id: number): number | undefined {
    let newest = this.#lastTimeMs.get(id);
    for (const slot of this.#slots.values()) {
      const group = slot.groups[slot.places.groupOf(id)];
      if (group && !(group.newestMs <= (newest ?? Number.NEGATIVE_INFINITY))) newest = group.newestMs;
    }
    return newest;
  }

  /** Whether anything of a series is held. */
  holds(id: number): boolean {
    for (const { places, strays } of this.#slots.values()) if (places.has(id) || strays.has(id)) return true;
    return false;
  }

  /** Forgets when series came last that are no more. */
  forget(ids: readonly number[]): void {
    for (const id of ids) this.#lastTimeMs.delete(id);
  }

  /** How far apart the newest answers with each series were, in ms; NaN where that is not known. */
  intervalsMs(ids: readonly number[]): Float64Array {
    const newestFirst = this.slots.toReversed().map((number) => this.#slots.get(number) as HeadSlot);
    const known = new Map<HeadGroup, number>();
    const intervals = new Float64Array(ids.length).fill(Number.NaN);
    for (let i = 0; i < ids.length; i++) {
      for (const { places, groups } of newestFirst) {
        const group = groups[places.groupOf(ids[i] as number)];
        if (!group) continue;
        let interval = known.get(group);
        if (interval === undefined) known.set(group, (interval = group.intervalMs));
        if (!(interval > 0)) continue;
        intervals[i] = interval;
        break;
      }
    }
    return intervals;
  }

  /** Samples taken per minute number (ms / 60,000) in the slots held. */
  get perMinute(): ReadonlyMap<number, number> {
    return this.#perMinute;
  }

  /** Forgets a slot that has been compacted. */
  drop(number: number): void {
    const slot = this.#slots.get(number);
    for (const { ids, newestMs } of slot?.groups ?? [])
      for (const id of ids)
        if (!(newestMs <= (this.#lastTimeMs.get(id) ?? Number.NEGATIVE_INFINITY))) this.#lastTimeMs.set(id, newestMs);
    const groups = new Set(slot?.groups);
    for (let i = this.#plain.length - 1; i >= 0; i--) {
      const { group, sizeBytes } = this.#plain[i] as PlainRowBlock;
      if (!groups.has(group)) continue;
      this.#plain.splice(i, 1);
      this.#plainBytes -= sizeBytes;
    }
    this.#slots.delete(number);
    for (let minute = slotStart(number) / 60_000; minute < (slotStart(number) + slotMs) / 60_000; minute++)
      this.#perMinute.delete(minute);
    this.#completeFromMs = Math.max(this.#completeFromMs, slotStart(number) + slotMs);
  }

  /** Whether a slot has samples that compaction has not been given. */
  isChanged(number: number): boolean {
    const slot = this.#slots.get(number);
    return slot !== undefined && (slot.changed === undefined || slot.changed.size > 0);
  }

  #slotAt(number: number): HeadSlot {
    let slot = this.#slots.get(number);
    if (!slot)
      this.#slots.set(
        number,
        (slot = { groups: [], places: new PagedPlaces(), strays: new Map(), changed: undefined }),
      );
    return slot;
  }

  #putRun(time: number, run: Run, value: Float64Array, at: number): void {
    const { series, from, to } = run;
    const number = slotOf(time);
    const slot = this.#slotAt(number);
    const firstId = series[from] as number;
    const first = slot.groups[slot.places.groupOf(firstId)];
    if (first && slot.places.laneOf(firstId) === 0 && first.isOf(run)) {
      // What stands beside it, at a time that is not new, would go on to win.
      const row = time > first.newestMs || !hasStrays(slot, run) ? first.rowFor(time, true) : -1;
      if (row >= 0 && first.putAll(row, value, at)) {
        if (slot.changed) for (let i = from; i < to; i++) slot.changed.add(series[i] as number);
        return;
      }
    }
    this.#homeNew(number, slot, run);
    for (let i = from; i < to; i++) this.#putOne(slot, series[i] as number, time, value, at + i - from);
  }

  /** Series that are new in the slot become a group: they were answered together, and most likely will be again. */
  #homeNew(number: number, slot: HeadSlot, { series, from, to }: Run): void {
    const fresh = new Set<number>();
    for (let i = from; i < to; i++) if (!slot.places.has(series[i] as number)) fresh.add(series[i] as number);
    if (fresh.size === 0) return;
    const group = new HeadGroup(Uint32Array.from(fresh), this.#blockMade);
    const groupNumber = slot.groups.push(group) - 1;
    group.ids.forEach((id, lane) => {
      slot.places.set(id, groupNumber, lane);
    });
    this.#seen(group.ids, number);
  }

  #putOne(slot: HeadSlot, id: number, time: number, values: Float64Array, from: number): void {
    const group = slot.groups[slot.places.groupOf(id)] as HeadGroup;
    const lane = slot.places.laneOf(id);
    slot.changed?.add(id);
    const row = group.rowFor(time, false);
    if (row >= 0 && group.put(row, lane, values, from)) {
      slot.strays.get(id)?.remove(time);
      return;
    }
    if (row >= 0) group.clear(row, lane);
    let stray = slot.strays.get(id);
    if (!stray) slot.strays.set(id, (stray = new Growing()));
    stray.put(time, values, from);
  }

  readonly #blockMade = (group: HeadGroup, rowBlock: number, sizeBytes: number): void => {
    this.#lastMadeMs = group.newestMs;
    this.#plain.push({ group, rowBlock, sizeBytes, lastMs: group.newestMs });
    this.#plainBytes += sizeBytes;
    for (let packed = 0; packed < mostPackedAtOnce && this.#isTooMuch(); packed++) this.#packOldest();
    // Whoever writes does not wait for what is packed only because it is old.
    if (this.#plainForNow === 0 && this.#isDue()) this.packSoon();
  };

  #isTooMuch(): boolean {
    return this.#plainBytes > Math.max(this.#mostPlainBytes, this.#plainForNow);
  }

  /** Whether the oldest plain row block may not stand plain any longer. */
  #isDue(): boolean {
    const oldest = this.#plain[0];
    return oldest !== undefined && (this.#isTooMuch() || oldest.lastMs < this.#lastMadeMs - plainForMs);
  }

  #packOldest(): void {
    const oldest = this.#plain.shift() as PlainRowBlock;
    this.#plainBytes -= oldest.sizeBytes;
    oldest.group.pack(oldest.rowBlock);
  }

  #countMinute(timeMs: number, samples: number): void {
    const minute = Math.floor(timeMs / 60_000);
    this.#perMinute.set(minute, (this.#perMinute.get(minute) ?? 0) + samples);
  }
}

/** Whether anything stands beside the groups of these series. */
function hasStrays({ strays }: HeadSlot, { series, from, to }: Run): boolean {
  if (strays.size === 0) return false;
  for (let i = from; i < to; i++) if (strays.has(series[i] as number)) return true;
  return false;
}
