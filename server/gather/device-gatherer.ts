import type { CounterKind, Tags } from "../../core/counters/counter.ts";
import type { MachineEvent } from "../../core/api/views.ts";

/** One value of a device; unit and kind are the catalogue's unless said. */
export interface DeviceReading {
  readonly counter: string;
  readonly tags: Tags;
  readonly value: number;
  readonly unit?: string;
  readonly kind?: CounterKind;
}

/** What asking a device once gave. */
export interface Gathered {
  readonly readings: readonly DeviceReading[];
  /** What it answered, as text to be looked at. */
  readonly raw: string;
  readonly rawType: string;
  /** How many of what was to be gathered could not be, by reason. */
  readonly leftOut?: ReadonlyMap<string, number>;
  /** When its certificate ends; undefined where it shows none. */
  readonly certificateUntilMs?: number | undefined;
  readonly events?: readonly Omit<MachineEvent, "id" | "machine">[];
}

/** Asks one device over and over. */
export interface DeviceGatherer {
  /** Throws PullError. */
  gather(nowMs: number): Promise<Gathered>;
  close(): Promise<void>;
}
