import type { Tags } from "../counters/counter.ts";
import type { Severity } from "../rules/rule.ts";
import { isWanted, type Recipient } from "./recipient.ts";

/**
 * What a message says has happened. "repeated" and "escalated" are of incidents that were told and that nobody has
 * acknowledged.
 */
export const messageKinds = ["raised", "worsened", "repeated", "escalated", "cleared"] as const;
export type MessageKind = (typeof messageKinds)[number];

/** An incident as far as telling of it goes. */
export interface TellableIncident {
  readonly id: number;
  readonly severity: Severity;
  /** Of its line and of its machine. */
  readonly tags: Tags;
  readonly raisedAtMs: number;
  readonly clearedAtMs: number | null;
  readonly isAcknowledged: boolean;
  /** Hidden by a quiet time, or snoozed. */
  readonly isQuiet: boolean;
}

/** What a recipient has been told of an incident. */
export interface Told {
  readonly incidentId: number;
  readonly recipientId: number;
  readonly severity: Severity;
  readonly firstAtMs: number;
  readonly lastAtMs: number;
  readonly hasEscalated: boolean;
  readonly hasRecovered: boolean;
}

/** One message to one recipient, of one or several incidents. */
export interface Decision {
  readonly recipientId: number;
  readonly kind: MessageKind;
  readonly incidentIds: readonly number[];
}

const groupedMs = 60_000;

/**
 * What is to be told now, to whom. Nothing is told of what is quiet or snoozed; what is still open when that ends is
 * told then. An
 * incident that cleared before anybody was told of it is not told of at all. Incidents of one machine that were raised
 * within a minute go
 * in one message, and all that wait for a recipient's `groupSeconds` go in one.
 */
// biome-ignore lint/complexity/noExcessiveLinesPerFunction: one decision, case by case
export function decide(
  recipients: readonly Recipient[],
  incidents: readonly TellableIncident[],
  told: readonly Told[],
  nowMs: number,
): readonly Decision[] {
  const toldOf = new Map(told.map((one) => [`${one.recipientId} ${one.incidentId}`, one]));
  const made: Decision[] = [];
  for (const recipient of recipients) {
    if (!recipient.on) continue;
    const known = (incident: TellableIncident) => toldOf.get(`${recipient.id} ${incident.id}`);
    const audible = incidents.filter((incident) => incident.clearedAtMs === null && !incident.isQuiet);
    const fresh = audible.filter(
      (incident) =>
        !known(incident) &&
        !incident.isAcknowledged &&
        isWanted(recipient.when, incident.severity, incident.tags, nowMs),
    );
    const waits =
      recipient.groupSeconds > 0 &&
      fresh.length > 0 &&
      nowMs - Math.min(...fresh.map(({ raisedAtMs }) => raisedAtMs)) < recipient.groupSeconds * 1000;
    if (!waits)
      for (const group of grouped(fresh, recipient.groupSeconds > 0))
        made.push({ recipientId: recipient.id, kind: "raised", incidentIds: group });
    const tell = (kind: MessageKind, some: readonly TellableIncident[]) => {
      for (const group of grouped(some, recipient.groupSeconds > 0))
        made.push({ recipientId: recipient.id, kind, incidentIds: group });
    };
    tell(
      "worsened",
      audible.filter(
        (incident) =>
          known(incident)?.severity === "notice" &&
          incident.severity === "urgent" &&
          isWanted(recipient.when, "urgent", incident.tags, nowMs),
      ),
    );
    if (recipient.repeatSeconds > 0) {
      tell(
        "repeated",
        audible.filter((incident) => {
          const before = known(incident);
          return (
            before !== undefined &&
            !incident.isAcknowledged &&
            !(before.severity === "notice" && incident.severity === "urgent") &&
            nowMs - before.lastAtMs >= recipient.repeatSeconds * 1000 &&
            isWanted(recipient.when, incident.severity, incident.tags, nowMs)
          );
        }),
      );
    }
    const { escalation } = recipient;
    const second = escalation && recipients.find(({ id, on }) => id === escalation.to && on && id !== recipient.id);
    if (escalation && second) {
      const late = audible.filter((incident) => {
        const before = known(incident);
        return (
          before !== undefined &&
          !before.hasEscalated &&
          !incident.isAcknowledged &&
          nowMs - before.firstAtMs >= escalation.afterSeconds * 1000
        );
      });
      for (const group of grouped(late, false))
        made.push({ recipientId: second.id, kind: "escalated", incidentIds: group });
    }
    if (recipient.onRecovery)
      tell(
        "cleared",
        incidents.filter((incident) => incident.clearedAtMs !== null && known(incident)?.hasRecovered === false),
      );
  }
  return made;
}

/** One group for all, or one for those of a machine that were raised within a minute. */
function grouped(incidents: readonly TellableIncident[], together: boolean): readonly (readonly number[])[] {
  if (incidents.length === 0) return [];
  const ordered = [...incidents].sort((a, b) => a.raisedAtMs - b.raisedAtMs || a.id - b.id);
  if (together) return [ordered.map(({ id }) => id)];
  const groups: { machine: string; fromMs: number; ids: number[] }[] = [];
  for (const { id, tags, raisedAtMs } of ordered) {
    const machine = tags["machine"] ?? "";
    const group = groups.find(
      (one) => one.machine === machine && machine !== "" && raisedAtMs - one.fromMs < groupedMs,
    );
    if (group) group.ids.push(id);
    else groups.push({ machine, fromMs: raisedAtMs, ids: [id] });
  }
  return groups.map(({ ids }) => ids);
}

/** What is remembered of a decision, so that it is not made again. `before` is what stood there. */
export function toldAfter(
  { kind, recipientId }: Decision,
  incident: TellableIncident,
  before: Told | undefined,
  nowMs: number,
): Told {
  return {
    incidentId: incident.id,
    recipientId,
    severity: incident.severity,
    firstAtMs: before?.firstAtMs ?? nowMs,
    lastAtMs: kind === "cleared" ? (before?.lastAtMs ?? nowMs) : nowMs,
    hasEscalated: before?.hasEscalated ?? false,
    hasRecovered: kind === "cleared",
  };
}
