import { type KeyboardEvent, type PointerEvent, type ReactNode, useRef, useState } from "react";
import type { DensityView, MachineEvent } from "../../../core/api/views.ts";
import type { IncidentView } from "../../../core/rules/rule.ts";
import { hair, useHair } from "../charts/hair.ts";
import { useWidth } from "../ui/use-width.ts";
import { exactClockTime, spanText, timeTicks } from "./moments.ts";
import { RailEvents } from "./rail-events.tsx";
import { type Drag, dragged } from "./dragged.ts";
import type { Span, TimeWindow } from "./time-window.ts";

const height = 34;
const top = 9;
const minBracketShare = 0.004;

interface RailStripProps {
  readonly rail: Span;
  readonly span: Span;
  readonly nowMs: number;
  readonly density: DensityView | undefined;
  readonly incidents: readonly IncidentView[];
  readonly events: readonly MachineEvent[];
  readonly onChange: (window: TimeWindow) => void;
}

/** The long strip: how densely was gathered, incidents as bars, and two brackets that hold the window. Brackets and what is between them can be dragged; elsewhere a new window is brushed. */
export function RailStrip({ rail, span, nowMs, density, incidents, events, onChange }: RailStripProps): ReactNode {
  const strip = useRef<HTMLDivElement>(null);
  const [drag, setDrag] = useState<Drag | null>(null);
  const hairMs = useHair();
  const stripWidth = useWidth(strip);
  const length = rail.toMs - rail.fromMs;
  const share = (ms: number) => (ms - rail.fromMs) / length;
  const timeAt = (clientX: number) => {
    const box = (strip.current as HTMLDivElement).getBoundingClientRect();
    return rail.fromMs + Math.min(1, Math.max(0, (clientX - box.left) / box.width)) * length;
  };
  const shown = drag ? dragged(span, drag, nowMs) : span;

  const begin = (kind: Drag["kind"]) => (event: PointerEvent) => {
    if (event.button !== 0) return;
    event.stopPropagation();
    strip.current?.setPointerCapture(event.pointerId);
    const at = timeAt(event.clientX);
    setDrag({ kind, startMs: at, atMs: at });
  };
  const finish = () => {
    if (drag && Math.abs(drag.atMs - drag.startMs) > length * 0.002) onChange({ kind: "fixed", ...rounded(dragged(span, drag, nowMs)) });
    setDrag(null);
  };
  const nudge = (kind: "from" | "to") => (event: KeyboardEvent) => {
    const step = (span.toMs - span.fromMs) / (event.shiftKey ? 2 : 10);
    const by = event.key === "ArrowLeft" ? -step : event.key === "ArrowRight" ? step : 0;
    if (by === 0) return;
    event.preventDefault();
    onChange({ kind: "fixed", ...rounded(dragged(span, { kind, startMs: 0, atMs: by }, nowMs)) });
  };
  const bracket = (kind: "from" | "to") => (
    <div
      role="slider"
      tabIndex={0}
      aria-label={kind === "from" ? "Start of the window" : "End of the window"}
      aria-valuemin={Math.round(rail.fromMs / 1000)}
      aria-valuemax={Math.round(rail.toMs / 1000)}
      aria-valuenow={Math.round((kind === "from" ? shown.fromMs : shown.toMs) / 1000)}
      aria-valuetext={exactClockTime(kind === "from" ? shown.fromMs : shown.toMs)}
      onPointerDown={begin(kind)}
      onKeyDown={nudge(kind)}
      className={`absolute inset-y-0 w-2.5 cursor-ew-resize border-y-2 border-act ${kind === "from" ? "left-0 -ml-1 border-l-[3px]" : "right-0 -mr-1 border-r-[3px]"}`}
    />
  );
  const left = share(shown.fromMs);
  const width = Math.max(minBracketShare, share(shown.toMs) - left);
  return (
    <div className="relative select-none" style={{ height: height + 16 }}>
      <div
        ref={strip}
        data-rail
        className="absolute inset-x-0 top-0 cursor-crosshair touch-none overflow-hidden"
        style={{ height }}
        onPointerDown={begin("brush")}
        onPointerMove={(event) => {
          hair.point(timeAt(event.clientX));
          if (drag) setDrag({ ...drag, atMs: timeAt(event.clientX) });
        }}
        onPointerUp={finish}
        onPointerCancel={() => setDrag(null)}
        onPointerLeave={() => hair.point(null)}
      >
        <svg width="100%" height={height} viewBox={`0 0 1000 ${height}`} preserveAspectRatio="none" role="img" aria-label={railLabel(rail, density, incidents)}>
          <path d={densityPath(density, rail)} fill="var(--density)" />
          <line x1="0" x2="1000" y1={height - 0.5} y2={height - 0.5} stroke="var(--quiet)" vectorEffect="non-scaling-stroke" />
          {incidents.map((incident) => {
            const x = share(incident.raisedAtMs) * 1000;
            const end = share(incident.clearedAtMs ?? nowMs) * 1000;
            return <rect key={incident.id} x={x} width={Math.max(2, end - x)} y="2" height="4" fill={incident.severity === "urgent" ? "var(--urgent)" : "var(--notice)"} />;
          })}
          {hairMs !== null && <line x1={share(hairMs) * 1000} x2={share(hairMs) * 1000} y1="0" y2={height} stroke="var(--ink)" strokeDasharray="1 2" vectorEffect="non-scaling-stroke" />}
        </svg>
        <div className="absolute inset-y-0 cursor-grab bg-act/15" style={{ left: `${left * 100}%`, width: `${width * 100}%` }} onPointerDown={begin("move")}>
          {bracket("from")}
          {bracket("to")}
        </div>
        <RailEvents events={events} rail={rail} span={span} nowMs={nowMs} widthPx={stripWidth} onChange={onChange} />
      </div>
      <div aria-hidden="true" className="figure absolute inset-x-0 bottom-0 h-4 overflow-hidden text-[11px] text-quiet">
        {timeTicks(rail.fromMs, rail.toMs, Math.max(2, Math.floor(stripWidth / 100))).filter(({ atMs }) => share(atMs) * stripWidth < stripWidth - 60).map(({ atMs, text }) => (
          <span key={atMs} className="absolute whitespace-nowrap border-l border-quiet pl-1 leading-4" style={{ left: `${share(atMs) * 100}%` }}>{text}</span>
        ))}
      </div>
    </div>
  );
}

const rounded = ({ fromMs, toMs }: Span): Span => ({ fromMs: Math.round(fromMs), toMs: Math.round(toMs) });

function densityPath(density: DensityView | undefined, rail: Span): string {
  if (!density) return "";
  const most = Math.max(1, ...density.counts);
  const scale = 1000 / (rail.toMs - rail.fromMs);
  let path = "";
  density.counts.forEach((count, i) => {
    if (count === 0) return;
    const x = (density.from + i * density.stepMs - rail.fromMs) * scale;
    const y = height - 2 - (height - top - 2) * (0.25 + 0.75 * (count / most));
    path += `M${x.toFixed(1)} ${height}V${y.toFixed(1)}h${(density.stepMs * scale + 0.3).toFixed(1)}V${height}z`;
  });
  return path;
}

function railLabel(rail: Span, density: DensityView | undefined, incidents: readonly IncidentView[]): string {
  const { day, from, to } = spanText(rail.fromMs, rail.toMs);
  const filled = density ? density.counts.filter((count) => count > 0).length / density.counts.length : 0;
  return `What was gathered from ${day} ${from} to ${to}: ${Math.round(filled * 100)} % of the time; ${incidents.length} incidents`;
}
