import type { IntakeLimits } from "../../core/sources/intake-limits.ts";
import { counterOfPlainName } from "../../core/counters/catalogue.ts";
import { isStorable } from "../../core/text/storable.ts";
import { setTag } from "../../core/counters/set-tag.ts";
import { seriesKey } from "../../core/counters/series-key.ts";
import type { FileSeries } from "../../core/pages/file-series.ts";
import type { Page } from "../../core/pages/page.ts";
import { sends } from "../../core/sources/kinds/source-kinds.ts";
import type { Source } from "../../core/sources/source.ts";
import { applyTakeRules } from "../../core/sources/take-rules.ts";
import type { NewSeries, Series } from "../store/series-registry.ts";
import type { Expected } from "../store/expected.ts";
import type { Store, Taken } from "../store/store.ts";
import type { Haste } from "./haste.ts";

/** What became of a page: found is taken and left out together. */
export interface PageTaken {
  readonly found: number;
  readonly taken: number;
  /** Why the rest was not: by reason, counted. */
  readonly leftOut: Readonly<Record<string, number>>;
}

/**
 * Counts the new series of a source, so that a label that never repeats does not fill the database. How many it has,
 * the series themselves say: also after a restart.
 */
export class SeriesBudget {
  #minute = 0;
  #inMinute = 0;
  /** Those that are being made. */
  #pending = 0;
  readonly #where: string;

  /** `where` names whose series are counted. */
  constructor(where = "of one source") {
    this.#where = where;
  }

