import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { Role } from "../../../../core/people/roles.ts";
import { makeMyToken, revokeMyToken } from "../../../../core/api/tokens.ts";
import { call } from "../../api/client.ts";
import { myTokensQuery } from "../../api/queries.ts";
import { TokenForm } from "../../shared/tokens/token-form.tsx";
import { TokenRows } from "../../shared/tokens/token-rows.tsx";

/** Tokens of the one who looks: for scripts of theirs. */
export function OwnTokensPart({ role }: { role: Role }): ReactNode {
  const tokens = useQuery(myTokensQuery);
  return (
    <section aria-labelledby="own-tokens-title" className="border-t border-hairline py-4">
      <h2 id="own-tokens-title" className="font-bold">
        Your tokens
      </h2>
      <p className="max-w-prose text-quiet">
        For scripts of yours. One does what you may, no more than is said here, until its end or until you leave.
      </p>
      {tokens.error && (
        <p role="alert" className="py-2 text-urgent">
          {tokens.error.message}
        </p>
      )}
      {tokens.data && tokens.data.length > 0 && (
        <TokenRows tokens={tokens.data} onRevoke={(id) => call(revokeMyToken, { id })} />
      )}
      <TokenForm
        onMake={(wish, until) => call(makeMyToken, {}, { ...wish, until: until ?? "" })}
        scopes={role === "viewer" ? ["read"] : ["read", "manage"]}
        ends
      />
    </section>
  );
}
