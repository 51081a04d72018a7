import { Agent, request } from "undici";
import type { WebhookSettings } from "../../core/messages/recipient.ts";
import { addressOfUrl } from "../transport/address-of-url.ts";
import { diagnose } from "../transport/diagnose.ts";
import { trustingConnector } from "../transport/trusting-connector.ts";
import { cut, type Outcome } from "./outcome.ts";
import { signatureOf } from "./signature.ts";

const timeoutMs = 10_000;
const mostBody = 8192;

interface Webhook {
  readonly settings: WebhookSettings;
  /** Null: unsigned. */
  readonly secret: string | null;
  /** By which receivers drop repeats. */
  readonly messageId: string;
  readonly body: string;
  readonly nowMs: number;
}

/** Posts a message. Any 2xx is success; redirects are not followed, as they would take the signed body elsewhere. */
export async function sendWebhook({ settings, secret, messageId, body, nowMs }: Webhook): Promise<Outcome> {
  const address = addressOfUrl(settings.url, timeoutMs);
  const agent = new Agent({
    connect: trustingConnector(
      address,
      settings.issuer === "" ? { kind: "system" } : { kind: "issuer", pem: settings.issuer },
    ),
    headersTimeout: timeoutMs,
    bodyTimeout: timeoutMs,
    maxRedirections: 0,
  } as Agent.Options);
  const timestamp = Math.floor(nowMs / 1000);
  try {
    const answer = await request(settings.url, {
      method: "POST",
      dispatcher: agent,
      headers: {
        ...Object.fromEntries(settings.headers.map(({ name, value }) => [name, value])),
        "content-type": "application/json",
        "user-agent": "Nubrel",
        "nubrel-message": messageId,
        "nubrel-timestamp": String(timestamp),
        ...(secret !== null && { "nubrel-signature": signatureOf(secret, timestamp, body) }),
      },
      body,
    });
    let text = "";
    for await (const part of answer.body) {
      text += String(part);
      if (text.length > mostBody) break;
    }
    return {
      worked: answer.statusCode >= 200 && answer.statusCode < 300,
      answer: cut(`HTTP ${answer.statusCode}${text.trim() === "" ? "" : `\n${text.trim()}`}`),
    };
  } catch (error) {
    const { message, remedy } = await diagnose(error, address);
    return { worked: false, answer: cut(`${message} ${remedy}`) };
  } finally {
    await agent.destroy().catch(() => {});
  }
}
