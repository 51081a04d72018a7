import { type LinesOf, route } from "./route.ts";

/** Hardware that is not there yet. */
export interface SuppliedHost {
  readonly machine: string;
  /** Logical processors. */
  readonly processors: number;
  /** Bytes. */
  readonly memory: number;
  /** How fast its processors are beside the others', 1 where nothing is said. */
  readonly speed?: number;
  /** Operations of its disks a second at most; they bound nothing where nothing is said. */
  readonly diskOperations?: number;
}

export interface FitBody {
  readonly window: { readonly from: number; readonly to: number };
  /** Of all moments this share is to lie within what a host may be loaded with: 0.95, or 95. */
  readonly percentile: number;
  /** What stays free of each host: 0.2, or 20. */
  readonly headroom: number;
  /** Machines that may carry guests; all that carry some now where absent. */
  readonly hosts?: readonly (string | SuppliedHost)[];
  /** Guests that stay where they are, or run only on machines that are named. */
  readonly keep?: readonly (string | { readonly guest: string; readonly on: readonly string[] })[];
  /** Guests that must not meet, in lists of two or more. */
  readonly apart?: readonly (readonly string[])[];
}

/** What of a resource was needed at most, and what there is of it. */
export interface Peak {
  readonly resource: "processor" | "memory" | "network" | "disk operations";
  /** UCUM. */
  readonly unit: string;
  /** By the percentile that was asked for, and the most. */
  readonly needed: number;
  readonly most: number;
  /** Null where nothing bounds it. */
  readonly capacity: number | null;
}

/** How fast a host's processors are beside others'. */
export interface HostSpeed {
  readonly factor: number;
  readonly by: "a person" | "its collector" | "nothing";
}

export interface FitHostView {
  readonly machine: string;
  /** Null of hardware that is not there yet. */
  readonly speed: HostSpeed | null;
  /** It has a collector that can measure it. */
  readonly canMeasure: boolean;
  /** Names as they are told apart: "hive web". */
  readonly guests: readonly string[];
  readonly peak: readonly Peak[];
  /** Over the window, at most 400 moments: what it would have been loaded with, one list a resource. */
  readonly curves: readonly (readonly number[])[];
}

export interface FitGuestView {
  readonly guest: string;
  readonly host: string;
  /** Its own peaks; capacity is what it was given. */
  readonly peak: readonly Peak[];
  /** What would do, where it was given much more than it ever used: with the headroom asked for. */
  readonly would: readonly {
    readonly resource: Peak["resource"];
    readonly unit: string;
    readonly given: number;
    readonly needs: number;
  }[];
  /** A second, at the percentile; null where nothing tells. */
  readonly diskOperations: number | null;
}

export interface FitAnswer {
  readonly fits: boolean;
  readonly proven: boolean;
  /** No placement has fewer hosts on. */
  readonly bound: number;
  readonly hosts: readonly FitHostView[];
  readonly guests: readonly FitGuestView[];
  readonly moves: readonly { readonly guest: string; readonly from: string; readonly to: string }[];
  readonly canBeOff: readonly string[];
  readonly saves: {
    readonly wattHoursPerDay: number | null;
    readonly costPerYear: number | null;
    readonly currency: string | null;
    /** How that was worked out, or why it is not known. */
    readonly formula: string;
  };
  /** Of the curves, ms. */
  readonly fromMs: number;
  readonly stepMs: number;
  readonly words: readonly string[];
  readonly notes: readonly string[];
}

/** What is told while it is searched, and last the answer. */
export type FitLine =
  | { readonly progress: number; readonly bound: number; readonly hostsOn: number | null }
  | FitAnswer
  | { readonly problem: object };

/** The machine's collector measures how fast one of its processors is, when it sends next. */
export const measureSpeed = route("POST", "/planning/speed")<
  { readonly machine: string },
  { readonly machine: string }
>();

/** Streams its progress and answers in its last line; as one document where JSON alone is accepted. */
export const askFit = route("POST", "/planning/fit")<FitBody, LinesOf<FitLine>>();
