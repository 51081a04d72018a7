import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { useLocation } from "react-router";
import { transportQuery } from "../../api/queries.ts";
import { dayOf } from "../../time/moments.ts";
import { SectionLink } from "../../time/section-link.tsx";

const parts = [
  { to: "/sources", words: "What is gathered" },
  { to: "/sources/tokens", words: "Tokens and limits" },
  { to: "/sources/transport", words: "Transport" },
  { to: "/sources/costs", words: "What it costs" },
  { to: "/sources/condition", words: "Its condition" },
] as const;

/** The heading of all that belongs to Sources, with its parts as words. */
export function SourcesHeading({ children }: { children?: ReactNode }): ReactNode {
  const { pathname } = useLocation();
  const transport = useQuery(transportQuery).data;
  return (
    <div className="flex flex-wrap items-baseline gap-x-6 gap-y-2 border-b border-ink pt-2 pb-3">
      <h1 className="text-[26px] leading-none font-bold">Sources</h1>
      <nav aria-label="Parts of Sources" className="flex flex-wrap gap-x-5">
        {parts.map(({ to, words }) => (
          <SectionLink
            key={to}
            to={to}
            aria-current={pathname === to ? "page" : undefined}
            className={pathname === to ? "border-b-2 border-act font-bold" : "text-act hover:underline"}
          >
            {words}
          </SectionLink>
        ))}
      </nav>
      {children}
      {transport?.endsSoon && transport.untilMs !== null && (
        <p className="w-full font-bold text-notice">This server's certificate ends on {dayOf(transport.untilMs)}.</p>
      )}
    </div>
  );
}
