import { handleOf } from "./account-rows.ts";
import { createHash } from "node:crypto";
import { Secret, TOTP } from "otpauth";
import type { Database } from "../db/pool.ts";
import { SealedError, type SecretBox } from "../sources/secret-box.ts";
import { beginCodes, codeRowOf, dropCodes, keepCodes, takeRecovery, takeStep } from "./code-rows.ts";
import { newCode } from "./new-password.ts";

const periodSeconds = 30;
const secretBytes = 20;
/** A code of the step before or after is taken: clocks differ (RFC 6238 §5.2). */
const stepsAside = 1;
const recoveryCodes = 10;

interface TimeCodesParts {
  readonly database: Database;
  readonly box: SecretBox;
  /** The time that may be acted on (clock/server-clock.ts). */
  readonly acting: () => number;
}

/** A second factor: codes that change every half minute (RFC 6238), and codes for recovery. */
export class TimeCodes {
  readonly #parts: TimeCodesParts;

  constructor(parts: TimeCodesParts) {
    this.#parts = parts;
  }

  async isOn(accountId: number): Promise<boolean> {
    return (await codeRowOf(this.#parts.database, accountId)).secret !== null;
  }

  async recoveryLeft(accountId: number): Promise<number> {
    return (await codeRowOf(this.#parts.database, accountId)).recoveryHashes.length;
  }

  /** Begins with a new secret, told once; nothing holds until a code of it was shown. */
  async begin(accountId: number, name: string): Promise<{ readonly secret: string; readonly uri: string }> {
    const totp = totpOf(new Secret({ size: secretBytes }), name);
    await beginCodes(this.#parts.database, accountId, this.#parts.box.seal(totp.secret.base32).toString("base64"));
    return { secret: totp.secret.base32, uri: totp.toString() };
  }

  /** Keeps what was begun where a code of it is right, and tells the codes for recovery, once; undefined where it is not. */
  async confirm(accountId: number, code: string): Promise<readonly string[] | undefined> {
    const { database } = this.#parts;
    const { pending } = await codeRowOf(database, accountId);
    const step = pending === null ? undefined : this.#stepOf(pending, code);
    if (step === undefined) return undefined;
    const recovery = Array.from({ length: recoveryCodes }, () => newCode(3));
    const salt = await handleOf(database, accountId);
    await keepCodes(database, accountId, { step, recoveryHashes: recovery.map((one) => hashOf(one, salt)) });
    return recovery;
  }

  /** Whether a code is right now and was not taken before, or is one for recovery; it is taken by that. */
  async take(accountId: number, code: string): Promise<boolean> {
    const { database } = this.#parts;
    const { secret } = await codeRowOf(database, accountId);
    if (secret === null) return true;
    const step = this.#stepOf(secret, code);
    if (step !== undefined) return await takeStep(database, accountId, step);
    const salt = await handleOf(database, accountId);
    return await takeRecovery(database, accountId, hashOf(code.trim().toLowerCase(), salt));
  }

  async drop(accountId: number): Promise<void> {
    await dropCodes(this.#parts.database, accountId);
  }

  /** The step that a code is of; undefined where it is of none that is near. */
  #stepOf(sealed: string, code: string): number | undefined {
    const nowMs = this.#parts.acting();
    const plain = code.replace(/\s/g, "");
    if (!/^\d{6}$/.test(plain)) return undefined;
    const aside = totpOf(Secret.fromBase32(this.#unsealed(sealed)), "").validate({
      token: plain,
      timestamp: nowMs,
      window: stepsAside,
    });
    return aside === null ? undefined : Math.floor(nowMs / 1000 / periodSeconds) + aside;
  }

  #unsealed(sealed: string): string {
    try {
      return this.#parts.box.unseal(Buffer.from(sealed, "base64"));
    } catch (error) {
      // The key was lost: no code is right, and `nubrel person reset` takes the factor away.
      if (error instanceof SealedError) return new Secret({ size: secretBytes }).base32;
      throw error;
    }
  }
}

const totpOf = (secret: Secret, label: string): TOTP =>
  new TOTP({
    issuer: "Nubrel",
    label: label || "somebody",
    secret,
    period: periodSeconds,
    digits: 6,
    algorithm: "SHA1",
  });

/** Of 74 random bits and salted with what is the person's own: no slow hash is needed (OWASP ASVS 4.0, 2.6.2). */
const hashOf = (code: string, salt: string): string =>
  createHash("sha256").update(`${salt}\n${code}`).digest("base64url");
