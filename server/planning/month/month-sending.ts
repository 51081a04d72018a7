import { randomUUID } from "node:crypto";
import { DateTime } from "luxon";
import type { MonthSending, MonthSent } from "../../../core/api/month.ts";
import { monthMail } from "../../../core/planning/month-html.ts";
import { handOver } from "../../messages/hand-over.ts";
import { recipientRow } from "../../messages/recipient-rows.ts";
import type { PushKeys } from "../../messages/push-keys.ts";
import type { SecretBox } from "../../sources/secret-box.ts";
import { readMonthSending, writeMonthSending } from "../planning-rows.ts";
import { type MonthParts, monthView } from "./month-view.ts";

export interface SendingParts extends MonthParts {
  readonly box: SecretBox;
  readonly pushKeys: PushKeys;
  /** By which links begin. */
  readonly address: () => Promise<string>;
}

/** The month before the one that a moment lies in, by a zone: "2026-11". */
export const monthBefore = (ms: number, zone: string): string =>
  DateTime.fromMillis(ms, { zone }).minus({ months: 1 }).toFormat("yyyy-MM");

/** When a month is to be sent: on its day of the month after, at its clock time. */
export function dueAt(month: string, { day, at, zone }: MonthSending): number {
  const [hour, minute] = at.split(":").map(Number);
  return DateTime.fromFormat(month, "yyyy-MM", { zone })
    .plus({ months: 1 })
    .set({ day, hour: hour ?? 7, minute: minute ?? 0 })
    .toMillis();
}

/** Sends the last month where its time has come and it was not sent yet: asked every few minutes, it makes up for pauses. */
export async function sendMonthWhereDue(parts: SendingParts, nowMs: number): Promise<void> {
  const sending = await readMonthSending(parts.database);
  if (sending.recipients.length === 0) return;
  const month = monthBefore(nowMs, sending.zone);
  if (nowMs < dueAt(month, sending) || sending.lastSent?.month === month) return;
  // Chosen after its time: the first one that is sent is the next.
  if (sending.sinceMs !== undefined && sending.sinceMs > dueAt(month, sending)) return;
  await sendMonthNow(parts, month, sending, nowMs);
}

/** Sends a month at once, and keeps what came of it. */
export async function sendMonthNow(
  parts: SendingParts,
  month: string,
  { recipients, zone }: Pick<MonthSending, "recipients" | "zone">,
  nowMs: number,
): Promise<readonly MonthSent[]> {
  const view = await monthView(parts, { month, zone });
  const mail = monthMail(view, await parts.address());
  const outcomes: MonthSent[] = [];
  for (const id of recipients) {
    const recipient = await recipientRow(parts.database, id);
    if (!recipient?.on) continue;
    const webhook = { format: "nubrel month", version: 1, subject: mail.subject, text: mail.text, month: view };
    const { worked, answer } = await handOver(parts, recipient, {
      id: randomUUID(),
      ...mail,
      picture: null,
      webhook,
      link: `${await parts.address()}/planning/month`,
      isUrgent: false,
    });
    outcomes.push({ recipient: recipient.name, worked, answer });
  }
  const kept = await readMonthSending(parts.database);
  await writeMonthSending(parts.database, { ...kept, lastSent: { month, atMs: nowMs, outcomes } });
  return outcomes;
}
