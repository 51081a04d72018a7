import type { FileSeries } from "../pages/file-series.ts";
import type { CounterKind, Tags } from "../counters/counter.ts";
import type { TableShape } from "../formats/csv/table-shape.ts";
import type { DiagnosisKind, SourceFailure } from "../sources/source-failure.ts";
import type { SourceKind } from "../sources/kinds/source-kinds.ts";
import type { Credentials, Source, SourceSettings, SourceState } from "../sources/source.ts";
import { type Nothing, route } from "./route.ts";
import type { WindowQuery } from "./window-query.ts";
import type { SnmpDevice } from "../sources/kinds/snmp.ts";
import type { IntakeLimits } from "../sources/intake-limits.ts";

/**
 * What a walk through a device of SNMP found: what is understood, by module and row, and numbers that nobody has
 * described.
 */
export interface WalkView {
  readonly device: string;
  readonly name: string;
  readonly tookMs: number;
  readonly variables: number;
  readonly groups: readonly {
    readonly module: string;
    readonly words: string;
    readonly readings: readonly {
      readonly counter: string;
      readonly words: string;
      readonly tags: Tags;
      readonly unit: string;
      readonly kind: CounterKind;
      readonly value: number;
    }[];
  }[];
  readonly unknown: readonly WalkedNumber[];
  /** Why the walk ended early, what was not looked at, and after which number it can go on; null where it did not. */
  readonly cut: { readonly words: string; readonly after: string } | null;
}

export interface WalkedNumber {
  readonly oid: string;
  readonly type: string;
  readonly text: string;
  /** Null where it is no number. */
  readonly value: number | null;
  readonly kind: "total" | "level";
}

/** How a relay stood when it last asked for work. */
export interface RelayStanding {
  readonly version: string;
  readonly seenMs: number;
  /** What waits there to be sent. */
  readonly waiting: { readonly records: number; readonly bytes: number; readonly sinceMs: number | null };
  /** How many answers had to go: the oldest, because more waited than there is room for, or what could not be kept. */
  readonly dropped: number;
  /** Why the newest could not be kept on its disk; null where it could. */
  readonly failure: string | null;
}

/** A source and how it stands; times in ms, null where there is none yet. */
export interface SourceView extends Source {
  readonly state: SourceState;
  readonly heardMs: number | null;
  readonly tookMs: number | null;
  /** When the certificate that it shows ends; null where it shows none. */
  readonly certificateUntilMs: number | null;
  readonly nextMs: number | null;
  /** Of the last page: found = taken + left out. */
  readonly found: number | null;
  readonly taken: number | null;
  readonly leftOut: Readonly<Record<string, number>>;
  readonly failure: SourceFailure | null;
  /** Failed answers and refused requests since the start. */
  readonly failures: number;
  readonly hasRaw: boolean;
  /** How far its clock is behind the server's, ms (negative: ahead); null where it sends no times, or too few yet. */
  readonly clockBehindMs: number | null;
  /** How late its samples come by measuring, ms. */
  readonly measuredLateMs: number;
  /** Of a relay that has been there since this server started; null else. */
  readonly relay: RelayStanding | null;
}

/** How a source stood from then until then, ms. */
export interface SpellView {
  readonly fromMs: number;
  readonly untilMs: number;
  readonly outcome: "ok" | DiagnosisKind;
  readonly words: string;
}

/** One series as it came and what the rules make of it. */
export interface TriedSeries {
  readonly sent: FileSeries;
  /** Null where it is not gathered. */
  readonly made: FileSeries | null;
  readonly why: string | null;
  readonly value: number | null;
  /** What the format itself says about it. */
  readonly help: string;
}

/** What a page would give. found = taken + the sum of left out. */
export interface TriedPage {
  readonly kind: "page";
  readonly tookMs: number;
  readonly format: "openmetrics" | "text" | "otlp" | "csv" | "device";
  readonly bytes: number;
  readonly found: number;
  readonly taken: number;
  readonly leftOut: Readonly<Record<string, number>>;
  /** At most as many as are worth showing. */
  readonly series: readonly TriedSeries[];
}

