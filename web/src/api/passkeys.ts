import type { CeremonyOptions, CeremonyResponse } from "../../../core/api/passkeys.ts";

/** What the device, the browser or the person answered instead of a passkey, in words. */
class NoPasskey extends Error {
  override name = "NoPasskey";
}

/** Few pages have any: its code comes when it is needed. */
const ceremonies = () => import("@simplewebauthn/browser");

const isAddress = /^(\d+\.){3}\d+$|^\[.*\]$/;

/** Why this page knows no passkeys, in words; undefined where it does. */
export function passkeysMissing(): string | undefined {
  if (isAddress.test(location.hostname)) return "Passkeys need a name: open Nubrel by one instead of by an address.";
  if (!isSecureContext) return "Passkeys need HTTPS.";
  if (!("PublicKeyCredential" in window)) return "This browser knows no passkeys.";
  return undefined;
}

/** Has the device make a passkey. Throws NoPasskey. */
export const makePasskey = (options: CeremonyOptions): Promise<CeremonyResponse> =>
  asked(async () => (await ceremonies()).startRegistration({ optionsJSON: options as never }));

/** Has the device show one. Throws NoPasskey. */
export const showPasskey = (options: CeremonyOptions): Promise<CeremonyResponse> =>
  asked(async () => (await ceremonies()).startAuthentication({ optionsJSON: options as never }));

async function asked(ask: () => Promise<object>): Promise<CeremonyResponse> {
  try {
    return (await ask()) as CeremonyResponse;
  } catch (error) {
    throw new NoPasskey(wordsOf(error), { cause: error });
  }
}

function wordsOf(error: unknown): string {
  if ((error as { code?: unknown }).code === "ERROR_AUTHENTICATOR_PREVIOUSLY_REGISTERED")
    return "This device has one for you here already.";
  const { name, message } = error as Error;
  if (name === "NotAllowedError") return "No passkey was shown: it was left, took too long, or there is none here.";
  return message;
}
