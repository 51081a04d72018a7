import { Called } from "../../shared/machines/called.tsx";
import { type ReactNode, useRef } from "react";
import type { IncidentView } from "../../../../core/rules/rule.ts";
import { hair, useHair } from "../../charts/hair.ts";
import { timeTicks } from "../../time/moments.ts";
import type { Span } from "../../time/time-window.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { useWidth } from "../../ui/use-width.ts";
import { incidentText } from "../../../../core/rules/incident-text.ts";

const laneHeight = 22;

/** One lane a machine, incidents as bars on it: what happened together is seen together. */
export function IncidentLanes({
  incidents,
  span,
  nowMs,
}: {
  incidents: readonly IncidentView[];
  span: Span;
  nowMs: number;
}): ReactNode {
  const machines = [...new Set(incidents.map(({ tags }) => tags["machine"] ?? "all machines"))].sort();
  const atMs = useHair();
  const scale = useRef<HTMLDivElement>(null);
  const width = useWidth(scale, 1000);
  const share = (ms: number) => Math.min(1, Math.max(0, (ms - span.fromMs) / (span.toMs - span.fromMs)));
  return (
    <div className="grid grid-cols-[6rem_minmax(0,1fr)] py-3 sm:grid-cols-[9.5rem_minmax(0,1fr)]">
      {machines.map((machine) => (
        <div key={machine} className="contents">
          <span className="truncate pr-3 text-[13px] leading-[22px]">
            <Called machine={machine} />
          </span>
          <div
            role="group"
            aria-label={`Incidents of ${machine}: ${incidents.filter(({ tags }) => (tags["machine"] ?? "all machines") === machine).length}`}
            className="relative border-b border-hairline"
            style={{ height: laneHeight }}
            onPointerMove={(event) => {
              const box = event.currentTarget.getBoundingClientRect();
              hair.point(span.fromMs + ((event.clientX - box.left) / box.width) * (span.toMs - span.fromMs));
            }}
            onPointerLeave={() => hair.point(null)}
          >
            {incidents
              .filter(({ tags }) => (tags["machine"] ?? "all machines") === machine)
              .map((incident) => {
                const from = share(incident.raisedAtMs);
                const urgent = incident.severity === "urgent";
                return (
                  <SectionLink
                    key={incident.id}
                    to={`/alerts/incidents/${incident.id}`}
                    aria-label={incidentText(incident, incident.clearedAtMs === null ? "raised" : "cleared")}
                    title={incidentText(incident, incident.clearedAtMs === null ? "raised" : "cleared")}
                    className={`absolute top-1 h-3.5 min-w-1 border ${urgent ? "border-double border-[3px] border-urgent bg-urgent/40" : "border-notice bg-notice/40"}`}
                    style={{ left: `${from * 100}%`, width: `${(share(incident.clearedAtMs ?? nowMs) - from) * 100}%` }}
                  />
                );
              })}
            {atMs !== null && share(atMs) > 0 && share(atMs) < 1 && (
              <span
                className="pointer-events-none absolute inset-y-0 border-l border-dotted border-ink"
                style={{ left: `${share(atMs) * 100}%` }}
              />
            )}
          </div>
        </div>
      ))}
      <span />
      <div ref={scale} aria-hidden="true" className="figure relative h-4 overflow-hidden text-[11px] text-quiet">
        {timeTicks(span.fromMs, span.toMs, Math.max(2, Math.floor(width / 100)))
          .filter((tick) => share(tick.atMs) * width < width - 60)
          .map((tick) => (
            <span
              key={tick.atMs}
              className="absolute border-l border-quiet pl-1 leading-4 whitespace-nowrap"
              style={{ left: `${share(tick.atMs) * 100}%` }}
            >
              {tick.text}
            </span>
          ))}
      </div>
    </div>
  );
}
