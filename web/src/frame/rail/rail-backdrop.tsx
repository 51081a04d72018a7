import { memo, type ReactNode } from "react";
import type { DensityView } from "../../../../core/api/readings.ts";
import type { IncidentView } from "../../../../core/rules/rule.ts";
import { momentText, spanText, timeTicks } from "../../time/moments.ts";
import type { Span } from "../../time/time-window.ts";

export const railHeight = 34;
const top = 9;

interface RailBackdropProps {
  readonly rail: Span;
  /** To the rail's grain, so that it is not drawn anew each second. */
  readonly nowMs: number;
  readonly density: DensityView | undefined;
  readonly incidents: readonly IncidentView[];
}

/**
 * What the rail carries: how densely was gathered, with gaps as gaps, and incidents as bars. It is not drawn anew while
 * brackets are dragged.
 */
export const RailBackdrop = memo(function RailBackdrop({
  rail,
  nowMs,
  density,
  incidents,
}: RailBackdropProps): ReactNode {
  const share = (ms: number) => (ms - rail.fromMs) / (rail.toMs - rail.fromMs);
  return (
    <svg
      width="100%"
      height={railHeight}
      viewBox={`0 0 1000 ${railHeight}`}
      preserveAspectRatio="none"
      role="img"
      aria-label={railLabel(rail, density, incidents)}
    >
      <path d={densityPath(density, rail)} fill="var(--density)" />
      <line
        x1="0"
        x2="1000"
        y1={railHeight - 0.5}
        y2={railHeight - 0.5}
        stroke="var(--quiet)"
        vectorEffect="non-scaling-stroke"
      />
      {incidents.map((incident) => {
        const x = share(incident.raisedAtMs) * 1000;
        const end = share(incident.clearedAtMs ?? nowMs) * 1000;
        return (
          <rect
            key={incident.id}
            data-incident-bar
            x={x}
            width={Math.max(2, end - x)}
            y="2"
            height="4"
            fill={incident.severity === "urgent" ? "var(--urgent)" : "var(--notice)"}
          >
            <title>{`${incident.ruleName}: ${momentText(incident.raisedAtMs, nowMs)}`}</title>
          </rect>
        );
      })}
    </svg>
  );
});

/** The rail's own scale of time. */
export const RailScale = memo(function RailScale({ rail, widthPx }: { rail: Span; widthPx: number }): ReactNode {
  const share = (ms: number) => (ms - rail.fromMs) / (rail.toMs - rail.fromMs);
  const ticks = timeTicks(rail.fromMs, rail.toMs, Math.max(2, Math.floor(widthPx / 100)));
  return ticks
    .filter(({ atMs }) => share(atMs) * widthPx < widthPx - 130)
    .map(({ atMs, text }) => (
      <span
        key={atMs}
        aria-hidden="true"
        className="absolute whitespace-nowrap border-l border-quiet pl-1 leading-4"
        style={{ left: `${share(atMs) * 100}%` }}
      >
        {text}
      </span>
    ));
});

function densityPath(density: DensityView | undefined, rail: Span): string {
  if (!density) return "";
  const most = Math.max(1, ...density.counts);
  const scale = 1000 / (rail.toMs - rail.fromMs);
  let path = "";
  density.counts.forEach((count, i) => {
    if (count === 0) return;
    const x = (density.from + i * density.stepMs - rail.fromMs) * scale;
    const y = railHeight - 2 - (railHeight - top - 2) * (0.25 + 0.75 * (count / most));
    path += `M${x.toFixed(1)} ${railHeight}V${y.toFixed(1)}h${(density.stepMs * scale + 0.3).toFixed(1)}V${railHeight}z`;
  });
  return path;
}

function railLabel(rail: Span, density: DensityView | undefined, incidents: readonly IncidentView[]): string {
  const { day, from, to } = spanText(rail.fromMs, rail.toMs);
  const filled = density ? density.counts.filter((count) => count > 0).length / density.counts.length : 0;
  return `What was gathered from ${day} ${from} to ${to}: ${Math.round(filled * 100)} % of the time; ${incidents.length} incidents`;
}
