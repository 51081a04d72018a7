import type { PageQuery } from "./page-query.ts";
import type { MessageView } from "./messages.ts";
import type { MachineEvent } from "../events/machine-event.ts";
import type { IncidentEntry } from "../rules/incident-entry.ts";
import type { IncidentView, RuleDocument } from "../rules/rule.ts";
import { type Nothing, route } from "./route.ts";
import type { WindowQuery } from "./window-query.ts";

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

export const listIncidents = route("GET", "/incidents")<Nothing, readonly IncidentView[], WindowQuery & PageQuery>();
export const getIncident = route("GET", "/incidents/:id")<Nothing, IncidentDetail>();
export const acknowledgeIncident = route("POST", "/incidents/:id/acknowledge")<
  { readonly acknowledged: boolean },
  IncidentView
>();
/** Null ends a snooze. */
export const snoozeIncident = route("POST", "/incidents/:id/snooze")<
  { readonly untilMs: number | null },
  IncidentView
>();
export const noteOnIncident = route("POST", "/incidents/:id/notes", 201)<
  { readonly text: string },
  readonly IncidentEntry[]
>();
export const closeIncident = route("POST", "/incidents/:id/close")<Nothing, IncidentView>();
