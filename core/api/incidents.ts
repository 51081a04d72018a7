import type { MessageView } from "./messages.ts";
import type { MachineEvent } from "../events/machine-event.ts";
import type { IncidentEntry } from "../rules/incident-entry.ts";
import type { IncidentView, RuleDocument } from "../rules/rule.ts";

/** Everything about one incident. */
export interface IncidentDetail {
  readonly incident: IncidentView;
  /** Its rule as it was when it was raised; null where it is of none. */
  readonly document: RuleDocument | null;
  readonly entries: readonly IncidentEntry[];
  readonly messages: readonly MessageView[];
  /** Others of its machine, or raised within a minute of it. */
  readonly beside: readonly IncidentView[];
  readonly events: readonly MachineEvent[];
  /** The window in which it is looked at. */
  readonly window: { readonly from: number; readonly to: number };
}
