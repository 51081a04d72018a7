import { Agent, request } from "undici";
import webPush from "web-push";
import { addressOfUrl } from "../transport/address-of-url.ts";
import { diagnose } from "../transport/diagnose.ts";
import { trustingConnector } from "../transport/trusting-connector.ts";
import { cut, type Outcome } from "./outcome.ts";
import type { PushKeyPair } from "./push-keys.ts";

const timeoutMs = 10_000;
/** Push services take 4096 bytes, sealed (RFC 8030 §7.2); sealing adds some hundred. */
const mostTextBytes = 2500;
/** So long a service keeps it for a device that is off: what is older is seen better on the page. */
const keptSeconds = 4 * 3600;
const mostAnswer = 4096;

/** What a browser gives when it subscribes (Push API, PushSubscription.toJSON). */
interface Subscription {
  readonly endpoint: string;
  readonly keys: { readonly p256dh: string; readonly auth: string };
}

/** A subscription as it is kept; undefined where a text is none. */
export function subscriptionOf(text: string): Subscription | undefined {
  try {
    const { endpoint, keys } = JSON.parse(text) as Partial<Subscription>;
    const isKey = (key: unknown, bytes: number) =>
      typeof key === "string" && Buffer.from(key, "base64url").length === bytes;
    const isWhole = typeof endpoint === "string" && /^https?:$/.test(new URL(endpoint).protocol);
    if (!isWhole || !isKey(keys?.p256dh, 65) || !isKey(keys?.auth, 16)) return undefined;
    return { endpoint, keys: keys as Subscription["keys"] };
  } catch {
    return undefined;
  }
}

interface Push {
  /** A subscription, as text. */
  readonly subscription: string;
  readonly keys: PushKeyPair;
  readonly id: string;
  readonly subject: string;
  readonly text: string;
  readonly link: string;
  readonly isUrgent: boolean;
}

/**
 * Hands a message to the push service of a browser, sealed for that browser alone (RFC 8291). A subscription that is
 * gone is told so for good.
 */
export async function sendPush({
  subscription: kept,
  keys,
  id,
  subject,
  text,
  link,
  isUrgent,
}: Push): Promise<Outcome> {
  const subscription = subscriptionOf(kept);
  if (!subscription)
    return {
      worked: false,
      isFinal: true,
      answer: "What is kept of this device is no subscription. Remove it, and add the device anew.",
    };
  const payload = JSON.stringify({ id, title: subject, text: shortened(text), link });
  const { endpoint, method, headers, body } = webPush.generateRequestDetails(subscription, payload, {
    TTL: keptSeconds,
    urgency: isUrgent ? "high" : "normal",
    contentEncoding: "aes128gcm",
    vapidDetails: { subject: contactOf(link), ...keys },
  });
  const address = addressOfUrl(endpoint, timeoutMs);
  const agent = new Agent({
    connect: trustingConnector(address, { kind: "system" }),
    headersTimeout: timeoutMs,
    bodyTimeout: timeoutMs,
  });
  try {
    const answer = await request(endpoint, {
      method: method as "POST",
      dispatcher: agent,
      headers: Object.fromEntries(Object.entries(headers).map(([name, value]) => [name, String(value)])),
      body,
    });
    let said = "";
    for await (const part of answer.body) {
      said += String(part);
      if (said.length > mostAnswer) break;
    }
    const { statusCode: status } = answer;
    if (status === 404 || status === 410)
      return {
        worked: false,
        isFinal: true,
        answer: cut(`HTTP ${status}: this device takes no more; add it anew there.`),
      };
    return {
      worked: status >= 200 && status < 300,
      answer: cut(`HTTP ${status}${said.trim() === "" ? "" : `\n${said.trim()}`}`),
    };
  } catch (error) {
    const { message, remedy } = await diagnose(error, address);
    return { worked: false, answer: cut(`${message} ${remedy}`) };
  } finally {
    await agent.destroy().catch(() => {});
  }
}

/** Whom a service asks where something is wrong (RFC 8292 §2.1): an address of https, or of mail. */
function contactOf(link: string): string {
  return link.startsWith("https:") ? new URL(link).origin : "mailto:nubrel@localhost";
}

/** The first lines, within what a service takes. */
function shortened(text: string): string {
  const bytes = Buffer.from(text.trim());
  if (bytes.length <= mostTextBytes) return text.trim();
  // A letter of several bytes that is cut in two is left.
  return `${bytes
    .subarray(0, mostTextBytes)
    .toString("utf8")
    .replace(/\ufffd+$/, "")} …`;
}
