import { tagOf } from "../counters/set-tag.ts";
import { DateTime } from "luxon";
import type { Tags } from "../counters/counter.ts";
import type { Severity } from "../rules/rule.ts";

export const recipientKinds = ["email", "webhook", "device"] as const;
export type RecipientKind = (typeof recipientKinds)[number];

/** How mail is handed on. The password is kept sealed, apart from this. */
export interface MailSettings {
  readonly to: readonly string[];
  readonly from: string;
  readonly host: string;
  readonly port: number;
  /** tls: from the first byte; starttls: asked for, and refused without; none: in clear text, said out loud. */
  readonly security: "tls" | "starttls" | "none";
  readonly user: string;
  /** PEM of an issuer that the system does not know. */
  readonly issuer: string;
}

/** The secret is kept sealed, apart from this. */
export interface WebhookSettings {
  readonly url: string;
  readonly headers: readonly { readonly name: string; readonly value: string }[];
  readonly issuer: string;
}

/**
 * A browser that takes messages while no page of ours is open, by the push service of whoever made it (RFC 8030). Its
 * subscription is a secret, and kept as one.
 */
export interface DeviceSettings {
  /** The push service, by its origin. */
  readonly service: string;
  /** What browser it is, on what, in words. */
  readonly words: string;
}

/** What somebody is told of, and when. Nothing said holds for everything. */
export interface RecipientWhen {
  readonly severities: readonly Severity[];
  readonly tags: readonly { readonly tag: string; readonly is: readonly string[] }[];
  /** 1 Monday to 7 Sunday; none: every day. */
  readonly weekdays: readonly number[];
  /** Hours of the day `[from, to)`, over midnight where from is later; null: all day. */
  readonly hours: { readonly from: number; readonly to: number } | null;
  /** IANA. */
  readonly zone: string;
}

/** Texts of one's own, with names in braces; empty: the usual ones. */
export interface RecipientTexts {
  readonly subject: string;
  readonly body: string;
}

export interface RecipientSettings {
  readonly name: string;
  readonly kind: RecipientKind;
  readonly mail: MailSettings | null;
  readonly webhook: WebhookSettings | null;
  /** Absent of recipients that were made before there was such a kind. */
  readonly device?: DeviceSettings | null;
  readonly when: RecipientWhen;
  /** What comes within so many seconds after the first is told with it. */
  readonly groupSeconds: number;
  /** Told again after so many seconds while nobody has acknowledged it; 0: once. */
  readonly repeatSeconds: number;
  readonly onRecovery: boolean;
  /** Told to another when nobody has acknowledged it for so long. */
  readonly escalation: { readonly afterSeconds: number; readonly to: number } | null;
  readonly texts: RecipientTexts;
  readonly on: boolean;
}

export interface Recipient extends RecipientSettings {
  readonly id: number;
}

/** Whether somebody wants to be told of this now. */
export function isWanted(
  { severities, tags: wanted, weekdays, hours, zone }: RecipientWhen,
  severity: Severity,
  tags: Tags,
  nowMs: number,
): boolean {
  if (severities.length > 0 && !severities.includes(severity)) return false;
  if (!wanted.every(({ tag, is }) => is.includes(tagOf(tags, tag) ?? ""))) return false;
  if (weekdays.length === 0 && hours === null) return true;
  const now = DateTime.fromMillis(nowMs, { zone });
  const isDay = (weekday: number) => weekdays.length === 0 || weekdays.includes(weekday);
  if (hours === null) return isDay(now.weekday);
  const { from, to } = hours;
  if (from < to) return isDay(now.weekday) && now.hour >= from && now.hour < to;
  // Over midnight: the hours after it belong to the day before.
  return (now.hour >= from && isDay(now.weekday)) || (now.hour < to && isDay(((now.weekday + 5) % 7) + 1));
}
