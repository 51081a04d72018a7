import "reflect-metadata"; // @peculiar/x509 wants it to be loaded before
import { createPublicKey, randomBytes, webcrypto } from "node:crypto";
import { isIP } from "node:net";
import {
  AuthorityKeyIdentifierExtension,
  BasicConstraintsExtension,
  ExtendedKeyUsage,
  ExtendedKeyUsageExtension,
  Extension,
  KeyUsageFlags,
  KeyUsagesExtension,
  PemConverter,
  SubjectAlternativeNameExtension,
  SubjectKeyIdentifierExtension,
  X509Certificate,
  X509CertificateGenerator,
} from "@peculiar/x509";

import { nameConstraints } from "./name-constraints.ts";

/** A certificate with its private key, both PEM. */
export interface KeyPair {
  readonly certificatePem: string;
  readonly keyPem: string;
}

const nameConstraintsOid = "2.5.29.30";
const algorithm = { name: "ECDSA", namedCurve: "P-256", hash: "SHA-256" } as const;

/**
 * Makes an authority that may issue certificates of servers within what is permitted (everything where that is not
 * said), and no further authorities (RFC 5280 §4.2.1.9, §4.2.1.10).
 */
export async function makeAuthority(
  commonName: string,
  from: Date,
  until: Date,
  permitted?: readonly string[],
): Promise<KeyPair> {
  const keys = await newKeys();
  const certificate = await X509CertificateGenerator.createSelfSigned({
    serialNumber: newSerial(),
    name: `CN=${commonName}`,
    notBefore: from,
    notAfter: until,
    signingAlgorithm: algorithm,
    keys,
    extensions: [
      new BasicConstraintsExtension(true, 0, true),
      new KeyUsagesExtension(KeyUsageFlags.keyCertSign | KeyUsageFlags.cRLSign, true),
      await SubjectKeyIdentifierExtension.create(keys.publicKey),
      ...(permitted
        ? [new Extension(nameConstraintsOid, true, nameConstraints(permitted) as Uint8Array<ArrayBuffer>)]
        : []),
    ],
  });
  return { certificatePem: `${certificate.toString("pem")}\n`, keyPem: await keyPem(keys.privateKey) };
}

/**
 * Issues a certificate for a server by its names and addresses (RFC 5280 §4.2.1.6; RFC 9110 §4.3.4 wants them there).
 * With the key of the
 * certificate before, who has pinned that key goes on trusting it.
 */
export async function issueCertificate(
  authority: KeyPair,
  names: readonly string[],
  from: Date,
  until: Date,
  keptKeyPem?: string,
): Promise<KeyPair> {
  const issuer = new X509Certificate(authority.certificatePem);
  const signingKey = await webcrypto.subtle.importKey(
    "pkcs8",
    PemConverter.decodeFirst(authority.keyPem),
    algorithm,
    false,
    ["sign"],
  );
  const keys = keptKeyPem === undefined ? await newKeys() : await keysOf(keptKeyPem);
  const certificate = await X509CertificateGenerator.create({
    serialNumber: newSerial(),
    subject: `CN=${names[0] ?? "nubrel"}`,
    issuer: issuer.subject,
    notBefore: from,
    notAfter: until,
    signingAlgorithm: algorithm,
    publicKey: keys.publicKey,
    signingKey,
    extensions: [
      new BasicConstraintsExtension(false, undefined, true),
      new KeyUsagesExtension(KeyUsageFlags.digitalSignature, true),
      new ExtendedKeyUsageExtension([ExtendedKeyUsage.serverAuth]),
      new SubjectAlternativeNameExtension(
        names.map((name) => ({ type: isIP(name) === 0 ? ("dns" as const) : ("ip" as const), value: name })),
      ),
      await SubjectKeyIdentifierExtension.create(keys.publicKey),
      await AuthorityKeyIdentifierExtension.create(issuer.publicKey),
    ],
  });
  return { certificatePem: `${certificate.toString("pem")}\n`, keyPem: await keyPem(keys.privateKey) };
}

function newKeys(): Promise<webcrypto.CryptoKeyPair> {
  return webcrypto.subtle.generateKey(algorithm, true, ["sign", "verify"]) as Promise<webcrypto.CryptoKeyPair>;
}

async function keysOf(pem: string): Promise<webcrypto.CryptoKeyPair> {
  const publicDer = createPublicKey(pem).export({ type: "spki", format: "der" });
  return {
    privateKey: await webcrypto.subtle.importKey("pkcs8", PemConverter.decodeFirst(pem), algorithm, true, ["sign"]),
    publicKey: await webcrypto.subtle.importKey("spki", publicDer, algorithm, true, ["verify"]),
  };
}

/** 16 random bytes, positive (RFC 5280 §4.1.2.2). */
function newSerial(): string {
  const bytes = randomBytes(16);
  bytes[0] = ((bytes[0] as number) & 0x7f) | 0x40;
  return bytes.toString("hex");
}

async function keyPem(key: webcrypto.CryptoKey): Promise<string> {
  return `${PemConverter.encode(await webcrypto.subtle.exportKey("pkcs8", key), "PRIVATE KEY")}\n`;
}
