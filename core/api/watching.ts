import { type Nothing, route } from "./route.ts";

/** What one source costs. */
export interface WatchedSource {
  readonly id: number;
  readonly name: string;
  readonly machine: string;
  readonly kind: string;
  readonly series: number;
  readonly everySeconds: number;
  readonly samplesPerDay: number;
  /** Of samples alone. */
  readonly diskBytesPerDay: number;
  /** Of what is answered or sent, by its last text before compression; null where nothing travels as text. */
  readonly wireBytesPerDay: number | null;
  /** Of one processor of Nubrel's machine; null of what is not asked. */
  readonly serverShare: number | null;
  /** Of one processor of the gathered machine, by its collector's own account; null where it tells nothing. */
  readonly machineShare: number | null;
  /** What its processor time here and there takes of what both machines draw above idle; null where neither is measured. */
  readonly wattHoursPerDay: number | null;
  readonly costPerYear: number | null;
  readonly currency: string | null;
  /** Counters that no dashboard, rule or recording names, and that nobody has looked at. */
  readonly unused: readonly { readonly counter: string; readonly series: number }[];
}

export interface WatchingView {
  /** Disk is estimated until the first two hours are stored. */
  readonly isEstimated: boolean;
  readonly sources: readonly WatchedSource[];
  /** Since when it is noted what is looked at, ms. */
  readonly notedSinceMs: number;
  /** What Nubrel's own processor time takes of its machine's power above idle; null where that is not measured. */
  readonly wattHoursPerDay: number | null;
  readonly costPerYear: number | null;
  readonly currency: string | null;
  /** How that was worked out, or why it is not known. */
  readonly formula: string;
}

export const getWatching = route("GET", "/planning/watching")<Nothing, WatchingView>();
/** Counters of a source are gathered no more. */
export const leaveCounters = route("POST", "/planning/watching/:id/leave")<
  { readonly counters: readonly string[] },
  WatchingView
>();
