import { createHmac, randomBytes, timingSafeEqual } from "node:crypto";
import { LRUCache } from "lru-cache";

const spanMs = 300_000;
const nonceBytes = 16;
const timeBytes = 8;

/**
 * Challenges of passkeys: each is for one purpose, ends after five minutes and is taken once (WebAuthn level 3,
 * §13.4.3). They are signed instead of kept, so that asking for many fills nothing; what was begun before a restart of
 * the server is begun again.
 */
export class Challenges {
  readonly #key = randomBytes(32);
  readonly #taken = new LRUCache<string, true>({ max: 10_000, ttl: spanMs });

  make(purpose: string): Uint8Array<ArrayBuffer> {
    const body = Buffer.concat([randomBytes(nonceBytes), Buffer.alloc(timeBytes)]);
    body.writeDoubleBE(performance.now() + spanMs, nonceBytes);
    return new Uint8Array(Buffer.concat([body, this.#signature(purpose, body)]));
  }

  /** Whether a challenge, in base64url, is of ours and for this purpose, in its time, and not taken. */
  isOpen(purpose: string, challenge: string): boolean {
    const bytes = Buffer.from(challenge, "base64url");
    const body = bytes.subarray(0, nonceBytes + timeBytes);
    const signature = this.#signature(purpose, body);
    const signed = bytes.subarray(body.length);
    if (signed.length !== signature.length || !timingSafeEqual(signed, signature)) return false;
    return body.readDoubleBE(nonceBytes) > performance.now() && !this.#taken.has(bytes.toString("base64url"));
  }

  /** Takes it; false where another was quicker. */
  take(purpose: string, challenge: string): boolean {
    if (!this.isOpen(purpose, challenge)) return false;
    this.#taken.set(Buffer.from(challenge, "base64url").toString("base64url"), true);
    return true;
  }

  #signature(purpose: string, body: Uint8Array): Buffer {
    return createHmac("sha256", this.#key).update(`${purpose}\n`).update(body).digest();
  }
}
