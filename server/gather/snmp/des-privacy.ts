import { createCipheriv, createDecipheriv, getCiphers, randomBytes } from "node:crypto";
import snmp from "net-snmp";

interface Engine {
  readonly engineID: Buffer;
}
/** Parts of net-snmp that its types leave out. */
interface Inside {
  readonly Authentication: { passwordToKey(authProtocol: number, password: string, engineId: Buffer): Buffer };
  readonly Encryption: { readonly algorithms: Record<number, { encryptPdu: unknown; decryptPdu: unknown }> };
}

const keyBytes = 8;
const saltBytes = 8;
/**
 * Triple DES under three equal keys is DES (ANSI X9.52, keying option 3), and OpenSSL 3 still has it where single DES
 * was put away.
 */
const cipher = "des-ede3-cbc";

/**
 * Gives net-snmp the privacy protocol CBC-DES (RFC 3414 §8.1.1) where this Node.js has no single DES: devices that know
 * nothing else are asked all the same. Does nothing where it has.
 */
export function provideDes(): void {
  if (getCiphers().includes("des-cbc")) return;
  const { Encryption, Authentication } = snmp as unknown as Inside;
  const algorithm = Encryption.algorithms[snmp.PrivProtocols.des as number];
  if (!algorithm) return;
  /** The key, and what makes the first block's vector of a salt: the halves of the localized key. */
  const keyOf = (authProtocol: number, password: string, { engineID }: Engine, salt: Uint8Array) => {
    const localized = Authentication.passwordToKey(authProtocol, password, engineID);
    const key = localized.subarray(0, keyBytes);
    return {
      key: Buffer.concat([key, key, key]),
      iv: Buffer.from(localized.subarray(keyBytes, keyBytes + saltBytes).map((byte, i) => byte ^ (salt[i] as number))),
    };
  };
  algorithm.encryptPdu = (pdu: Buffer, _protocol: number, password: string, authProtocol: number, engine: Engine) => {
    const salt = randomBytes(saltBytes);
    const { key, iv } = keyOf(authProtocol, password, engine, salt);
    const sealing = createCipheriv(cipher, key, iv).setAutoPadding(false);
    const padded = Buffer.concat([pdu, Buffer.alloc((keyBytes - (pdu.length % keyBytes)) % keyBytes)]);
    return { encryptedPdu: Buffer.concat([sealing.update(padded), sealing.final()]), msgPrivacyParameters: salt };
  };
  algorithm.decryptPdu = (
    sealed: Buffer,
    _protocol: number,
    salt: Buffer,
    password: string,
    authProtocol: number,
    engine: Engine,
  ) => {
    const { key, iv } = keyOf(authProtocol, password, engine, salt);
    const opening = createDecipheriv(cipher, key, iv).setAutoPadding(false);
    return Buffer.concat([opening.update(sealed), opening.final()]);
  };
}
