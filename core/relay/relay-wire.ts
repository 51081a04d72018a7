import type { WalkView } from "../api/sources.ts";
import type { Reading } from "../counters/reading.ts";
import type { MachineEvent } from "../events/machine-event.ts";
import type { Dialect } from "../formats/exposition/families.ts";
import type { Device } from "../sources/kinds/device-kinds.ts";
import type { SnmpDevice } from "../sources/kinds/snmp.ts";
import type { SourceKind } from "../sources/kinds/source-kinds.ts";
import type { Credentials, PullAddress, Trust } from "../sources/source.ts";
import type { SourceFailure } from "../sources/source-failure.ts";

// What a relay and its server say to each other: JSON over HTTP, always asked by the relay.

/** A source that a relay asks, with what it needs for that. The relay's own machine is the one of kind "relay". */
export interface RelayedSource {
  readonly id: number;
  readonly kind: SourceKind;
  readonly name: string;
  readonly intervalMs: number;
  readonly address: PullAddress | null;
  readonly device: Device | null;
  readonly trust: Trust;
  readonly credentials: Credentials;
  /** What is wanted more often for a while; no counters where all of it is. */
  readonly haste: { readonly everyMs: number; readonly untilMs: number; readonly counters: readonly string[] } | null;
}

/** What a relay is to ask; another `mark` says that it is another list. */
export interface RelayOrders {
  readonly mark: string;
  readonly mostPageBytes: number;
  readonly sources: readonly RelayedSource[];
}

/** Something that is asked once at the relay, while a person waits for it. */
export type RelayTask = { readonly task: number } & (
  | {
      readonly kind: "page";
      readonly address: PullAddress;
      readonly trust: Trust;
      readonly credentials: Credentials;
    }
  | { readonly kind: "device"; readonly device: Device; readonly trust: Trust; readonly credentials: Credentials }
  | {
      readonly kind: "walk";
      readonly device: SnmpDevice;
      readonly credentials: Credentials;
      readonly after: string | undefined;
    }
);

/** A task without its number. */
export type Asked = RelayTask extends infer T ? (T extends RelayTask ? Omit<T, "task"> : never) : never;

/** What asking a device gave, as it is sent. */
export interface SentReadings {
  readonly kind: "readings";
  readonly readings: readonly Reading[];
  readonly leftOut: readonly (readonly [string, number])[];
  readonly raw: string;
  readonly rawType: string;
  readonly certificateUntilMs: number | null;
  readonly events: readonly Omit<MachineEvent, "id" | "machine">[];
}

/** What an address answered, as it is sent. */
export interface SentPage {
  readonly kind: "page";
  readonly dialect: Dialect;
  readonly contentType: string;
  /** In base64: a page need not be text. */
  readonly bytes: string;
  readonly certificateUntilMs: number | null;
}

export interface SentFailure {
  readonly kind: "failed";
  readonly failure: SourceFailure;
}

export type RelayAnswer = { readonly task: number; readonly tookMs: number } & (
  | SentReadings
  | SentPage
  | SentFailure
  | { readonly kind: "walked"; readonly walk: WalkView }
);

/** What of a page was stored: found is taken and left out together. */
export interface StoredPage {
  readonly found: number;
  readonly taken: number;
  readonly leftOut: Readonly<Record<string, number>>;
}

/** What came of asking a source once; `seq` counts all that the relay ever gathered. */
export type RelayRecord = {
  readonly seq: number;
  readonly source: number;
  readonly atMs: number;
  readonly tookMs: number;
  /** Whether it was asked between its own moments, for what is wanted in haste. */
  readonly isHasty?: true;
  /** What became of its samples, where who gathered it has stored them already. */
  readonly stored?: StoredPage;
} & (SentReadings | SentPage | SentFailure);

/** How a relay stands, told each time it asks for work. */
export interface RelayState {
  readonly version: string;
  /** Of the spool's folder: another one counts anew. */
  readonly life: string;
  /** The list that it works by; none before it has one. */
  readonly mark: string | null;
  /** What waits to be sent. */
  readonly waiting: { readonly records: number; readonly bytes: number; readonly sinceMs: number | null };
  /** How many answers had to go: the oldest, because more waited than there is room for, or what could not be kept. */
  readonly dropped: number;
  /** Why the newest could not be kept on its disk; null where it could. Relays of before do not tell. */
  readonly failure?: string | null;
}

export interface RelayWork {
  /** Only where it is another list than the relay's. */
  readonly orders?: RelayOrders;
  readonly tasks: readonly RelayTask[];
}

export interface RelayTaken {
  /** All records up to this one are durable. */
  readonly takenUntil: number;
}
