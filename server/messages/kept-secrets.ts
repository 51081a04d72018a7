import type { RecipientSettings } from "../../core/messages/recipient.ts";
import type { SecretBox } from "../sources/secret-box.ts";

/**
 * Everything of a recipient that opens something elsewhere: a password or a signing secret, and of a webhook its whole
 * address (many hold a token) and its headers' values.
 */
export interface KeptSecrets {
  readonly secret: string | null;
  readonly url: string | null;
  readonly headers: Readonly<Record<string, string>>;
}

const none: KeptSecrets = { secret: null, url: null, headers: {} };
const version = 1;

/** Throws SealedError. What earlier versions sealed is the secret alone. */
export function openKept(box: SecretBox, sealed: Buffer | null): KeptSecrets {
  if (sealed === null) return none;
  const text = box.unseal(sealed);
  try {
    const kept = JSON.parse(text) as KeptSecrets & { readonly version?: number };
    if (kept.version === version) return { secret: kept.secret, url: kept.url, headers: kept.headers };
  } catch {
    // a plain secret
  }
  return { ...none, secret: text };
}

export function sealKept(box: SecretBox, { secret, url, headers }: KeptSecrets): Buffer | null {
  if (secret === null && url === null && Object.keys(headers).length === 0) return null;
  return box.seal(JSON.stringify({ version, secret, url, headers }));
}

/** Settings as they may be stored in clear and shown: a webhook's address down to its host, headers without values. */
export function withoutSecrets(settings: RecipientSettings): RecipientSettings {
  const { webhook } = settings;
  if (!webhook) return settings;
  return {
    ...settings,
    webhook: {
      ...webhook,
      url: new URL(webhook.url).origin,
      headers: webhook.headers.map(({ name }) => ({ name, value: "" })),
    },
  };
}

/** Settings as they are used. */
export function withSecrets(settings: RecipientSettings, { url, headers }: KeptSecrets): RecipientSettings {
  const { webhook } = settings;
  if (!webhook) return settings;
  return {
    ...settings,
    webhook: {
      ...webhook,
      url: url ?? webhook.url,
      headers: webhook.headers.map(({ name, value }) => ({
        name,
        value: value === "" && Object.hasOwn(headers, name) ? (headers[name] as string) : value,
      })),
    },
  };
}

/** Where a recipient's secrets go: what was entered for one place does not serve another. */
export function destinationOf({ mail, webhook, device }: RecipientSettings): string {
  return mail
    ? JSON.stringify([mail.host.toLowerCase(), mail.port, mail.security, mail.user])
    : webhook
      ? new URL(webhook.url).origin
      : (device?.service ?? "");
}
