import { SealedError, type SecretBox } from "../sources/secret-box.ts";
import { type KeptSecrets, openKept, withSecrets } from "./kept-secrets.ts";
import type { Outcome } from "./outcome.ts";
import type { StoredRecipient } from "./recipient-rows.ts";
import type { PushKeys } from "./push-keys.ts";
import { sendPush } from "./send-push.ts";
import { sendMail } from "./send-mail.ts";
import { sendWebhook } from "./send-webhook.ts";

/** A message in the forms that recipients take. */
export interface Sendable {
  /** By which receivers drop repeats. */
  readonly id: string;
  readonly subject: string;
  readonly text: string;
  readonly html: string;
  /** PNG, spoken of in the HTML as `cid:chart`. */
  readonly picture: Buffer | null;
  /** What a webhook is sent. */
  readonly webhook: object;
  /** Where a person goes on from it; "" for nowhere. */
  readonly link: string;
  /** Whether it may wake a device that sleeps. */
  readonly isUrgent: boolean;
}

/** What sending wants besides the recipient. */
export interface Senders {
  readonly box: SecretBox;
  /** Of which this server shows push services who it is. */
  readonly pushKeys: PushKeys;
}

/** Hands a message to a recipient at once, and tells the other side's answer. */
export async function handOver(
  { box, pushKeys }: Senders,
  recipient: StoredRecipient,
  { id, subject, text, html, picture, webhook: body, link, isUrgent }: Sendable,
): Promise<Outcome> {
  let kept: KeptSecrets;
  try {
    kept = openKept(box, recipient.secret);
  } catch (error) {
    if (error instanceof SealedError) return { worked: false, answer: error.message };
    throw error;
  }
  const { secret } = kept;
  const { webhook } = withSecrets(recipient, kept);
  if (recipient.kind === "email" && recipient.mail)
    return sendMail({ settings: recipient.mail, password: secret, messageId: id, subject, text, html, picture });
  if (recipient.kind === "webhook" && webhook)
    return sendWebhook({ settings: webhook, secret, messageId: id, body: JSON.stringify(body), nowMs: Date.now() });
  if (recipient.kind === "device" && secret !== null)
    return sendPush({ subscription: secret, keys: await pushKeys.pair(), id, subject, text, link, isUrgent });
  return { worked: false, answer: "The recipient says neither where mail nor where a webhook goes." };
}
