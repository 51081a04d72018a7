import type { IntakeLimits } from "../../core/sources/intake-limits.ts";
import type { SourceFailure } from "../../core/sources/source-failure.ts";
import type { RelayStanding, SourceView } from "../../core/api/sources.ts";
import type { KnownColumns } from "../../core/formats/csv/columns.ts";
import type { FileSeries } from "../../core/pages/file-series.ts";
import type { Page } from "../../core/pages/page.ts";
import type { Dialect } from "../../core/formats/exposition/families.ts";
import { PageReader } from "../../core/formats/exposition/page-reader.ts";
import { sends } from "../../core/sources/kinds/source-kinds.ts";
import { type Source, stateOf } from "../../core/sources/source.ts";
import { ReadingsReader } from "../../core/pages/readings-reader.ts";
import { SourceClock } from "../../core/sources/source-clock.ts";
import type { Expected } from "../store/expected.ts";
import type { Store } from "../store/store.ts";
import type { Haste } from "./haste.ts";
import { type PageTaken, SeriesBudget, SeriesTable } from "./series-table.ts";
import type { Spells } from "./spells.ts";

/** What is kept of the text received last, to be looked at. */
const mostRaw = 1_048_576;
/** Readers remember the lines they have seen; one that has seen this many is left for a fresh one. */
const mostRemembered = 200_000;
const mostIdle = 4;
const newline = 0x0a;

/** What a source said last; of long texts the beginning, to the end of a line. */
export interface RawText {
  readonly bytes: Uint8Array;
  /** Bytes that came: more than are kept of a long one. */
  readonly size: number;
  readonly contentType: string;
  readonly atMs: number;
  readonly isWhole: boolean;
}

/** What another server has stored of what a source sends. */
export interface TakenElsewhere {
  readonly atMs: number;
  /** The newest time of it; null where it leaves times to who receives it. */
  readonly newestMs: number | null;
  /** Whether what sends it runs on another machine; absent of what was asked. */
  readonly isElsewhere?: boolean;
  /** How long asking took. */
  readonly tookMs?: number;
  /** When the certificate that it showed ends. */
  readonly certificateUntilMs?: number | null;
  readonly help: readonly (readonly [counter: string, text: string])[];
  readonly taken: PageTaken;
}

/** Anything that reads something into pages. */
export interface SeriesReader {
  readonly series: readonly FileSeries[];
  readonly help: ReadonlyMap<string, string>;
}

/** A reader and what its series are in the store. Used for one page at a time. */
export interface PageIntake<R extends SeriesReader> {
  readonly reader: R;
  readonly table: SeriesTable;
}

/**
 * One source while the server runs: how it stands, its readers, what it said last. Made anew when its settings change.
 */
export class SourceRun {
  readonly source: Source;
  readonly help: Map<string, string>;
  readonly #store: Store;
  readonly #spells: Spells;
  readonly #limits: () => IntakeLimits;
  #sinceMs: number;
  readonly #budget: SeriesBudget;
  /** By the times of its samples, and by what its answers say besides. */
  readonly #clock: SourceClock;
  readonly #dates: SourceClock;
  /** Whether what sends for it runs on another machine than the server, so that its clock is another. */
  isElsewhere = false;
  readonly #told: (ms: number) => void;
  readonly #isAlive: (sourceId: number) => boolean;
  /** What its series have in common for those who wait for them. */
  readonly expected: Expected;
  readonly #idle = new Map<string, PageIntake<SeriesReader>[]>();
  #heardMs: number | undefined;
  #tookMs: number | undefined;
  #taken: PageTaken | undefined;
  #failure: SourceFailure | undefined;
  #raw: RawText | undefined;
  #failures = 0;
  #isStoredElsewhere = false;
  /** Of how many of its series it is noted what is expected of them. */
  #expecting = 0;
  #columns: { readonly counters: Set<string>; readonly tags: Set<string> } | undefined;
  nextMs: number | undefined;
  /** When the certificate that it shows ends. */
  certificateUntilMs: number | undefined;
  /** Of which version what sends for it is. */
  senderVersion: string | null;
  /** How a relay stands. */
  relay: RelayStanding | undefined;
  /** What a device said last, for trying rules on it. */
  lastReadings: { readonly reader: ReadingsReader; readonly page: Page } | undefined;

