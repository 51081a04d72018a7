import { useCalled } from "../../api/use-called.ts";
import type { ReactNode } from "react";
import { gaugeText, incidentPlace, withCalled } from "../../../../core/rules/incident-text.ts";
import type { IncidentView } from "../../../../core/rules/rule.ts";
import { presentSpan } from "../../../../core/units/present.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { Signal } from "../../ui/signal.tsx";
import { momentText } from "../../time/moments.ts";

const cell = "px-3 py-1.5 text-right whitespace-nowrap";
/** Raised so near to one another on one machine, incidents are of one happening. */
const togetherMs = 60_000;

/**
 * Incidents as rows: what, where, value when raised, furthest, limit, since, how long. Those of one machine within a
 * minute stand together.
 */
export function IncidentRows({ incidents, nowMs }: { incidents: readonly IncidentView[]; nowMs: number }): ReactNode {
  const called = useCalled();
  return (
    <div className="relative overflow-x-auto">
      <table className="w-full min-w-[720px] text-[14px]">
        <thead>
          <tr className="text-[13px] text-quiet">
            <th className="py-1 text-left font-normal">What</th>
            <th className="py-1 text-left font-normal">Where</th>
            {["When raised", "Furthest", "Limit", "Since", "Until", "Lasted"].map((title) => (
              <th key={title} className="px-3 py-1 text-right font-normal">
                {title}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {together(incidents).map(({ incident, isWithBefore }) => {
            const open = incident.clearedAtMs === null;
            return (
              <tr
                key={incident.id}
                className={isWithBefore ? "" : "border-t border-hairline"}
                data-incident={open ? "open" : "cleared"}
              >
                <th scope="row" className="py-1.5 text-left font-normal">
                  <span className="flex items-center gap-2">
                    {isWithBefore && (
                      <span aria-hidden="true" className="pl-1 text-quiet">
                        └
                      </span>
                    )}
                    <Signal
                      of={open ? "raised" : "quiet"}
                      severity={incident.severity}
                      label={open ? `${incident.severity}, raised` : "cleared"}
                    />
                    <SectionLink to={`/alerts/incidents/${incident.id}`} className="hover:underline">
                      {incident.ruleName}
                    </SectionLink>
                    <span className="text-[12.5px] text-quiet">{handled(incident, nowMs)}</span>
                  </span>
                </th>
                <td className="max-w-60 truncate py-1.5" title={incidentPlace(incident.tags, incident.compare)}>
                  {incidentPlace(withCalled(incident.tags, called), incident.compare)}
                </td>
                <td className={`figure ${cell}`}>{figureOf(incident, incident.value)}</td>
                <td className={`figure ${cell}`}>{figureOf(incident, incident.furthest)}</td>
                <td className={cell}>
                  {incident.compare === "failed" ? (
                    ""
                  ) : (
                    <>
                      {incident.compare} <span className="figure">{figureOf(incident, incident.limit)}</span>
                    </>
                  )}
                </td>
                <td className={`moment ${cell}`}>{momentText(incident.raisedAtMs, nowMs)}</td>
                <td className={incident.clearedAtMs === null ? cell : `moment ${cell}`}>
                  {incident.clearedAtMs === null ? "still raised" : momentText(incident.clearedAtMs, nowMs)}
                  {incident.ended === "gone" && <span className="font-sans text-quiet"> ended</span>}
                </td>
                <td className={cell}>{presentSpan((incident.clearedAtMs ?? nowMs) - incident.raisedAtMs)}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}

export function figureOf({ compare, watch, unit }: IncidentView, value: number | null): string {
  return compare === "failed" ? "" : gaugeText(compare === "silent" ? "silence" : watch, value, unit);
}

/** What has been done about it, in a word. */
export function handled(
  { acknowledgedBy, snoozedUntilMs, quietId, clearedAtMs, closedBy }: IncidentView,
  nowMs: number,
): string {
  if (clearedAtMs !== null) return closedBy === null ? "" : `closed by ${closedBy}`;
  if (quietId !== null) return "in a quiet time";
  if ((snoozedUntilMs ?? 0) > nowMs) return `snoozed until ${momentText(snoozedUntilMs ?? 0, nowMs)}`;
  return acknowledgedBy === null ? "" : `acknowledged by ${acknowledgedBy}`;
}

function together(
  incidents: readonly IncidentView[],
): readonly { readonly incident: IncidentView; readonly isWithBefore: boolean }[] {
  return incidents.map((incident, i) => {
    const before = incidents[i - 1];
    const machine = incident.tags["machine"];
    return {
      incident,
      isWithBefore:
        before !== undefined &&
        machine !== undefined &&
        before.tags["machine"] === machine &&
        Math.abs(before.raisedAtMs - incident.raisedAtMs) < togetherMs &&
        (before.clearedAtMs === null) === (incident.clearedAtMs === null),
    };
  });
}
