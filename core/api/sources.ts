import type { CounterKind, Tags } from "../counters/counter.ts";
import type { TableShape } from "../formats/csv/table-shape.ts";
import type { DiagnosisKind, SourceFailure } from "../sources/source-failure.ts";
import type { Source, SourceState } from "../sources/source.ts";

/** What a walk through a device of SNMP found: what is understood, by module and row, and numbers that nobody has described. */
export interface WalkView {
  readonly device: string;
  readonly name: string;
  readonly tookMs: number;
  readonly variables: number;
  readonly groups: readonly { readonly module: string; readonly words: string; readonly readings: readonly { readonly counter: string; readonly words: string; readonly tags: Tags; readonly unit: string; readonly kind: CounterKind; readonly value: number }[] }[];
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
  readonly sent: { readonly counter: string; readonly tags: Tags; readonly unit: string; readonly kind: CounterKind };
  /** Null where it is not gathered. */
  readonly made: { readonly counter: string; readonly tags: Tags; readonly unit: string; readonly kind: CounterKind } | null;
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

export type WalkAnswer = { readonly kind: "walked"; readonly walk: WalkView } | { readonly kind: "failed"; readonly failure: SourceFailure };

/** Answer to a push. found = taken + the sum of left out. */
export interface PushAnswer {
  readonly found: number;
  readonly taken: number;
  readonly leftOut: Readonly<Record<string, number>>;
  readonly notes: readonly string[];
}

/** How a table was found to be read; without doubts it is taken so, with some a person confirms it. */
export interface FoundTable {
  readonly shape: TableShape;
  readonly doubts: readonly string[];
  readonly tried: TriedPage;
}