  /** `before` is the run with the settings before: how it stood goes on. `nowMs` is since when it is waited for. */
  constructor(
    source: Source,
    parts: {
      store: Store;
      spells: Spells;
      limits: () => IntakeLimits;
      nowMs: number;
      heardMs: number | undefined;
      told: (ms: number) => void;
      isAlive: (sourceId: number) => boolean;
    },
    before?: SourceRun,
  ) {
    this.source = source;
    this.senderVersion = before?.senderVersion ?? source.senderVersion;
    this.#store = parts.store;
    this.#spells = parts.spells;
    this.#limits = parts.limits;
    this.#sinceMs = before && !before.source.pause ? before.#sinceMs : parts.nowMs;
    this.#budget = before && before.source.machine === source.machine ? before.#budget : new SeriesBudget();
    this.help = before ? before.help : new Map();
    const clock = before ? before.#clock : new SourceClock();
    this.#clock = clock;
    this.#dates = before ? before.#dates : new SourceClock();
    this.#told = parts.told;
    this.#isAlive = parts.isAlive;
    this.expected = {
      intervalMs: source.intervalMs,
      isAsked: source.kind === "collector" || !sends(source),
      get lateMs() {
        return source.lateMs ?? clock.lateMs;
      },
    };
    this.#heardMs = before ? before.#heardMs : parts.heardMs;
    if (!before) return;
    this.#tookMs = before.#tookMs;
    this.#taken = before.#taken;
    this.#failure = before.#failure;
    this.#raw = before.#raw;
    this.lastReadings = before.lastReadings;
    this.certificateUntilMs = before.certificateUntilMs;
    this.#failures = before.#failures;
    this.relay = before.relay;
  }

  get heardMs(): number | undefined {
    return this.#heardMs;
  }

  /** Whether asking it failed the last time. */
  get isFailing(): boolean {
    return this.#failure !== undefined;
  }

  get raw(): RawText | undefined {
    return this.#raw;
  }

