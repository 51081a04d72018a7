/** A host that guests may run on. Amounts are of each resource, in the same order everywhere. */
export interface FitHost {
  readonly name: string;
  /** What it has; infinite of what does not bound it. */
  readonly capacity: readonly number[];
  /** What it needs itself at each moment, one array a resource. */
  readonly base: readonly Float64Array[];
  /** It cannot be switched off. */
  readonly stays: boolean;
}

/** A guest that runs on one of the hosts. */
export interface FitGuest {
  readonly name: string;
  /** Where it runs now, by number; -1 where it runs nowhere yet. */
  readonly host: number;
  /** What it needed at each moment, one array a resource. */
  readonly load: readonly Float64Array[];
  /** It runs on these only, by number; on all where absent. */
  readonly only?: readonly number[];
}

export interface FitProblem {
  readonly hosts: readonly FitHost[];
  readonly guests: readonly FitGuest[];
  /** Pairs of guests, by number, that must not meet on a host. */
  readonly apart: readonly (readonly [number, number])[];
  /** Of all moments, at most this share may lie above what a host may be loaded with: 0.05 for the 95th percentile. */
  readonly above: number;
  /** Of each host's capacity this share stays free. */
  readonly headroom: number;
}

/** A placement of the guests, and what is known of it. */
export interface Placement {
  /** The host of each guest, by number. */
  readonly hostOf: readonly number[];
  /** How many hosts are on. */
  readonly on: number;
}

export interface FitFound {
  /** The best placement that was found; undefined where there is none, or none was found. */
  readonly best: Placement | undefined;
  /** No placement has fewer hosts on than these. */
  readonly bound: number;
  /** The best one is known to have as few hosts on as can be; without one: that there is none. */
  readonly proven: boolean;
}
