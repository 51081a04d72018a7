import { createHmac } from "node:crypto";

/**
 * The signature of a webhook: HMAC-SHA-256 (RFC 2104) under the recipient's secret over the time stamp, a dot, and the
 * body as it is sent;
 * hexadecimal, led by the scheme's version. The receiver works out the same and refuses time stamps that are minutes
 * old, so that a
 * message that was overheard cannot be sent again later.
 */
export function signatureOf(secret: string | Buffer, timestampSeconds: number, body: string): string {
  return `v1=${createHmac("sha256", secret).update(`${timestampSeconds}.${body}`).digest("hex")}`;
}
