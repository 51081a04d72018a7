import { useMay } from "../../shared/people/use-may.ts";
import { listQuietTimes } from "../../../../core/api/quiet.ts";
import { listRecipients } from "../../../../core/api/messages.ts";
import { listIncidents } from "../../../../core/api/incidents.ts";
import type { ReactNode } from "react";
import { useLocation } from "react-router";
import { SectionLink } from "../../time/section-link.tsx";

const parts = [
  ["/alerts", "Incidents and rules", listIncidents],
  ["/alerts/recipients", "Recipients and messages", listRecipients],
  ["/alerts/quiet", "Quiet times", listQuietTimes],
] as const;

/** The head of every page of Alerts, with the ways between them. */
export function AlertsHeading({ title = "Alerts", children }: { title?: string; children?: ReactNode }): ReactNode {
  const { pathname } = useLocation();
  const may = useMay();
  return (
    <div className="flex flex-wrap items-baseline gap-x-5 gap-y-1 border-b border-ink pt-2 pb-3">
      <h1 className="text-[26px] leading-none font-bold">{title}</h1>
      {children && <p className="text-quiet">{children}</p>}
      <nav aria-label="Alerts" className="not-in-print ml-auto flex flex-wrap gap-x-5">
        {parts
          .filter(([, , needs]) => may(needs))
          .map(([to, words]) => (
            <SectionLink
              key={to}
              to={to}
              aria-current={pathname === to ? "page" : undefined}
              className={pathname === to ? "font-bold" : "word-link"}
            >
              {words}
            </SectionLink>
          ))}
      </nav>
    </div>
  );
}
