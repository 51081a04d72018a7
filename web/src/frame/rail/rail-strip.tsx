import { type KeyboardEvent, type PointerEvent, type ReactNode, useEffect, useRef, useState } from "react";
import type { DensityView } from "../../../../core/api/readings.ts";
import type { MachineEvent } from "../../../../core/events/machine-event.ts";
import type { IncidentView } from "../../../../core/rules/rule.ts";
import { hair, useHair } from "../../charts/hair.ts";
import { useWidth } from "../../ui/use-width.ts";
import { exactClockTime } from "../../time/moments.ts";
import { RailBackdrop, railHeight, RailScale } from "./rail-backdrop.tsx";
import { RailEvents } from "./rail-events.tsx";
import { type Drag, dragged } from "../../time/dragged.ts";
import { pannedRail, type RailChoice, railLengths, zoomedRail } from "../../time/rail-stretch.ts";
import type { Span, TimeWindow } from "../../time/time-window.ts";

const height = railHeight;
const minBracketShare = 0.004;
const notch = 60;

interface RailStripProps {
  readonly rail: Span;
  readonly span: Span;
  readonly nowMs: number;
  readonly density: DensityView | undefined;
  readonly incidents: readonly IncidentView[];
  readonly events: readonly MachineEvent[];
  readonly onChange: (window: TimeWindow) => void;
  readonly onRail: (choice: RailChoice) => void;
}

/**
 * The long strip: how densely was gathered, incidents as bars, and two brackets that hold the window. Brackets and what
 * is between them can be dragged; elsewhere a new window is brushed.
 */
export function RailStrip({
  rail,
  span,
  nowMs,
  density,
  incidents,
  events,
  onChange,
  onRail,
}: RailStripProps): ReactNode {
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
  const roundNow = Math.ceil(nowMs / (length / 1000)) * (length / 1000);
  useEffect(() => {
    const place = strip.current as HTMLDivElement;
    // A wheel's listener must say that it takes the event, which React's do not. One notch of a wheel is one length.
    let turned = 0;
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      if (Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
        onRail(pannedRail(rail, event.deltaX / 1500, Date.now()));
        return;
      }
      turned += event.deltaY;
      if (Math.abs(turned) < notch) return;
      const box = place.getBoundingClientRect();
      onRail(
        zoomedRail(
          rail,
          rail.fromMs + ((event.clientX - box.left) / box.width) * (rail.toMs - rail.fromMs),
          turned < 0 ? -1 : 1,
          Date.now(),
        ),
      );
      turned = 0;
    };
    place.addEventListener("wheel", onWheel, { passive: false });
    return () => place.removeEventListener("wheel", onWheel);
  }, [rail, onRail]);
  const shown = drag ? dragged(span, drag, nowMs) : span;

  const begin = (kind: Drag["kind"]) => (event: PointerEvent) => {
    if (event.button !== 0) return;
    event.stopPropagation();
    strip.current?.setPointerCapture(event.pointerId);
    const at = timeAt(event.clientX);
    setDrag({ kind, startMs: at, atMs: at });
  };
  const finish = () => {
    if (drag && Math.abs(drag.atMs - drag.startMs) > length * 0.002)
      onChange({ kind: "fixed", ...rounded(dragged(span, drag, nowMs)) });
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
        <RailBackdrop rail={rail} nowMs={roundNow} density={density} incidents={incidents} />
        {hairMs !== null && hairMs >= rail.fromMs && hairMs <= rail.toMs && (
          <div
            className="pointer-events-none absolute inset-y-0 border-l border-dotted border-ink"
            style={{ left: `${share(hairMs) * 100}%` }}
          />
        )}
        <div
          className="absolute inset-y-0 cursor-grab bg-act/15"
          style={{ left: `${left * 100}%`, width: `${width * 100}%` }}
          onPointerDown={begin("move")}
        >
          {bracket("from")}
          {bracket("to")}
        </div>
        <RailEvents events={events} rail={rail} span={span} nowMs={nowMs} widthPx={stripWidth} onChange={onChange} />
      </div>
      <div className="figure absolute inset-x-0 bottom-0 h-4 overflow-hidden text-[11px] text-quiet">
        <RailScale rail={rail} widthPx={stripWidth} />
        <label className="absolute right-0 bg-paper pl-2 leading-4">
          rail:{" "}
          <select
            className="part !border-0 text-[11px]"
            aria-label="How much the rail shows"
            value={length}
            onChange={(event) => onRail({ lengthMs: Number(event.target.value), toMs: null })}
          >
            {railLengths.map(([words, ms]) => (
              <option key={ms} value={ms}>
                {words}
              </option>
            ))}
          </select>
        </label>
      </div>
    </div>
  );
}

const rounded = ({ fromMs, toMs }: Span): Span => ({ fromMs: Math.round(fromMs), toMs: Math.round(toMs) });
