import { createCipheriv, createDecipheriv, createHmac, randomBytes, timingSafeEqual } from "node:crypto";
import { readFileSync, writeFileSync } from "node:fs";

const keyBytes = 32;
const nonceBytes = 12;
const tagBytes = 16;

/** A secret that was sealed with another key, or was changed. */
export class SealedError extends Error {
  override name = "SealedError";
}

/**
 * Seals secrets with AES-256-GCM (NIST SP 800-38D) under a key that stands in a file beside the database, so that a
 * copy of the database opens nothing.
 */
export class SecretBox {
  readonly #key: Buffer;

  private constructor(key: Buffer) {
    this.#key = key;
  }

  /**
   * Takes the key of a file, which is made where it is missing. Without a file the key lives as long as the process.
   * Throws where the file holds no key.
   */
  static open(file: string | undefined): SecretBox {
    if (file === undefined) return new SecretBox(randomBytes(keyBytes));
    try {
      writeFileSync(file, `${randomBytes(keyBytes).toString("base64")}\n`, { flag: "wx", mode: 0o600 });
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== "EEXIST") throw error;
    }
    const key = Buffer.from(readFileSync(file, "utf8").trim(), "base64");
    if (key.length !== keyBytes)
      throw new Error(
        `${file} holds no key: ${key.length} bytes, it should be ${keyBytes} in base64. Put back the one from your backup, or remove the file and enter the sources' passwords again.`,
      );
    return new SecretBox(key);
  }

  /** Layout: nonce, tag, sealed text. */
  seal(text: string): Buffer {
    const nonce = randomBytes(nonceBytes);
    const cipher = createCipheriv("aes-256-gcm", this.#key, nonce);
    const sealed = Buffer.concat([cipher.update(text, "utf8"), cipher.final()]);
    return Buffer.concat([nonce, cipher.getAuthTag(), sealed]);
  }

  /** A signature of a text for a purpose (HMAC-SHA256, RFC 2104), which nobody without the key can make. */
  sign(purpose: string, text: string): string {
    return createHmac("sha256", this.#key).update(`${purpose}\0${text}`).digest("base64url");
  }

  isSigned(purpose: string, text: string, signature: string): boolean {
    const [ours, theirs] = [Buffer.from(this.sign(purpose, text)), Buffer.from(signature)];
    return ours.length === theirs.length && timingSafeEqual(ours, theirs);
  }

  /** Throws SealedError. */
  unseal(sealed: Buffer): string {
    try {
      const decipher = createDecipheriv("aes-256-gcm", this.#key, sealed.subarray(0, nonceBytes), {
        authTagLength: tagBytes,
      });
      decipher.setAuthTag(sealed.subarray(nonceBytes, nonceBytes + tagBytes));
      return decipher.update(sealed.subarray(nonceBytes + tagBytes), undefined, "utf8") + decipher.final("utf8");
    } catch (error) {
      throw new SealedError(
        "This secret was sealed with another key. Put back the key file of your backup, or enter the secret again.",
        { cause: error },
      );
    }
  }
}
