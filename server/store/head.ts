import type { Batch, Column } from "../../core/series/batch.ts";
import { Growing } from "./growing.ts";
import { HeadGroup } from "./head-group.ts";
import { columnsOfSnapshot, type HeadPart, type HeadSnapshot } from "./head-snapshot.ts";
import { slotMs, slotOf, slotStart } from "./slots.ts";

/** What the head holds of one slot. */
interface HeadSlot {
  readonly groups: HeadGroup[];
  readonly places: Map<number, { readonly group: HeadGroup; readonly lane: number }>;
  readonly strays: Map<number, Growing>;
  /** Series written since the slot was last taken for compaction; undefined while it never was: then all are. */
  changed: Set<number> | undefined;
}

/** A row block that is not packed yet. */
interface PlainRowBlock {
  readonly group: HeadGroup;
  readonly rowBlock: number;
  readonly sizeBytes: number;
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
  #plainBytes = 0;
  /** Newest times of series in slots that were dropped. */
  readonly #lastTimeMs = new Map<number, number>();
  #completeFromMs: number;

  /** Row blocks above `mostPlainBytes` are packed, oldest first. */
  constructor(completeFromMs: number, mostPlainBytes = 64e6) {
    this.#completeFromMs = completeFromMs;
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
      bytes += places.size * 80;
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

  /** Takes a batch run by run: samples that share a time stand together. */
  put(batch: Batch): void {
    const { timeMs, length } = batch;
    let at = 0;
    while (at < length) {
      const time = timeMs[at] as number;
      let end = at + 1;
      while (end < length && timeMs[end] === time) end++;
      this.#putRun(this.#slotAt(time), batch, at, end);
      this.#countMinute(time, end - at);
      at = end;
    }
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
      const byGroup = new Map<HeadGroup, { wanted: number[]; lanes: number[] }>();
      let group: HeadGroup | undefined;
      let list: { wanted: number[]; lanes: number[] } | undefined;
      for (let i = 0; i < ids.length; i++) {
        const id = ids[i] as number;
        const place = slot.places.get(id);
        if (place) {
          // Series of one source mostly come together.
          if (place.group !== group) {
            group = place.group;
            list = byGroup.get(group);
            if (!list) byGroup.set(group, (list = { wanted: [], lanes: [] }));
          }
          list?.wanted.push(i);
          list?.lanes.push(place.lane);
        }
        const stray = slot.strays.size === 0 ? undefined : slot.strays.get(id)?.column;
        if (stray) strays.push({ wanted: i, column: { timeMs: stray.timeMs.slice(), value: stray.value.slice() } });
      }
      for (const [held, { wanted, lanes: some }] of byGroup) {
        const lanes = Int32Array.from(some);
        const open = held.copyOpen(lanes);
        parts.push({
          wanted: Int32Array.from(wanted),
          lanes,
          rowBlocks: held.rowBlocksIn(fromMs, toMs),
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
    const ids = Int32Array.from(before ?? new Set([...slot.places.keys(), ...slot.strays.keys()])).sort();
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
      const group = slot.places.get(id)?.group;
      if (group && !(group.newestMs <= (newest ?? Number.NEGATIVE_INFINITY))) newest = group.newestMs;
    }
    return newest;
  }

  /** How far apart the newest answers with each series were, in ms; NaN where that is not known. */
  intervalsMs(ids: readonly number[]): Float64Array {
    const newestFirst = this.slots.toReversed().map((number) => this.#slots.get(number) as HeadSlot);
    const known = new Map<HeadGroup, number>();
    const intervals = new Float64Array(ids.length).fill(Number.NaN);
    for (let i = 0; i < ids.length; i++) {
      for (const { places } of newestFirst) {
        const group = places.get(ids[i] as number)?.group;
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
    for (const [id, { group }] of slot?.places ?? [])
      if (!(group.newestMs <= (this.#lastTimeMs.get(id) ?? Number.NEGATIVE_INFINITY)))
        this.#lastTimeMs.set(id, group.newestMs);
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

  #slotAt(timeMs: number): HeadSlot {
    const number = slotOf(timeMs);
    let slot = this.#slots.get(number);
    if (!slot)
      this.#slots.set(number, (slot = { groups: [], places: new Map(), strays: new Map(), changed: undefined }));
    return slot;
  }

  #putRun(slot: HeadSlot, { series, timeMs, value }: Batch, at: number, end: number): void {
    const time = timeMs[at] as number;
    const first = slot.places.get(series[at] as number);
    if (first && first.lane === 0 && sameIds(first.group.ids, series, at, end)) {
      const isNew = time > first.group.newestMs;
      const row = first.group.rowFor(time, true);
      if (row >= 0 && (isNew || slot.strays.size === 0) && first.group.putAll(row, value, at)) {
        if (slot.changed) for (let i = at; i < end; i++) slot.changed.add(series[i] as number);
        return;
      }
    }
    this.#homeNew(slot, series, at, end);
    for (let i = at; i < end; i++) this.#putOne(slot, series[i] as number, time, value, i);
  }

  /** Series that are new in the slot become a group: they were answered together, and most likely will be again. */
  #homeNew(slot: HeadSlot, series: Uint32Array, at: number, end: number): void {
    const fresh = new Set<number>();
    for (let i = at; i < end; i++) if (!slot.places.has(series[i] as number)) fresh.add(series[i] as number);
    if (fresh.size === 0) return;
    const group = new HeadGroup(Uint32Array.from(fresh), this.#blockMade);
    slot.groups.push(group);
    group.ids.forEach((id, lane) => {
      slot.places.set(id, { group, lane });
    });
  }

  #putOne(slot: HeadSlot, id: number, time: number, values: Float64Array, from: number): void {
    const { group, lane } = slot.places.get(id) as { group: HeadGroup; lane: number };
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
    this.#plain.push({ group, rowBlock, sizeBytes });
    this.#plainBytes += sizeBytes;
    while (this.#plainBytes > this.#mostPlainBytes) {
      const oldest = this.#plain.shift() as PlainRowBlock;
      this.#plainBytes -= oldest.sizeBytes;
      oldest.group.pack(oldest.rowBlock);
    }
  };

  #countMinute(timeMs: number, samples: number): void {
    const minute = Math.floor(timeMs / 60_000);
    this.#perMinute.set(minute, (this.#perMinute.get(minute) ?? 0) + samples);
  }
}

function sameIds(ids: Uint32Array, series: Uint32Array, at: number, end: number): boolean {
  if (ids.length !== end - at) return false;
  for (let i = at; i < end; i++) if (ids[i - at] !== series[i]) return false;
  return true;
}
