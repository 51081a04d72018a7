import { Agent, request } from "undici";
import type { WebhookSettings } from "../../core/messages/recipient.ts";
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
  const url = new URL(settings.url);
  const scheme = url.protocol === "https:" ? "https" : "http";
  const address = {
    scheme,
    host: url.hostname.replace(/^\[|\]$/g, ""),
    port: Number(url.port) || (scheme === "https" ? 443 : 80),
    path: `${url.pathname}${url.search}`,
    timeoutMs,
  } as const;
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
    const answer = await request(url, {
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
