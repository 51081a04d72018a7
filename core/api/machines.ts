import type { Tags } from "../counters/counter.ts";
import type { Pause, Source, SourceState } from "../sources/source.ts";
import { type Nothing, route } from "./route.ts";

/** How a machine stands: as the best of its sources, or nothing gathers it any more. */
type MachineState = SourceState | "not gathered";

export interface MachineView {
  readonly name: string;
  readonly state: MachineState;
  readonly lastSampleAtMs: number | null;
  /** Seconds between gatherings. */
  readonly intervalSeconds: number;
  readonly series: number;
  /** What people call it; empty where they have said nothing. */
  readonly friendlyName: string;
  /** Tags of the machine itself. */
  readonly tags: Tags;
  /** Its place among all machines by age: the one colour that it has everywhere. */
  readonly colour: number;
  /** What has been running on it in the last hours. */
  readonly guests: readonly string[];
  readonly containers: readonly string[];
  /** What it is gathered by. `unchecked`: the certificate is believed from anybody. */
  readonly sources: readonly {
    readonly id: number;
    readonly name: string;
    readonly kind: Source["kind"];
    readonly state: SourceState;
    readonly unchecked: boolean;
    readonly failure: string | null;
    readonly pause: Pause | null;
  }[];
}

export interface MachineDetail extends MachineView {
  /** Names of the counters that report about it. */
  readonly counters: readonly string[];
}

/** What people call a machine, and the tags that they give it. */
export interface MachineName {
  readonly friendlyName: string;
  readonly tags: Tags;
}

export const listMachines = route("GET", "/machines")<Nothing, readonly MachineView[]>();
export const getMachine = route("GET", "/machines/:name")<Nothing, MachineDetail>();
export const nameMachine = route("PUT", "/machines/:name")<MachineName, MachineView>();
/** Takes a machine off the lists, with what gathers it; the answer names those sources, for bringing it back. */
export const removeMachine = route("DELETE", "/machines/:name")<Nothing, { readonly sources: readonly number[] }>();
export const bringMachineBack = route("POST", "/machines/:name/bring-back")<
  { readonly sources: readonly number[] },
  MachineView | null
>();