  /**
   * Why a new series may not be; undefined where it may, and then it is counted until it is made. `known` is how many
   * its source has.
   */
  ask(limits: IntakeLimits, known: number, nowMs: number): string | undefined {
    const minute = Math.floor(nowMs / 60_000);
    if (minute !== this.#minute) {
      this.#minute = minute;
      this.#inMinute = 0;
    }
    if (known + this.#pending >= limits.seriesPerSource)
      return `more than ${limits.seriesPerSource} series ${this.#where}`;
    if (this.#inMinute >= limits.newSeriesPerMinute)
      return `more than ${limits.newSeriesPerMinute} new series in a minute`;
    this.#inMinute++;
    this.#pending++;
    return undefined;
  }

  /** So many were made, or will not be. */
  made(count: number): void {
    this.#pending -= count;
  }
}

/** How a page is stored. */
export interface WritingHow {
  /** The time of samples without one. */
  readonly nowMs: number;
  /** From when it is counted how far back a sender may write, for pages that were told earlier. */
  readonly heardMs?: number;
  /** Only what is wanted in haste is stored of it; the rest is not counted either. */
  readonly only?: Haste | undefined;
}

/** A sample of a series that has no number in its table yet. */
interface FreshSample {
  readonly index: number;
  readonly timeMs: number;
  readonly value: number;
}

const unknown = 0;
/** Seconds of these years, taken for milliseconds, lie before this. */
const farBackMs = 1e11;
const dayMs = 86_400_000;
const ofAnother = "of another source: what sends writes to its own series only";
const sameAsAnother = "the same as another series after the rules";

/** Says for each series of one reader which series of the store it is. Numbers below zero say why it is none. */
export class SeriesTable {
  readonly #store: Store;
  readonly #source: TableSource;
  readonly #budget: SeriesBudget;
  readonly #expected: Expected | undefined;
  readonly #isAlive: (sourceId: number) => boolean;
  #ids = new Int32Array(64);
  #factors = new Float64Array(64);
  /** How many of the reader's series the rules have been applied to. */
  #ruled = 0;
  readonly #named: (NewSeries | undefined)[] = [];
  readonly #why: string[] = [];
  /** The store's series that stand in this table. */
  readonly #taken = new Set<number>();
  #generation: number;
  #wanted: { readonly only: Haste; readonly is: Uint8Array } | undefined;
  /** How many series were made through this table. */
  #made = 0;

  /**
   * Nobody waits for series without `expected`. `isAlive` says whether a source is there: what one that was removed has
   * told of may be another's now.
   */
  constructor(
    store: Store,
    source: TableSource,
    budget: SeriesBudget,
    expected: Expected | undefined,
    isAlive: (sourceId: number) => boolean = () => true,
  ) {
    this.#expected = expected;
    this.#isAlive = isAlive;
    this.#store = store;
    this.#source = source;
    this.#budget = budget;
    this.#generation = store.series.generation;
  }

  /**
   * Stores what a page says. Resolves when all that was taken is durable. Throws StoreBusyError.
   */
  async write(
    series: readonly FileSeries[],
    page: Page,
    limits: IntakeLimits,
    { nowMs, heardMs = nowMs, only }: WritingHow,
  ): Promise<PageTaken> {
    this.#forget();
    this.#rule(series);
    const isWanted = only && this.#wantedOf(series, only);
    const leftOut: Record<string, number> = Object.fromEntries(page.leftOut);
    delete leftOut["exemplars"]; // dropped from samples that are taken
    const leave = (reason: string, n = 1) => {
      leftOut[reason] = (leftOut[reason] ?? 0) + n;
    };
    const known = {
      series: new Uint32Array(page.length),
      timeMs: new Float64Array(page.length),
      value: new Float64Array(page.length),
      length: 0,
    };
    const fresh: FreshSample[] = [];
    const ids = this.#ids;
    const factors = this.#factors;
    const backDays = this.#source.backDays ?? 1;
    const oldestMs = isSender(this.#source) ? heardMs - backDays * dayMs : Number.NEGATIVE_INFINITY;
    for (let i = 0; i < page.length; i++) {
      const index = page.which[i] as number;
      if (isWanted && isWanted[index] !== 1) continue;
      const id = ids[index] as number;
      const time = page.timeMs[i] as number;
      const timeMs = Number.isNaN(time) ? nowMs : time;
      if (timeMs < oldestMs) {
        leave(
          timeMs < farBackMs
            ? "before 1973: its times are in another unit than is read; text has milliseconds, and seconds with the Content-Type of OpenMetrics"
            : `more than ${backDays === 1 ? "a day" : `${backDays} days`} back, as its settings have it`,
        );
        continue;
      }
      const value = (page.value[i] as number) * (factors[index] as number);
      if (id > 0) {
        known.series[known.length] = id;
        known.timeMs[known.length] = timeMs;
        known.value[known.length++] = value;
      } else if (id < 0) leave(this.#why[-1 - id] as string);
      else fresh.push({ index, timeMs, value });
    }
    const writes: Promise<Taken>[] = [];
    if (known.length > 0) writes.push(this.#store.write(known));
    if (fresh.length > 0) {
      const allowed = this.#allow(fresh, limits, nowMs, leave);
      // What the store knows already does not wait until the database has numbered the rest: it is away perhaps.
      const numbered = allowed.filter(({ index }) => this.#ids[index] !== unknown);
      if (numbered.length > 0) writes.push(this.#writeRows(numbered, leave));
      if (numbered.length < allowed.length)
        writes.push(
          this.#writeNew(
            allowed.filter(({ index }) => this.#ids[index] === unknown),
            leave,
          ),
        );
    }
    let taken = 0;
    for (const one of await Promise.all(writes)) {
      taken += one.taken;
      for (const [reason, count] of Object.entries(one.refused)) leave(reason, count);
    }
    return { found: page.found, taken, leftOut };
  }

  /**
   * Stores a page as `write` does where nothing is to be decided about it: its series are known as this source's own, and
   * `isAhead` says of each sample that nothing is known of its series at its time or after it. Undefined where that is
   * not so; then nothing was stored.
   */
  writeKnown(
    series: readonly FileSeries[],
    page: Page,
    limits: IntakeLimits,
    { nowMs, isAhead }: { readonly nowMs: number; readonly isAhead: (id: number, timeMs: number) => boolean },
  ): Promise<PageTaken> | undefined {
    this.#forget();
    this.#rule(series);
    for (let i = 0; i < page.length; i++) {
      const index = page.which[i] as number;
      if (this.#ids[index] === unknown && !this.#isOwnAndKnown(index)) return undefined;
      const id = this.#ids[index] as number;
      const time = page.timeMs[i] as number;
      if (id > 0 && !isAhead(id, Number.isNaN(time) ? nowMs : time)) return undefined;
    }
    return this.write(series, page, limits, { nowMs });
  }

  #isOwnAndKnown(index: number): boolean {
    const named = this.#named[index] as NewSeries;
    const known = this.#store.series.find(named);
    if (known?.sourceId !== this.#source.id || (named.falls !== undefined && named.falls !== known?.falls))
      return false;
    return this.#known(index, (known as Series).id);
  }

  /** Which of the reader's series are wanted, 1 for those that are; worked out once for what wants them. */
  #wantedOf(series: readonly FileSeries[], only: Haste): Uint8Array {
    if (this.#wanted?.only === only && this.#wanted.is.length >= series.length) return this.#wanted.is;
    const is = Uint8Array.from(series, (one) => {
      const named = namedSeries(this.#source, one).series;
      return named && only.wants(named.counter, named.tags) ? 1 : 0;
    });
    this.#wanted = { only, is };
    return is;
  }

  /** Begins anew where the store has forgotten series since: what comes back gets another number. */
  #forget(): void {
    if (this.#generation === this.#store.series.generation) return;
    this.#generation = this.#store.series.generation;
    this.#ruled = 0;
    this.#ids.fill(unknown);
    this.#taken.clear();
  }

  #rule(series: readonly FileSeries[]): void {
    if (series.length > this.#ids.length) {
      const size = Math.max(series.length, this.#ids.length * 2);
      const ids = new Int32Array(size);
      ids.set(this.#ids);
      this.#ids = ids;
      const factors = new Float64Array(size);
      factors.set(this.#factors);
      this.#factors = factors;
    }
    for (; this.#ruled < series.length; this.#ruled++) {
      const named = namedSeries(this.#source, series[this.#ruled] as FileSeries);
      const isFit = named.series === undefined || isStorableSeries(named.series);
      this.#named[this.#ruled] = isFit ? named.series : undefined;
      this.#factors[this.#ruled] = named.factor;
      if (!named.series) this.#set(this.#ruled, "left by a rule");
      else if (!isFit) this.#set(this.#ruled, unstorable);
    }
  }

  /**
   * Notes which series of the store this is. False where another of this table is the same: then it is left from now
   * on.
   */
  #known(index: number, id: number): boolean {
    if ((this.#ids[index] as number) > 0) return true;
    this.#named[index] = undefined; // the store has it
    if (this.#taken.has(id)) {
      this.#set(index, sameAsAnother);
      return false;
    }
    this.#taken.add(id);
    if (this.#expected) this.#store.expect(id, this.#expected);
    this.#ids[index] = id;
    return true;
  }

  #set(index: number, why: string): void {
    let at = this.#why.indexOf(why);
    if (at < 0) at = this.#why.push(why) - 1;
    this.#ids[index] = -1 - at;
  }

  #allow(
    fresh: readonly FreshSample[],
    limits: IntakeLimits,
    nowMs: number,
    leave: (reason: string) => void,
  ): readonly FreshSample[] {
    const asked = [...new Set(fresh.map(({ index }) => index))];
    const there = this.#store.series.known(asked.map((index) => this.#named[index] as NewSeries));
    const refused = new Map<number, string>();
    const keys = new Set<string>();
    const sourceId = this.#source.id;
    const known = sourceId === undefined ? this.#made : this.#store.series.countOf(sourceId);
    const unclaimed: NewSeries[] = [];
    asked.forEach((index, i) => {
      if ((there[i] as number) !== 0) {
        const named = this.#named[index] as NewSeries;
        const owner = this.#store.series.ownerOf(named);
        if (owner === undefined || !this.#isAlive(owner)) unclaimed.push(named);
        else if (owner !== sourceId && isSender(this.#source)) {
          this.#set(index, ofAnother);
          refused.set(index, ofAnother);
          return;
        }
        if (!this.#known(index, there[i] as number)) refused.set(index, sameAsAnother);
        return;
      }
      const key = seriesKey((this.#named[index] as NewSeries).counter, (this.#named[index] as NewSeries).tags);
      if (keys.has(key)) {
        this.#set(index, sameAsAnother);
        refused.set(index, sameAsAnother);
        return;
      }
      keys.add(key);
      const why = this.#budget.ask(limits, known, nowMs);
      if (why !== undefined) refused.set(index, why);
    });
    if (sourceId !== undefined) this.#store.series.claim(unclaimed, sourceId);
    return fresh.filter(({ index }) => {
      const why = refused.get(index);
      if (why !== undefined) leave(why);
      return why === undefined;
    });
  }

  /** Stores samples of series that the store does not know yet. */
  async #writeNew(fresh: readonly FreshSample[], leave: (reason: string, n: number) => void): Promise<Taken> {
    const unresolved = [...new Set(fresh.map(({ index }) => index))];
    const places = new Map(unresolved.map((index, i) => [index, i]));
    const resolving = this.#store.resolveSoon({
      named: unresolved.map((index) => ({
        ...(this.#named[index] as NewSeries),
        ...(this.#source.id !== undefined && { sourceId: this.#source.id }),
      })),
      which: Uint32Array.from(fresh, ({ index }) => places.get(index) as number),
      timeMs: Float64Array.from(fresh, ({ timeMs }) => timeMs),
      value: Float64Array.from(fresh, ({ value }) => value),
    });
    const ids = await resolving.finally(() => this.#budget.made(unresolved.length));
    this.#made += unresolved.length;
    unresolved.forEach((index, i) => {
      this.#known(index, ids[i] as number);
    });
    return await this.#writeRows(fresh, leave);
  }

  async #writeRows(fresh: readonly FreshSample[], leave: (reason: string, n: number) => void): Promise<Taken> {
    const rows = fresh.filter(({ index }) => (this.#ids[index] as number) > 0);
    // two pages at once had them for the first time
    if (rows.length < fresh.length) leave(sameAsAnother, fresh.length - rows.length);
    return await this.#store.write({
      series: Uint32Array.from(rows, ({ index }) => this.#ids[index] as number),
      timeMs: Float64Array.from(rows, ({ timeMs }) => timeMs),
      value: Float64Array.from(rows, ({ value }) => value),
      length: rows.length,
    });
  }
}

/** What of a device or a sender cannot be stored, and why that is told at its source. */
export const unstorable = "a zero byte or half of a sign in its name or its tags";

export function isStorableSeries({ counter, unit, tags }: Pick<NewSeries, "counter" | "unit" | "tags">): boolean {
  return (
    isStorable(counter) &&
    isStorable(unit) &&
    Object.entries(tags).every(([tag, value]) => isStorable(tag) && isStorable(value))
  );
}

/** What of a source says how its series are named. Those of an import are named as they stand in its text. */
export type SeriesSource = Pick<Source, "machine" | "tags" | "take"> & { readonly kind?: Source["kind"] | "import" };

/** Whose series a table holds; without an id they belong to no source. */
export type TableSource = SeriesSource & Pick<Source, "backDays"> & { readonly id: number | undefined };

/** An import is no sender: its samples may be of any time. */
const isSender = ({ kind }: Pick<TableSource, "kind">) => kind !== undefined && kind !== "import" && sends({ kind });

/** Our collector writes the catalogue's names without their dots; unit and kind are the catalogue's. */
function catalogued(series: FileSeries): FileSeries {
  const info = counterOfPlainName(series.counter);
  return info ? { counter: info.name, unit: info.unit, kind: info.kind, tags: series.tags } : series;
}

/** What a source's rules, tags and machine make of a series. */
export function namedSeries(
  source: SeriesSource,
  series: FileSeries,
): { readonly series: NewSeries | undefined; readonly factor: number } {
  if (source.kind === "import") return { series, factor: 1 };
  const taken = applyTakeRules(source.take, source.kind === "collector" ? catalogued(series) : series);
  if (!taken) return { series: undefined, factor: 1 };
  // Set one by one, objects of the same tags share their shape: for hundreds of thousands of series that is half their
  // memory.
  const tags: Record<string, string> = {};
  for (const name in taken.tags) if (name !== "machine") setTag(tags, name, taken.tags[name] as string);
  const sent = taken.tags["machine"];
  if (sent !== undefined && sent.toLowerCase() !== source.machine.toLowerCase()) tags["sent.machine"] = sent;
  for (const name in source.tags) setTag(tags, name, source.tags[name] as string);
  tags["machine"] = source.machine;
  return {
    series: {
      counter: taken.counter,
      unit: taken.unit,
      kind: taken.kind,
      tags,
      ...(series.falls !== undefined && {
        falls: typeof series.falls === "number" ? series.falls * taken.factor : series.falls,
      }),
    },
    factor: taken.factor,
  };
}