  /** What it sent last is a table, as the system's own tool of a Windows machine writes it. */
  get sendsTables(): boolean {
    return /csv/.test(this.#raw?.contentType ?? "");
  }

  /** Since when it is waited for: it was not silent while nobody listened. */
  readonly waitedSinceMs = (): number => Math.max(this.#sinceMs, this.#heardMs ?? 0);

  /** Lends a reader of a kind; it must be given back. */
  lend<R extends SeriesReader>(kind: string, make: (limits: IntakeLimits) => R): PageIntake<R> {
    const idle = this.#idle.get(kind)?.pop() as PageIntake<R> | undefined;
    if (idle && idle.reader.series.length <= mostRemembered) return idle;
    return {
      reader: make(this.#limits()),
      table: new SeriesTable(this.#store, this.source, this.#budget, this.expected, this.#isAlive),
    };
  }

  giveBack(kind: string, intake: PageIntake<SeriesReader>): void {
    const idle = this.#idle.get(kind) ?? [];
    if (idle.length < mostIdle) idle.push(intake);
    this.#idle.set(kind, idle);
  }

  lendPages(dialect: Dialect): PageIntake<PageReader> {
    return this.lend(
      dialect,
      (limits) =>
        new PageReader(dialect, { lineBytes: limits.lineBytes, tags: limits.tags, newSeries: limits.seriesPerSource }),
    );
  }

  lendReadings(): PageIntake<ReadingsReader> {
    return this.lend("readings", () => new ReadingsReader());
  }

  /** Which columns of tables this source has sent before: from its series, once, and from what it sends. */
  knownColumns(): KnownColumns {
    if (!this.#columns) {
      this.#columns = { counters: new Set(), tags: new Set() };
      this.#noteColumns(this.#store.series.all().filter(({ sourceId }) => sourceId === this.source.id));
    }
    const { counters, tags } = this.#columns;
    return { isCounter: (name) => counters.has(name), isTag: (name) => tags.has(name) && !(name in this.source.tags) };
  }

  #noteColumns(series: readonly Pick<FileSeries, "counter" | "tags">[]): void {
    for (const { counter, tags } of series) {
      this.#columns?.counters.add(counter);
      for (const tag in tags) this.#columns?.tags.add(tag);
    }
  }

  /** Stores a page, or `only` what of it is wanted in haste, and notes that the source was heard. Resolves when it is durable. */
  async take(
    intake: PageIntake<SeriesReader>,
    page: Page,
    nowMs: number,
    {
      tookMs,
      only,
      stored,
    }: {
      readonly tookMs?: number;
      readonly only?: Haste | undefined;
      /** What was stored of it elsewhere: nothing is stored here. */
      readonly stored?: PageTaken | undefined;
    } = {},
  ): Promise<PageTaken> {
    for (const [counter, text] of intake.reader.help) if (this.help.get(counter) !== text) this.help.set(counter, text);
    if (this.#columns) this.#noteColumns(intake.reader.series);
    const newestMs = newestOf(page);
    if (newestMs !== undefined) {
      this.#clock.note(newestMs, nowMs);
      if (this.isElsewhere) this.#told(newestMs);
    }
    if (stored) this.#isStoredElsewhere = true;
    const writing = stored ?? intake.table.write(intake.reader.series, page, this.#limits(), { nowMs, only });
    this.heard(nowMs, tookMs);
    const taken = await writing;
    if (!only) this.#taken = taken;
    return taken;
  }

  /** Notes what another server has stored of what this source sends. */
  tookElsewhere({ atMs, newestMs, isElsewhere, tookMs, certificateUntilMs, help, taken }: TakenElsewhere): void {
    for (const [counter, text] of help) if (this.help.get(counter) !== text) this.help.set(counter, text);
    this.isElsewhere = isElsewhere ?? this.isElsewhere;
    if (certificateUntilMs !== undefined) this.certificateUntilMs = certificateUntilMs ?? undefined;
    if (newestMs !== null) {
      this.#clock.note(newestMs, atMs);
      if (this.isElsewhere) this.#told(newestMs);
    }
    this.#isStoredElsewhere = true;
    this.#taken = taken;
    // A failure that came after it is heard of before it, perhaps.
    if (this.#failure && this.#failure.atMs > atMs) this.#heardMs = Math.max(atMs, this.#heardMs ?? 0);
    else this.heard(atMs, tookMs);
  }

  /** Whether another server stores what it says, and series of it were not told here: `expectingAll` is to follow. */
  get lacksExpected(): boolean {
    return this.#isStoredElsewhere && this.#expecting !== this.#store.series.countOf(this.source.id);
  }

  /** It was noted of all its series what is expected of them. */
  expectingAll(): void {
    this.#expecting = this.#store.series.countOf(this.source.id);
  }

  /** Stores what was read away from here. */
  takeRead({ series, help, page }: SeriesReader & { readonly page: Page }, nowMs: number): Promise<PageTaken> {
    return this.take(
      {
        reader: { series, help },
        table: new SeriesTable(this.#store, this.source, this.#budget, this.expected, this.#isAlive),
      },
      page,
      nowMs,
    );
  }

  /** What time it was there when it answered. */
  noteDate({ thereMs, hereMs }: { readonly thereMs: number; readonly hereMs: number }): void {
    this.#dates.note(thereMs, hereMs);
    if (this.isElsewhere) this.#told(thereMs);
  }

  /** The clock was set: nothing was heard after the present. */
  rebase(nowMs: number): void {
    if (this.#heardMs !== undefined) this.#heardMs = Math.min(this.#heardMs, nowMs);
    this.#sinceMs = Math.min(this.#sinceMs, nowMs);
  }

  heard(nowMs: number, tookMs?: number): void {
    this.#heardMs = Math.max(nowMs, this.#heardMs ?? 0);
    this.#tookMs = tookMs;
    this.#failure = undefined;
    this.#spells.note(this.source.id, this.source.intervalMs, nowMs, "ok", "");
  }

  failed(failure: SourceFailure): void {
    this.#failure = failure;
    this.#failures++;
    this.#spells.note(this.source.id, this.source.intervalMs, failure.atMs, failure.kind, failure.words);
  }

  keepRaw(bytes: Uint8Array, contentType: string, atMs: number, isWhole = true): void {
    this.#raw = {
      size: bytes.length,
      bytes: bytes.length > mostRaw ? bytes.slice(0, bytes.lastIndexOf(newline, mostRaw) + 1) : bytes,
      contentType,
      atMs,
      isWhole: isWhole && bytes.length <= mostRaw,
    };
  }

  view(nowMs: number): SourceView {
    const taken = this.#taken;
    return {
      ...this.source,
      senderVersion: this.senderVersion,
      state: stateOf(this.source, this.#heardMs, this.#sinceMs, nowMs),
      heardMs: this.#heardMs ?? null,
      tookMs: this.#tookMs ?? null,
      nextMs: this.source.pause ? null : (this.nextMs ?? null),
      found: taken?.found ?? null,
      taken: taken?.taken ?? null,
      leftOut: taken?.leftOut ?? {},
      failure: this.#failure ?? null,
      failures: this.#failures,
      hasRaw: this.#raw !== undefined,
      certificateUntilMs: this.certificateUntilMs ?? null,
      clockBehindMs: this.#clock.behindMs ?? this.#dates.behindMs ?? null,
      measuredLateMs: this.#clock.lateMs,
      relay: this.relay ?? null,
    };
  }
}

/** The newest time that a page says; undefined where it leaves times to us. */
export function newestOf({ timeMs, length }: Page): number | undefined {
  let newest = Number.NEGATIVE_INFINITY;
  for (let i = 0; i < length; i++) if ((timeMs[i] as number) > newest) newest = timeMs[i] as number;
  return Number.isFinite(newest) ? newest : undefined;
}
