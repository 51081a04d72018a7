import { getCondition } from "../../../../core/api/condition.ts";
import { getCosts } from "../../../../core/api/costs.ts";
import { listForwards } from "../../../../core/api/forwards.ts";
import { getTransport } from "../../../../core/api/transport.ts";
import { listSources } from "../../../../core/api/sources.ts";
import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { listTokens } from "../../../../core/api/tokens.ts";
import { tokensQuery, transportQuery } from "../../api/queries.ts";
import { useTime } from "../../time/time-provider.tsx";
import { useMay } from "../people/use-may.ts";
import { tokenEndsSoon } from "./token-ends.ts";
import { dayOf } from "../../time/moments.ts";
import { PartsHeading } from "../heading/parts-heading.tsx";

const parts = [
  { to: "/sources", words: "What is gathered", needs: listSources },
  { to: "/sources/tokens", words: "Tokens and limits", needs: listTokens },
  { to: "/sources/sent-on", words: "Sent on", needs: listForwards },
  { to: "/sources/transport", words: "Transport", needs: getTransport },
  { to: "/sources/costs", words: "What it costs", needs: getCosts },
  { to: "/sources/condition", words: "Its condition", needs: getCondition },
] as const;

/** The heading of all that belongs to Sources, with its parts as words; `one` is the source that is shown. */
export function SourcesHeading({ one, children }: { one?: string | undefined; children?: ReactNode }): ReactNode {
  const { nowMs } = useTime();
  const transport = useQuery(transportQuery).data;
  const mayList = useMay()(listTokens);
  const tokens = useQuery({ ...tokensQuery, enabled: mayList }).data ?? [];
  const ending = tokens.filter((one) => tokenEndsSoon(one, nowMs));
  return (
    <PartsHeading title="Sources" parts={parts} tab={one && `${one} · Sources`}>
      {children}
      {transport?.endsSoon && transport.untilMs !== null && (
        <p className="w-full font-bold text-notice">This server's certificate ends on {dayOf(transport.untilMs)}.</p>
      )}
      {ending.map(({ id, name, until }) => (
        <p key={id} className="w-full font-bold text-notice">
          The token {name} ends on {dayOf(Date.parse(until as string))}.
        </p>
      ))}
    </PartsHeading>
  );
}