export type TryAnswer = TriedPage | ({ readonly kind: "failed" } & { readonly failure: SourceFailure });

export type WalkAnswer =
  | { readonly kind: "walked"; readonly walk: WalkView }
  | { readonly kind: "failed"; readonly failure: SourceFailure };

/** Answer to a push. found = taken + the sum of left out. */
export interface PushAnswer {
  readonly found: number;
  readonly taken: number;
  readonly leftOut: Readonly<Record<string, number>>;
  readonly notes: readonly string[];
  /** While a recording runs that holds series of this source: a collector gathers these more often, for so long. */
  readonly gather?: GatherFaster;
  /** A collector is to measure how fast one processor of its machine is, once. */
  readonly measure?: "speed";
}

/** What a collector is told while a recording runs; it falls back by itself when it is told no more. */
export interface GatherFaster {
  readonly everySeconds: number;
  readonly forSeconds: number;
  /** The counters wanted, by the names that a collector sends them under, with a blank between. */
  readonly counters: string;
}

/** How a table was found to be read; without doubts it is taken so, with some a person confirms it. */
export interface FoundTable {
  readonly shape: TableShape;
  readonly doubts: readonly string[];
  readonly tried: TriedPage;
}

/** What a person says of a source; credentials are left out where they stay as they are. */
export type SourceBody = Pick<SourceSettings, "name" | "machine" | "intervalMs"> &
  Partial<SourceSettings> & { readonly credentials?: Credentials | undefined };

/** What is to be tried before it is saved; with `id`, as that source with other settings. */
export type TryBody = Partial<Pick<SourceSettings, "address" | "device" | "trust" | "take" | "tags" | "askedFrom">> & {
  readonly machine: string;
  readonly credentials?: Credentials | undefined;
  readonly id?: number;
};

export const listSources = route("GET", "/sources")<Nothing, readonly SourceView[]>();
export const makeSource = route("POST", "/sources", 201)<SourceBody & { readonly kind: SourceKind }, SourceView>();
export const trySource = route("POST", "/sources/try")<TryBody, TryAnswer>();
/** Everything that a device of SNMP has, in words; goes on after the object `after`. */
export const walkSource = route("POST", "/sources/walk")<
  {
    readonly device: SnmpDevice;
    readonly askedFrom?: number | null;
    readonly credentials?: Credentials | undefined;
    readonly id?: number;
    readonly after?: string | undefined;
  },
  WalkAnswer
>();
export const getSource = route("GET", "/sources/:id")<Nothing, SourceView>();
export const changeSource = route("PUT", "/sources/:id")<SourceBody, SourceView>();
export const pauseSource = route("PUT", "/sources/:id/pause")<
  { readonly untilMs: number; readonly why?: string },
  SourceView
>();
export const endPause = route("DELETE", "/sources/:id/pause")<Nothing, SourceView>();
export const removeSource = route("DELETE", "/sources/:id", 204)();
export const bringSourceBack = route("POST", "/sources/:id/bring-back")<Nothing, SourceView>();
/** The text as last received, whatever it is. */
export const getRawText = route("GET", "/sources/:id/raw")<Nothing, string>();
/** What other rules and tags would make of what was received last. */
export const previewRules = route("POST", "/sources/:id/preview")<
  Partial<Pick<SourceSettings, "take" | "tags">>,
  TriedPage
>();
export const listSpells = route("GET", "/sources/:id/spells")<Nothing, readonly SpellView[], WindowQuery>();
/** How a table is read: found, or as a person says; with what it gives. */
export const readTable = route("POST", "/sources/:id/table")<
  { readonly text: string; readonly shape?: TableShape | null },
  FoundTable
>();
export const getLimits = route("GET", "/intake-limits")<Nothing, IntakeLimits>();
export const changeLimits = route("PUT", "/intake-limits")<IntakeLimits, IntakeLimits>();
