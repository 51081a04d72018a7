/** What can go wrong while a source is asked or sends. */
export type DiagnosisKind =
  | "nothing listens"
  | "name unknown"
  | "no way there"
  | "no answer"
  | "reset"
  | "truncated"
  | "too slow"
  | "too large"
  | "bomb"
  | "wrong credentials"
  | "not allowed"
  | "wrong path"
  | "redirect"
  | "refused"
  | "not the format"
  | "credentials wanted"
  | "self-signed"
  | "missing intermediate"
  | "weak signature"
  | "weak key"
  | "wrong purpose"
  | "client certificate wanted"
  | "old protocol"
  | "no common ground"
  | "unknown issuer"
  | "wrong name"
  | "expired"
  | "not yet valid"
  | "other fingerprint"
  | "not TLS"
  | "TLS wanted"
  | "unknown user"
  | "wrong level"
  | "endless"
  | "tool missing"
  | "failed";

export interface CertificateView {
  /** Of the DER, pairs of hexadecimal digits with colons. */
  readonly sha256: string;
  readonly subject: string;
  readonly issuer: string;
  /** Names and addresses that it covers. */
  readonly names: readonly string[];
  readonly fromMs: number;
  readonly untilMs: number;
}

export interface SourceFailure {
  readonly kind: DiagnosisKind;
  readonly words: string;
  /** What to do. */
  readonly remedy: string;
  readonly atMs: number;
  readonly certificate: CertificateView | null;
}
