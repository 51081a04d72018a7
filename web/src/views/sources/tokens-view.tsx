import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { makeToken, revokeToken } from "../../../../core/api/tokens.ts";
import { call } from "../../api/client.ts";
import { tokensQuery } from "../../api/queries.ts";
import { LimitsForm } from "./limits-form.tsx";
import { SourcesHeading } from "../../shared/sources/sources-heading.tsx";
import { TokenForm } from "../../shared/tokens/token-form.tsx";
import { TokenRows } from "../../shared/tokens/token-rows.tsx";

const programScopes = ["read", "manage", "calendar", "feed"] as const;

/** Tokens of all scopes, and the bounds of what is taken in. */
export function TokensView(): ReactNode {
  const tokens = useQuery(tokensQuery);
  return (
    <>
      <SourcesHeading />
      <section aria-labelledby="tokens-title" className="py-4">
        <h2 id="tokens-title" className="font-bold">
          Tokens
        </h2>
        <p className="max-w-prose text-quiet">
          For programs, which have no password. A token that writes belongs to one source and is made with it.
        </p>
        {tokens.isPending && <p className="py-4 text-quiet">reading …</p>}
        {tokens.error && (
          <p role="alert" className="py-2 text-urgent">
            {tokens.error.message}
          </p>
        )}
        {tokens.data && <TokenRows tokens={tokens.data} onRevoke={(id) => call(revokeToken, { id })} />}
        <TokenForm
          scopes={programScopes}
          onMake={(wish, until) => call(makeToken, {}, { ...wish, ...(until && { until }) })}
        />
      </section>
      <LimitsForm />
    </>
  );
}
