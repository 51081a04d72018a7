import { randomUUID } from "node:crypto";
import type { Database } from "../db/pool.ts";
import { handOver, type Senders } from "./hand-over.ts";
import type { Outcome } from "./outcome.ts";
import { recipientRow } from "./recipient-rows.ts";

const escaped = (text: string) =>
  text.replace(/[&<>"]/g, (sign) => `&#${sign.charCodeAt(0)};`).replaceAll("\n", "<br>");

/** Hands a plain text to a recipient by its number. */
export function handingOver({ database, ...senders }: Senders & { readonly database: Database }) {
  return async (
    id: number,
    { subject, text }: { readonly subject: string; readonly text: string },
  ): Promise<Outcome> => {
    const recipient = await recipientRow(database, id);
    if (!recipient) return { worked: false, answer: "There is no such recipient." };
    return await handOver(senders, recipient, {
      id: randomUUID(),
      subject,
      text,
      html: `<p>${escaped(text)}</p>`,
      picture: null,
      webhook: { format: "nubrel note", version: 1, subject, text },
      link: "",
      isUrgent: false,
    });
  };
}
