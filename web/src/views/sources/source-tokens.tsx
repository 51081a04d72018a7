import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { SourceView } from "../../../../core/api/sources.ts";
import { makeToken, revokeToken } from "../../../../core/api/tokens.ts";
import { call } from "../../api/client.ts";
import { tokensQuery } from "../../api/queries.ts";
import { SenderTexts, useHousePin } from "../../shared/sources/push-form.tsx";
import { ReachedAt, useReachedAt } from "../../shared/sources/reached-at.tsx";
import { TokenRows } from "../../shared/tokens/token-rows.tsx";

/** The tokens with which a source writes, and a new one with the texts to paste. */
export function SourceTokens({ source }: { source: SourceView }): ReactNode {
  const queries = useQueryClient();
  const pin = useHousePin();
  const place = useReachedAt();
  const tokens = useQuery(tokensQuery).data?.filter(({ sourceId }) => sourceId === source.id) ?? [];
  const make = useMutation({
    mutationFn: () => call(makeToken, {}, { name: source.name, scope: "write", sourceId: source.id }),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["tokens"] }),
  });
  const sending = make.data && { origin: place.chosen, token: make.data.token, pin };
  return (
    <section aria-labelledby="tokens-title" className="border-t border-hairline py-4">
      <h2 id="tokens-title" className="font-bold">
        Its tokens
      </h2>
      <TokenRows tokens={tokens} onRevoke={(id) => call(revokeToken, { id })} />
      <button type="button" className="act-plain mt-2" disabled={make.isPending} onClick={() => make.mutate()}>
        Make another one
      </button>
      {make.error && (
        <p role="alert" className="py-2 text-urgent">
          {make.error.message}
        </p>
      )}
      {sending && (
        <div className="pt-3">
          <p className="max-w-prose">It is shown now and never again, in each of these texts:</p>
          <ReachedAt place={place} />
          {source.kind === "collector" ? (
            <>
              <SenderTexts sender="linux" sending={sending} />
              <SenderTexts sender="windows" sending={sending} />
            </>
          ) : (
            <>
              <SenderTexts sender="otlp" sending={sending} />
              <SenderTexts sender="text" sending={sending} />
              <SenderTexts sender="csv" sending={sending} />
            </>
          )}
        </div>
      )}
    </section>
  );
}
