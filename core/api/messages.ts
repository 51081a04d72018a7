import type { Recipient, RecipientSettings, RecipientTexts } from "../messages/recipient.ts";
import { type Nothing, route } from "./route.ts";

interface MessageAttempt {
  readonly atMs: number;
  readonly worked: boolean;
  /** Of the other side, as it was. */
  readonly answer: string;
}

/** A message that was sent, or is to be. */
export interface MessageView {
  readonly id: string;
  readonly recipientId: number;
  readonly recipient: string;
  readonly kind: string;
  readonly incidents: readonly { readonly id: number; readonly ruleName: string }[];
  readonly createdAtMs: number;
  readonly state: "waiting" | "sent" | "given up" | "replaced";
  readonly attempts: readonly MessageAttempt[];
}

export interface RecipientView extends Recipient {
  /** Whether a password or secret is kept. */
  readonly hasSecret: boolean;
  readonly failingSinceMs: number | null;
  readonly failure: string | null;
}

/** `secret` is a password or secret to be kept; null: none; left out: the one that is there. */
export type RecipientBody = Partial<RecipientSettings> & { readonly secret?: string | null };

export const listRecipients = route("GET", "/recipients")<Nothing, readonly RecipientView[]>();
export const makeRecipient = route("POST", "/recipients", 201)<RecipientBody, RecipientView>();
/** A message goes out at once, and the answer is what the other side said. */
export const tryRecipient = route("POST", "/recipients/try")<
  RecipientBody & { readonly id?: number },
  { readonly worked: boolean; readonly answer: string }
>();
export const previewMessage = route("POST", "/recipients/preview")<
  { readonly texts: RecipientTexts; readonly kind?: string; readonly zone?: string },
  { readonly subject: string; readonly text: string }
>();
export const changeRecipient = route("PUT", "/recipients/:id")<RecipientBody, RecipientView>();
export const removeRecipient = route("DELETE", "/recipients/:id", 204)();
/** By which this server shows push services who it is (RFC 8292), as a browser wants it when it subscribes. */
export const getPushKey = route("GET", "/push-key")<Nothing, { readonly key: string }>();
export const listMessages = route("GET", "/messages")<
  Nothing,
  readonly MessageView[],
  { readonly incident?: number; readonly most?: number; readonly before?: string }
>();
