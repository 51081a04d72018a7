import type { Reading } from "../../core/counters/reading.ts";
import type { MachineEvent } from "../../core/events/machine-event.ts";

/** What asking a device once gave. */
export interface Gathered {
  readonly readings: readonly Reading[];
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
  /**
   * Asks for everything, or `only` for these counters: then for as little as tells of them, and what it answers besides
   * is left to whoever asked. Throws PullError.
   */
  gather(nowMs: number, only?: ReadonlySet<string>): Promise<Gathered>;
  close(): Promise<void>;
}
