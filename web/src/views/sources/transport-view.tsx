import { basePath, rootAddress } from "../../api/base-path.ts";
import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { TransportView as Transport } from "../../../../core/api/transport.ts";
import { transportQuery } from "../../api/queries.ts";
import { dayOf } from "../../time/moments.ts";
import { Paste } from "../../shared/sources/paste.tsx";
import { SourcesHeading } from "../../shared/sources/sources-heading.tsx";

/** How this server speaks, which names its certificate covers, and how others come to trust it. */
export function TransportView(): ReactNode {
  const transport = useQuery(transportQuery);
  return (
    <>
      <SourcesHeading />
      {transport.isPending && <p className="py-8 text-quiet">reading …</p>}
      {transport.error && (
        <p role="alert" className="py-2 text-urgent">
          {transport.error.message}
        </p>
      )}
      {transport.data && (transport.data.kind === "plain" ? <Plain /> : <Secure transport={transport.data} />)}
      {transport.data && (
        <section aria-labelledby="proxies-title" className="border-t border-hairline py-4">
          <h2 id="proxies-title" className="font-bold">
            Behind a proxy
          </h2>
          <p className="max-w-prose">
            {transport.data.proxies.length === 0 ? (
              "Forwarded headers are believed from nobody. If a proxy stands before Nubrel, name its address with NUBREL_PROXIES, so that senders' addresses and https are told right."
            ) : (
              <>
                Forwarded headers are believed from <span className="figure">{transport.data.proxies.join(", ")}</span>{" "}
                and from nobody else.
              </>
            )}
          </p>
        </section>
      )}
    </>
  );
}

function Plain(): ReactNode {
  return (
    <section aria-labelledby="transport-title" className="py-4">
      <h2 id="transport-title" className="font-bold">
        This server speaks in clear text
      </h2>
      <p className="max-w-prose py-2">
        That is safe on this machine alone, or behind a proxy that speaks https. To be reached by other machines, let it
        have a certificate: its own authority makes one,
      </p>
      <Paste label="Start it so" text="NUBREL_TLS=house NUBREL_HOST=0.0.0.0 npm start" />
      <p className="max-w-prose py-2">or give it one that you have; its files are taken up again when they change.</p>
      <Paste
        label="Start it so"
        text="NUBREL_CERT=/etc/nubrel/nubrel.crt NUBREL_KEY=/etc/nubrel/nubrel.key NUBREL_HOST=0.0.0.0 npm start"
      />
    </section>
  );
}

function Secure({ transport }: { transport: Transport }): ReactNode {
  const origin = rootAddress();
  const house = transport.kind === "house";
  return (
    <>
      <section aria-labelledby="transport-title" className="py-4">
        <h2 id="transport-title" className="font-bold">
          {house
            ? "Its certificate comes from the house's own authority"
            : "It speaks with the certificate that was given to it"}
        </h2>
        {transport.endsSoon && (
          <p role="alert" className="py-1 font-bold text-notice">
            It ends on {dayOf(transport.untilMs as number)}. Renew it before; the files are taken up by themselves.
          </p>
        )}
        <dl className="grid max-w-4xl grid-cols-[auto_1fr] gap-x-6 gap-y-1 py-3">
          <dt className="text-quiet">covers</dt>
          <dd className="break-words" data-names>
            {transport.names.join(", ")}
          </dd>
          <dt className="text-quiet">valid</dt>
          <dd>
            <span className="moment">{dayOf(transport.fromMs as number)}</span> to{" "}
            <span className="moment">{dayOf(transport.untilMs as number)}</span>
            {house && "; renewed by itself two months before"}
          </dd>
          <dt className="text-quiet">fingerprint</dt>
          <dd className="figure break-all text-[13px]">{transport.sha256}</dd>
          <dt className="text-quiet">key</dt>
          <dd className="figure break-all text-[13px]">{transport.pin}</dd>
        </dl>
        <p className="max-w-prose text-quiet">
          {house
            ? "A name or address that machines use and that is missing here is added with NUBREL_NAMES."
            : "Machines must use a name or address that stands here."}
        </p>
      </section>
      {house && (
        <section aria-labelledby="trust-title" className="border-t border-hairline py-4">
          <h2 id="trust-title" className="font-bold">
            Have others trust it
          </h2>
          {transport.authorityEnds && (
            <p
              className={
                transport.authorityEnds.isSoon
                  ? "max-w-prose py-1 font-bold text-notice"
                  : "max-w-prose py-1 text-quiet"
              }
            >
              The authority is valid until <span className="moment">{dayOf(transport.authorityEnds.untilMs)}</span>. A
              month before, a new one is made; machines and browsers must be given that one then.
            </p>
          )}
          <p className="max-w-prose py-1">
            Fetch the authority's certificate:{" "}
            <a href={`${basePath}/house-authority.crt`} className="word-link">
              nubrel-house-authority.crt
            </a>
            . It is no secret. Collectors bring it along by themselves.
          </p>
          <Paste
            label="Linux of the Debian family, hypervisors built on it included"
            text={`curl -fsS --insecure --pinnedpubkey '${transport.pin}' ${origin}/house-authority.crt | sudo tee /usr/local/share/ca-certificates/nubrel-house.crt >/dev/null && sudo update-ca-certificates`}
          />
          <Paste
            label="Linux of the Fedora family"
            text={`curl -fsS --insecure --pinnedpubkey '${transport.pin}' ${origin}/house-authority.crt | sudo tee /etc/pki/ca-trust/source/anchors/nubrel-house.crt >/dev/null && sudo update-ca-trust`}
          />
          <Paste
            label="Windows, in a command prompt of an administrator"
            text={`curl.exe -fsS --insecure --pinnedpubkey ${transport.pin} ${origin}/house-authority.crt -o nubrel-house.crt && certutil -addstore Root nubrel-house.crt`}
          />
          <p className="max-w-prose text-quiet">
            The key in these lines is what they check instead of the certificate, this once.
          </p>
        </section>
      )}
    </>
  );
}
