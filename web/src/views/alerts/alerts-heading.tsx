import { PartsNav, tabOf } from "../../shared/heading/parts-nav.tsx";
import { ViewTitle } from "../../ui/view-title.tsx";
import { listQuietTimes } from "../../../../core/api/quiet.ts";
import { listRecipients } from "../../../../core/api/messages.ts";
import { listIncidents } from "../../../../core/api/incidents.ts";
import type { ReactNode } from "react";
import { useLocation } from "react-router";

const parts = [
  { to: "/alerts", words: "Incidents and rules", needs: listIncidents },
  { to: "/alerts/recipients", words: "Recipients and messages", needs: listRecipients },
  { to: "/alerts/quiet", words: "Quiet times", needs: listQuietTimes },
] as const;

/** The head of every page of Alerts, with the ways between them. */
export function AlertsHeading({ title = "Alerts", children }: { title?: string; children?: ReactNode }): ReactNode {
  const { pathname } = useLocation();
  return (
    <div className="flex flex-wrap items-baseline gap-x-5 gap-y-1 border-b border-ink pt-2 pb-3">
      <ViewTitle words={title} tab={title === "Alerts" ? tabOf(title, parts, pathname) : `${title} · Alerts`} />
      {children && <p className="text-quiet">{children}</p>}
      <PartsNav label="Alerts" parts={parts} className="not-in-print ml-auto flex flex-wrap gap-x-5" />
    </div>
  );
}
