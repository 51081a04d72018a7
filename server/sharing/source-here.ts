import type { Dialect } from "../../core/formats/exposition/families.ts";
import { PageReader } from "../../core/formats/exposition/page-reader.ts";
import { TextError } from "../../core/pages/text-error.ts";
import type { Page } from "../../core/pages/page.ts";
import { ReadingsReader } from "../../core/pages/readings-reader.ts";
import type { SentReadings } from "../../core/relay/relay-wire.ts";
import type { IntakeLimits } from "../../core/sources/intake-limits.ts";
import type { Source } from "../../core/sources/source.ts";
import { readInPieces } from "../sources/read-in-pieces.ts";
import { SeriesBudget, SeriesTable } from "../sources/series-table.ts";
import { newestOf, type SeriesReader, type TakenElsewhere } from "../sources/source-run.ts";
import { ForgottenSeriesError, StoreBusyError } from "../store/journal.ts";
import type { Store } from "../store/store.ts";

/** Readers remember the lines they have seen; one that has seen this many is left for a fresh one. */
const mostRemembered = 200_000;
const mostIdle = 4;

interface Intake<R extends SeriesReader> {
  readonly reader: R;
  readonly table: SeriesTable;
}

/** What was stored of a page, for whoever keeps how the source stands, and what it was read without. */
export interface TakenHere {
  readonly account: Pick<TakenElsewhere, "atMs" | "newestMs" | "help" | "taken">;
  readonly leftOut: Page["leftOut"];
}

/** Whether a page that could not be stored here is to go to the server that leads without a word: it knows what to say. */
export const isForTheLeader = (error: unknown): boolean =>
  error instanceof TextError || error instanceof ForgottenSeriesError || error instanceof StoreBusyError;

/** A source whose pages are stored by a server that stands beside the one that leads; made anew when its settings change. */
export class SourceHere {
  readonly source: Source;
  readonly limits: IntakeLimits;
  readonly #store: Store;
  readonly #idle = new Map<string, Intake<SeriesReader>[]>();
  /** Told of by this server already. */
  #help = new Map<string, string>();

  constructor(source: Source, store: Store, limits: IntakeLimits) {
    this.source = source;
    this.#store = store;
    this.limits = limits;
  }

  /** What counters mean is told once more: another server leads now. */
  tellHelpAgain(): void {
    this.#help = new Map();
  }

  /**
   * Stores a page of text where nothing is to be decided about it, samples without a time at `atMs`; resolves when it is
   * durable. Undefined where the server that leads is to take it. Throws TextError, ForgottenSeriesError, StoreBusyError.
   */
  takeText(text: Uint8Array, dialect: Dialect, atMs: number): Promise<TakenHere | undefined> {
    const { lineBytes, tags, seriesPerSource: newSeries } = this.limits;
    const make = () => new PageReader(dialect, { lineBytes, tags, newSeries });
    return this.#take(dialect, make, atMs, (reader) => readInPieces(reader, text));
  }

  /** The same of what a device said. */
  takeReadings({ readings, leftOut }: SentReadings, atMs: number): Promise<TakenHere | undefined> {
    const make = () => new ReadingsReader();
    return this.#take("readings", make, atMs, async (reader) => reader.read(readings, undefined, new Map(leftOut)));
  }

  async #take<R extends SeriesReader>(
    kind: string,
    make: () => R,
    atMs: number,
    read: (reader: R) => Promise<Page>,
  ): Promise<TakenHere | undefined> {
    const intake = this.#lend(kind, make);
    let page: Page;
    let taking: ReturnType<SeriesTable["writeKnown"]>;
    let newestMs: number | null;
    try {
      page = await read(intake.reader);
      newestMs = newestOf(page) ?? null;
      const isAhead = (id: number, timeMs: number) => this.#store.isAhead(id, timeMs);
      taking = intake.table.writeKnown(intake.reader.series, page, this.limits, { nowMs: atMs, isAhead });
    } finally {
      this.#giveBack(kind, intake);
    }
    if (!taking) return undefined;
    const { leftOut } = page;
    const taken = await taking;
    return { account: { atMs, newestMs, help: this.#newHelp(intake.reader.help), taken }, leftOut };
  }

  #newHelp(help: ReadonlyMap<string, string>): readonly (readonly [string, string])[] {
    const fresh = [...help].filter(([counter, text]) => this.#help.get(counter) !== text);
    for (const [counter, text] of fresh) this.#help.set(counter, text);
    return fresh;
  }

  #lend<R extends SeriesReader>(kind: string, make: () => R): Intake<R> {
    const idle = this.#idle.get(kind)?.pop() as Intake<R> | undefined;
    if (idle && idle.reader.series.length <= mostRemembered) return idle;
    // No series is made here: its budget is asked by the server that leads.
    return { reader: make(), table: new SeriesTable(this.#store, this.source, new SeriesBudget(), undefined) };
  }

  #giveBack(kind: string, intake: Intake<SeriesReader>): void {
    const idle = this.#idle.get(kind) ?? [];
    if (idle.length < mostIdle) idle.push(intake);
    this.#idle.set(kind, idle);
  }
}
