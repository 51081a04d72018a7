import type { Recipient } from "../messages/recipient.ts";

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
