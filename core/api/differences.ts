import type { MachineEvent } from "../events/machine-event.ts";
import type { Moved } from "../differences/fold.ts";
import type { IncidentView } from "../rules/rule.ts";
import { type LinesOf, route } from "./route.ts";

/** Which span is asked about. */
export interface DifferencesBody {
  readonly window: { readonly from: number; readonly to: number };
  /** How many entries at most; 20 where nothing is said. */
  readonly most?: number;
  /** IANA, by whose clock days and weeks are compared and moments are told; the server's where nothing is said. */
  readonly zone?: string;
}

/** What of one machine's subject was different in the span, said in words. */
export interface DifferenceView {
  readonly machine: string;
  readonly subject: string;
  /** When it began to move, ms. */
  readonly atMs: number;
  readonly score: number;
  readonly words: string;
  /** By rank. */
  readonly lines: readonly Moved[];
}

/** A line of which too little past is known to say what is usual. */
export interface ApartLine {
  readonly counter: string;
  readonly machine: string;
  readonly series: number;
}

/** Two jobs that ran at once with something at its limit, and what moving one of them would do. */
export interface OverlapView {
  /** What the scripts call them; the one that begins first. */
  readonly first: string;
  readonly second: string;
  /** Whose limit it is. */
  readonly machine: string;
  readonly fromMs: number;
  readonly toMs: number;
  readonly moves: "first" | "second";
  /** Later where above 0. */
  readonly shiftMinutes: number;
  /** The highest use in percent of the limit, measured and as it would be. */
  readonly highestNow: number;
  readonly highestThen: number;
  readonly words: string;
}

/** A run of a recording that touches the span. */
export interface RecordedInSpan {
  readonly recordingId: number;
  readonly run: number;
  readonly name: string;
  readonly fromMs: number;
  /** Null where it is on. */
  readonly toMs: number | null;
}

export interface DifferencesView {
  /** Nothing left its usual. */
  readonly calm: boolean;
  /** On how many weeks of past the comparison rests, of most lines. */
  readonly rested: { readonly weeks: number };
  /** How many lines were looked at. */
  readonly looked: number;
  /** By rank. */
  readonly entries: readonly DifferenceView[];
  readonly apart: readonly ApartLine[];
  readonly events: readonly MachineEvent[];
  readonly incidents: readonly IncidentView[];
  readonly recordings: readonly RecordedInSpan[];
  readonly overlaps: readonly OverlapView[];
}

export const findDifferences = route("POST", "/differences")<DifferencesBody, DifferencesView>();

/** How far the answer is, then the answer, or what went wrong. */
export interface DifferencesLine {
  readonly progress?: number;
  readonly result?: DifferencesView;
  readonly problem?: { readonly status: number };
}

/** The same, a line of JSON each: for who waits to see how far it is. */
export const watchDifferences = route("POST", "/differences/watched")<DifferencesBody, LinesOf<DifferencesLine>>();
