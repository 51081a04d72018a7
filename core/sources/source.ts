import type { Tags } from "../counters/counter.ts";
import type { TableShape } from "../formats/csv/table-shape.ts";
import type { Device } from "./kinds/device-kinds.ts";
import type { SnmpCredentials } from "./kinds/snmp.ts";
import { type SourceKind, sends } from "./kinds/source-kinds.ts";
import type { TakeRule } from "./take-rules.ts";

/** Whom a source's certificate is believed. */
export type Trust =
  /** The issuers that the system trusts. */
  | { readonly kind: "system" }
  /** These issuers (PEM) and no others. */
  | { readonly kind: "issuer"; readonly pem: string }
  /**
   * This one certificate, by the SHA-256 of its DER as pairs of hexadecimal digits with colons; names and dates do not
   * matter then.
   */
  | { readonly kind: "fingerprint"; readonly sha256: string }
  /** Anybody. Marked wherever the source is shown. */
  | { readonly kind: "unchecked" };

/** Where a page is asked for. */
export interface PullAddress {
  readonly scheme: "http" | "https";
  readonly host: string;
  readonly port: number;
  /** With its query. */
  readonly path: string;
  readonly timeoutMs: number;
}

/** How we say who we are. */
export type Credentials =
  | { readonly kind: "none" }
  | { readonly kind: "basic"; readonly user: string; readonly password: string }
  | { readonly kind: "bearer"; readonly token: string }
  | SnmpCredentials;

/** What a person says of a source; without its secrets. */
export interface SourceSettings {
  readonly name: string;
  /** The machine that it reports about. */
  readonly machine: string;
  readonly intervalMs: number;
  /** Whether silence of three intervals is an incident. */
  readonly tellsSilence: boolean;
  /** Only of a pull. */
  readonly address: PullAddress | null;
  readonly trust: Trust;
  /** Only of a device; its kind is the source's. */
  readonly device: Device | null;
  /** Tags that every one of its series gets. */
  readonly tags: Tags;
  readonly take: readonly TakeRule[];
  /** How late its samples may come and still be waited for by rules, ms; null or absent where that is measured. */
  readonly lateMs?: number | null;
  /** Of what sends: how many days back it may write; one where nothing is said. */
  readonly backDays?: number;
  /** The relay that asks it where that stands; null or absent where this server does. */
  readonly askedFrom?: number | null;
  /** How tables that it sends are read, once a person has confirmed it. */
  readonly csv: TableShape | null;
}

/** Nothing is taken of a source for a while; it ends by itself. */
export interface Pause {
  readonly by: string;
  readonly why: string;
  readonly sinceMs: number;
  readonly untilMs: number;
}

export interface Source extends SourceSettings {
  readonly id: number;
  readonly kind: SourceKind;
  readonly credentials: Credentials["kind"];
  readonly pause: Pause | null;
  /** Of a collector or a relay that has told which version it is of; null of others. */
  readonly senderVersion: string | null;
}

export type SourceState = "waiting" | "reporting" | "late" | "silent" | "paused";

/**
 * A source is late after this many intervals without an answer, and silent after this many; of long intervals sooner.
 */
const lateAfter = 2;
const silentAfter = 3;
/** Answers take their time, and clocks of senders are not ours. */
const graceMs = 2000;

/**
 * A sender that comes seldom is not waited for three times over: one that comes once a night is silent before the next
 * noon.
 */
const mostPatienceMs = 6 * 3_600_000;
/** How much longer than its interval a source may say nothing, counted in intervals. */
const patience = (intervalMs: number, intervals: number): number =>
  intervalMs + Math.min((intervals - 1) * intervalMs, mostPatienceMs * ((intervals - 1) / (silentAfter - 1)));

/** How a source stands that answered last at `heardMs` (undefined: never), and has been waited for since `sinceMs`. */
export function stateOf(
  { pause, intervalMs, kind }: Pick<Source, "pause" | "intervalMs"> & Partial<Pick<Source, "kind">>,
  heardMs: number | undefined,
  sinceMs: number,
  nowMs: number,
): SourceState {
  if (pause) return "paused";
  const quietMs = nowMs - Math.max(heardMs ?? Number.NEGATIVE_INFINITY, sinceMs) - graceMs;
  // What sends by itself is not silent before it was ever heard: nobody knows when its script is put to work.
  if (heardMs === undefined && kind && sends({ kind })) return "waiting";
  if (quietMs > patience(intervalMs, silentAfter)) return "silent";
  if (heardMs === undefined) return "waiting";
  return quietMs > patience(intervalMs, lateAfter) ? "late" : "reporting";
}

/** How long a source may say nothing before that is told, in ms. */
export function allowedSilenceMs(intervalMs: number): number {
  return patience(intervalMs, silentAfter) + graceMs;
}
