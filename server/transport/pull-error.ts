import type { CertificateView, DiagnosisKind } from "../../core/sources/source-failure.ts";

/** Why asking a source gave nothing: what it is, in words, and what to do. */
export class PullError extends Error {
  readonly kind: DiagnosisKind;
  readonly remedy: string;
  readonly certificate: CertificateView | undefined;

  constructor(
    kind: DiagnosisKind,
    words: string,
    remedy: string,
    more: { certificate?: CertificateView | undefined; cause?: unknown } = {},
  ) {
    super(words, { cause: more.cause });
    this.name = "PullError";
    this.kind = kind;
    this.remedy = remedy;
    this.certificate = more.certificate;
  }
}
