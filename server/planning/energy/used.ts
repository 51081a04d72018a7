import type { PlanningSettings } from "../../../core/api/energy.ts";
import type { Tariff } from "../../../core/tariffs/tariff.ts";
import type { MachineNames } from "../../machines/machine-names.ts";
import type { Store } from "../../store/store.ts";
import type { Measured } from "./measured.ts";

export interface EnergyParts {
  readonly store: Store;
  readonly names: MachineNames;
  readonly tariffs: readonly Tariff[];
  readonly settings: PlanningSettings;
}

/** What one thing used, before it is brought to lines. */
export interface Used {
  readonly of: string;
  /** The machine whose tariff counts. */
  readonly machine: string;
  readonly measured: Measured;
  readonly estimated: boolean;
  readonly feedsOthers: boolean;
  /** Of the steps, what was filled in, Wh a stretch. */
  readonly filled: Float64Array;
}
