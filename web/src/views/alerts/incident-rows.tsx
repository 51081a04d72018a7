import type { ReactNode } from "react";
import type { IncidentView } from "../../../../core/rules/rule.ts";
import { presentSpan } from "../../../../core/units/present.ts";
import { SectionLink } from "../../frame/section-link.tsx";
import { Signal } from "../../signals/signal.tsx";
import { Quantity } from "../../ui/quantity.tsx";
import { momentText } from "../../time/moments.ts";

const cell = "px-3 py-1.5 text-right whitespace-nowrap";

/** Incidents as rows: what, value when raised, furthest, limit, since, how long. */
export function IncidentRows({ incidents, nowMs }: { incidents: readonly IncidentView[]; nowMs: number }): ReactNode {
  return (
    <div className="relative overflow-x-auto">
      <table className="w-full min-w-[720px] text-[14px]">
        <thead>
          <tr className="text-[13px] text-quiet">
            <th className="py-1 text-left font-normal">What</th>
            {["When raised", "Furthest", "Limit", "Since", "Until", "Lasted"].map((title) => <th key={title} className="px-3 py-1 text-right font-normal">{title}</th>)}
          </tr>
        </thead>
        <tbody>
          {incidents.map((incident) => {
            const open = incident.clearedAtMs === null;
            const machine = incident.tags["machine"];
            return (
              <tr key={incident.id} className="border-t border-hairline" data-incident={open ? "open" : "cleared"}>
                <th scope="row" className="py-1.5 text-left font-normal">
                  <span className="flex items-center gap-2">
                    <Signal of={open ? "raised" : "quiet"} severity={incident.severity} label={open ? `${incident.severity}, raised` : "cleared"} />
                    {machine ? <SectionLink to={`/machines/${encodeURIComponent(machine)}`} className="hover:underline">{incident.ruleName}</SectionLink> : incident.ruleName}
                  </span>
                </th>
                <td className={cell}><Quantity value={incident.value} unit={incident.unit} /></td>
                <td className={cell}><Quantity value={incident.furthest} unit={incident.unit} /></td>
                <td className={cell}>{incident.compare} <Quantity value={incident.limit} unit={incident.unit} /></td>
                <td className={`figure ${cell}`}>{momentText(incident.raisedAtMs, nowMs)}</td>
                <td className={incident.clearedAtMs === null ? cell : `figure ${cell}`}>{incident.clearedAtMs === null ? "still raised" : momentText(incident.clearedAtMs, nowMs)}</td>
                <td className={cell}>{presentSpan((incident.clearedAtMs ?? nowMs) - incident.raisedAtMs)}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
