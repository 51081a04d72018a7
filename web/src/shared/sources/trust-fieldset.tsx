import type { ReactNode } from "react";
import type { Trust } from "../../../../core/sources/source.ts";

interface TrustFieldsetProps {
  readonly register: (
    name: "trust" | "sha256" | "pem",
  ) => React.ComponentProps<"input"> & React.ComponentProps<"select"> & React.ComponentProps<"textarea">;
  readonly trust: Trust["kind"];
}

/** Whom we believe that it is who it says. */
export function TrustFieldset({ register, trust }: TrustFieldsetProps): ReactNode {
  return (
    <div className="flex flex-col gap-1.5">
      <p className="flex flex-wrap items-center gap-1.5">
        believing{" "}
        <select aria-label="trust" {...register("trust")}>
          <option value="system">the issuers that this system trusts</option>
          <option value="issuer">an issuer of ours</option>
          <option value="fingerprint">one certificate, by its fingerprint</option>
          <option value="unchecked">anybody, without checking</option>
        </select>
        {trust === "fingerprint" && (
          <input
            aria-label="fingerprint"
            placeholder="SHA-256"
            className="figure w-full max-w-2xl text-[13px]"
            autoComplete="off"
            {...register("sha256")}
          />
        )}
      </p>
      {trust === "issuer" && (
        <textarea
          aria-label="issuer's certificate"
          rows={5}
          placeholder="-----BEGIN CERTIFICATE-----"
          className="figure max-w-2xl border border-hairline bg-transparent p-2 text-[13px]"
          {...register("pem")}
        />
      )}
      {trust === "unchecked" && (
        <p className="max-w-prose text-notice">
          Anybody between could read along and answer instead. The source will be marked wherever it is shown.
        </p>
      )}
    </div>
  );
}
