import type { ReactNode } from "react";
import type { CertificateView, SourceFailure } from "../../../../core/sources/source-failure.ts";
import { Signal } from "../../ui/signal.tsx";
import { dayOf } from "../../time/moments.ts";

/** What is wrong, what to do, and the certificate that was shown where it is about one. */
export function Diagnosis({
  failure,
  onPin,
}: {
  failure: SourceFailure;
  onPin?: ((sha256: string) => void) | undefined;
}): ReactNode {
  return (
    <div role="alert" className="max-w-prose border-l-2 border-notice py-1 pl-4" data-diagnosis={failure.kind}>
      <p className="flex gap-2">
        <span className="pt-1">
          <Signal of="blind" />
        </span>
        <strong>{failure.words}</strong>
      </p>
      <p className="mt-1">{failure.remedy}</p>
      {failure.certificate && <CertificateFacts certificate={failure.certificate} />}
      {failure.certificate && onPin && (
        <button
          type="button"
          className="act-plain mt-2"
          onClick={() => onPin((failure.certificate as CertificateView).sha256)}
        >
          Believe this one certificate
        </button>
      )}
    </div>
  );
}

function CertificateFacts({ certificate }: { certificate: CertificateView }): ReactNode {
  const facts: readonly (readonly [string, ReactNode])[] = [
    [
      "fingerprint",
      <span key="sha" className="figure break-all text-[13px]">
        {certificate.sha256}
      </span>,
    ],
    ["for", certificate.names.join(", ") || certificate.subject],
    ["issued by", certificate.issuer],
    [
      "valid",
      <span key="valid" className="figure">
        {dayOf(certificate.fromMs)} to {dayOf(certificate.untilMs)}
      </span>,
    ],
  ];
  return (
    <dl className="mt-2 grid grid-cols-[auto_1fr] gap-x-4 gap-y-1">
      {facts.map(([words, fact]) => (
        <div key={words} className="contents">
          <dt className="text-quiet">{words}</dt>
          <dd>{fact}</dd>
        </div>
      ))}
    </dl>
  );
}
