import { ScrollRegion } from "../../ui/scroll-region.tsx";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { TokenScope } from "../../../../core/people/token-scope.ts";
import type { TokenView } from "../../../../core/api/tokens.ts";
import { tokenEndsSoon } from "../sources/token-ends.ts";
import { sourcesQuery } from "../../api/queries.ts";
import { momentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";

export const scopeWords: Readonly<Record<TokenScope, string>> = {
  write: "write for its source",
  read: "read everything",
  manage: "change everything",
  calendar: "give quiet times as a calendar",
  feed: "give incidents as a feed",
};

interface TokenRowsProps {
  readonly tokens: readonly TokenView[];
  /** Takes a token away: one's own, or any. */
  readonly onRevoke: (id: number) => Promise<unknown>;
}

/** Tokens with what they may, who made them, when they were used last and how long they work. */
export function TokenRows({ tokens, onRevoke }: TokenRowsProps): ReactNode {
  const { nowMs } = useTime();
  const queries = useQueryClient();
  const sources = useQuery({ ...sourcesQuery, enabled: tokens.some(({ sourceId }) => sourceId !== null) }).data ?? [];
  const revoke = useMutation({
    mutationFn: onRevoke,
    onSuccess: () => queries.invalidateQueries({ queryKey: ["tokens"] }),
  });
  if (tokens.length === 0) return <p className="py-2 text-quiet">There is none.</p>;
  return (
    <ScrollRegion label="What tokens may">
      <table className="w-full max-w-4xl min-w-[560px] text-[14px]">
        <thead>
          <tr className="text-left text-[13px] text-quiet">
            {["Token", "May", "Made", "Last used", "Until"].map((title) => (
              <th key={title} className="py-1 pr-4 font-normal">
                {title}
              </th>
            ))}
            <td />
          </tr>
        </thead>
        <tbody>
          {tokens.map((token) => (
            <tr key={token.id} className="border-t border-hairline" data-token={token.name}>
              <th scope="row" className="py-1.5 pr-4 text-left font-normal">
                {token.name}
              </th>
              <td className="py-1.5 pr-4">
                {token.sourceId === null
                  ? scopeWords[token.scope]
                  : `write for ${sources.find(({ id }) => id === token.sourceId)?.name ?? "its source"}`}
                {token.of !== null && <span className="text-quiet"> as far as {token.of} may</span>}
                {token.addresses.length > 0 && <span className="text-quiet"> from {token.addresses.join(", ")}</span>}
              </td>
              <td className="moment py-1.5 pr-4">
                {momentText(token.createdAtMs, nowMs)}
                {token.by && <span className="font-sans text-quiet"> by {token.by}</span>}
              </td>
              <td className="moment py-1.5 pr-4">
                {token.lastUsedAtMs === null ? "never" : momentText(token.lastUsedAtMs, nowMs)}
              </td>
              <td className="moment py-1.5 pr-4">
                <TokenUntil token={token} nowMs={nowMs} />
              </td>
              <td className="py-1.5 text-right">
                {token.revokedAtMs === null ? (
                  <button type="button" className="word-link" onClick={() => revoke.mutate(token.id)}>
                    revoke
                  </button>
                ) : (
                  <span className="text-quiet">revoked</span>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {revoke.error && (
        <p role="alert" className="py-2 text-urgent">
          {revoke.error.message}
        </p>
      )}
    </ScrollRegion>
  );
}

/** Until when a token works; one that ends soon says so. */
function TokenUntil({ token: { until, revokedAtMs }, nowMs }: { token: TokenView; nowMs: number }): ReactNode {
  if (until === null) return <span className="text-quiet">no end</span>;
  const untilMs = Date.parse(until);
  const isSoon = revokedAtMs === null && untilMs > nowMs && tokenEndsSoon({ until, revokedAtMs }, nowMs);
  return (
    <span className={isSoon ? "font-bold text-notice" : ""}>
      {untilMs <= nowMs ? "ended " : ""}
      {momentText(untilMs, nowMs)}
    </span>
  );
}
