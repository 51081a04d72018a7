import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { transportQuery } from "../../api/queries.ts";
import { dayOf } from "../../time/moments.ts";
import { PartsHeading } from "../heading/parts-heading.tsx";

const parts = [
  { to: "/sources", words: "What is gathered" },
  { to: "/sources/tokens", words: "Tokens and limits" },
  { to: "/sources/transport", words: "Transport" },
  { to: "/sources/costs", words: "What it costs" },
  { to: "/sources/condition", words: "Its condition" },
] as const;

/** The heading of all that belongs to Sources, with its parts as words. */
export function SourcesHeading({ children }: { children?: ReactNode }): ReactNode {
  const transport = useQuery(transportQuery).data;
  return (
    <PartsHeading title="Sources" parts={parts}>
      {children}
      {transport?.endsSoon && transport.untilMs !== null && (
        <p className="w-full font-bold text-notice">This server's certificate ends on {dayOf(transport.untilMs)}.</p>
      )}
    </PartsHeading>
  );
}
