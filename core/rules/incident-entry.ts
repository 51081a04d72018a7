export type IncidentEntryKind =
  | "raised"
  | "worsened"
  | "eased"
  | "cleared"
  | "acknowledged"
  | "unacknowledged"
  | "snoozed"
  | "note"
  | "closed"
  | "told";

/** What happened to an incident, by whom; by nobody: by the server. */
export interface IncidentEntry {
  readonly id: number;
  readonly atMs: number;
  readonly kind: IncidentEntryKind;
  readonly by: string;
  readonly text: string;
}
