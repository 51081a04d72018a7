import type { DiagnosisKind } from "../../core/sources/source-failure.ts";

/** What is wrong with a certificate, or with how two sides come to speak TLS, in words. */
export interface CertificateFault {
  readonly kind: DiagnosisKind;
  readonly words: string;
  readonly remedy: string;
  /** Whether looking at the certificate that is shown helps. */
  readonly isShown: boolean;
}

const compare = "Compare the fingerprint with the one on the machine itself and pin it";
/**
 * By codes of Node.js and OpenSSL, or by OpenSSL's own words, which some libraries pass on alone
 * (openssl-verification-options(1), RFC 8446 §6.2). The first that fits.
 */
const faults: readonly (readonly [
  pattern: RegExp,
  kind: DiagnosisKind,
  words: string,
  remedy: string,
  isShown?: false,
])[] = [
  [
    /DEPTH_ZERO_SELF_SIGNED_CERT|^self[- ]signed certificate$/i,
    "self-signed",
    "The certificate is signed by itself: nobody vouches for it.",
    `${compare}, or paste the certificate itself as the issuer.`,
  ],
  [
    /UNABLE_TO_VERIFY_LEAF_SIGNATURE|unable to verify the first certificate/i,
    "missing intermediate",
    "The other side shows its own certificate alone, and not the one that issued it.",
    `Have it send the whole chain, with the intermediate certificate; or paste that intermediate as the issuer. Or ${compare.toLowerCase()}.`,
  ],
  [
    /SELF_SIGNED_CERT_IN_CHAIN|UNABLE_TO_GET_ISSUER_CERT|CERT_UNTRUSTED|CERT_SIGNATURE_FAILURE|self[- ]signed certificate in certificate chain|unable to get (local )?issuer certificate/i,
    "unknown issuer",
    "Nobody that this machine trusts has issued the certificate.",
    `${compare}, or paste the issuer's certificate.`,
  ],
  [
    /MD_TOO_WEAK|signature digest algorithm too weak|md too weak/i,
    "weak signature",
    "The certificate is signed by a method that can be forged (SHA-1 or MD5).",
    `Have it issued anew with SHA-256. Until then: ${compare.toLowerCase()}.`,
  ],
  [
    /KEY_TOO_SMALL|key too (small|weak)/i,
    "weak key",
    "The key of the certificate is too short to be trusted.",
    `Make a new key and have it issued anew. Until then: ${compare.toLowerCase()}.`,
  ],
  [
    /INVALID_PURPOSE|unsuitable certificate purpose/i,
    "wrong purpose",
    "The certificate is meant for clients, not for servers.",
    `Have one issued for servers (extended key usage serverAuth). Until then: ${compare.toLowerCase()}.`,
  ],
  [
    /INVALID_CA|invalid CA certificate/i,
    "unknown issuer",
    "What issued the certificate may issue none: it is no authority.",
    `${compare}, or have the certificate issued by an authority.`,
  ],
  [
    /CERT_HAS_EXPIRED|certificate has expired/i,
    "expired",
    "The certificate has expired.",
    "Renew it on the machine. Until then you can pin its fingerprint.",
  ],
  [
    /CERT_NOT_YET_VALID|certificate is not yet valid/i,
    "not yet valid",
    "The certificate is not valid yet.",
    "Compare the clocks of the two machines.",
  ],
  [
    /ERR_TLS_CERT_ALTNAME_INVALID|altnames|does not match certificate/i,
    "wrong name",
    "The certificate does not cover this name.",
    "Use a name or address that it covers, or pin its fingerprint.",
  ],
  [
    /CERTIFICATE_REQUIRED|certificate required|ALERT_BAD_CERTIFICATE|alert bad certificate/i,
    "client certificate wanted",
    "The other side wants a certificate from us, and Nubrel has none to show.",
    "Let this machine in by its address, a name and a password or a token instead.",
    false,
  ],
  [
    /UNSUPPORTED_PROTOCOL|PROTOCOL_VERSION|WRONG_SSL_VERSION|VERSION_TOO_LOW|unsupported protocol|protocol version/i,
    "old protocol",
    "The other side speaks only versions of TLS that are given up (below 1.2).",
    "Renew the program or firmware there; where it must stay, ask it over http in a network of your own.",
    false,
  ],
  [
    /HANDSHAKE_FAILURE|handshake failure|NO_SHARED_CIPHER|NO_CIPHERS/i,
    "no common ground",
    "The two sides found no way of speaking TLS that both know; or the other one wants a certificate from us.",
    "Look there which ciphers are allowed, and whether it wants a client's certificate, which Nubrel has none of.",
    false,
  ],
];

/** Undefined for what is no fault of a certificate or of TLS. */
export function certificateFault(error: unknown): CertificateFault | undefined {
  for (
    let one = error as { code?: unknown; message?: unknown; cause?: unknown } | undefined, depth = 0;
    one && depth < 5;
    one = one.cause as typeof one, depth++
  ) {
    for (const said of [one.code, one.message]) {
      if (typeof said !== "string") continue;
      const found = faults.find(([pattern]) => pattern.test(said));
      if (found) return { kind: found[1], words: found[2], remedy: found[3], isShown: found[4] ?? true };
    }
  }
  return undefined;
}
