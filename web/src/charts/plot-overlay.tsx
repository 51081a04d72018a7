import { type PointerEvent, type ReactNode, useRef, useState } from "react";
import type { Severity } from "../../../core/rules/rule.ts";
import { Signal } from "../ui/signal.tsx";
import { clockTime } from "../time/moments.ts";
import { useTime } from "../time/time-provider.tsx";
import { brushed, type Span } from "../time/time-window.ts";
import type { MachineEvent } from "../../../core/events/machine-event.ts";
import { type NoteMark, PlotEvents } from "./plot-events.tsx";
import { hair, useHair } from "./hair.ts";

/** A moment marked on a chart. */
export interface Mark {
  readonly key: string;
  readonly atMs: number;
  readonly kind: "raised" | "cleared";
  readonly severity: Severity;
  readonly text: string;
}

export interface Limit {
  readonly key: string;
  readonly value: number;
  readonly text: string;
  readonly severity: Severity;
}

interface PlotOverlayProps {
  readonly span: Span;
  readonly height: number;
  readonly marks: readonly Mark[];
  readonly limits: readonly Limit[];
  readonly events: readonly MachineEvent[];
  /** Brushed with Shift held: a note is to be made of that span. A brush chooses a window without it. */
  readonly onNote?: ((span: Span) => void) | undefined;
  readonly noteMark?: NoteMark | undefined;
  /** Share of the height from the top at which a value stands. */
  readonly placeOf: (value: number) => number;
  /** Called while a limit is dragged, or moved by keys, with its new value; limits stay where they are without it. */
  readonly onLimit?: ((key: string, value: number) => void) | undefined;
}

/** What lies over a plot: the hair, limits, marks, and the brush that chooses a new window. */
export function PlotOverlay({
  span,
  height,
  marks,
  limits,
  events,
  placeOf,
  onNote,
  noteMark,
  onLimit,
}: PlotOverlayProps): ReactNode {
  const { change, nowMs } = useTime();
  const place = useRef<HTMLDivElement>(null);
  const [brush, setBrush] = useState<readonly [number, number] | null>(null);
  // What is brushed as the pointer has it: on a busy page the pointer may be released before its last move is drawn.
  const pressed = useRef<{ readonly part: readonly [number, number]; readonly noted: boolean } | null>(null);
  const atMs = useHair();
  const share = (ms: number) => (ms - span.fromMs) / (span.toMs - span.fromMs);
  const timeAt = (event: PointerEvent) => {
    const box = (place.current as HTMLDivElement).getBoundingClientRect();
    const x = Math.min(1, Math.max(0, (event.clientX - box.left) / box.width));
    return span.fromMs + x * (span.toMs - span.fromMs);
  };
  const wide = (part: readonly [number, number]) => Math.abs(share(part[1]) - share(part[0])) > 0.01;
  return (
    <div
      ref={place}
      data-plot
      className="absolute inset-0 cursor-crosshair touch-pan-y"
      onPointerDown={(event) => {
        if (event.button !== 0) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        const at = timeAt(event);
        pressed.current = { part: [at, at], noted: event.shiftKey };
        setBrush([at, at]);
      }}
      onPointerMove={(event) => {
        hair.point(timeAt(event));
        if (!pressed.current) return;
        pressed.current = { ...pressed.current, part: [pressed.current.part[0], timeAt(event)] };
        setBrush(pressed.current.part);
      }}
      onPointerUp={(event) => {
        if (!pressed.current) return;
        const { part, noted } = pressed.current;
        if ((noted || event.shiftKey) && onNote) onNote({ fromMs: Math.min(...part), toMs: Math.max(...part) });
        else if (wide(part)) change(brushed(part[0], part[1], nowMs));
        pressed.current = null;
        setBrush(null);
      }}
      onPointerCancel={() => {
        pressed.current = null;
        setBrush(null);
      }}
      onPointerLeave={() => hair.point(null)}
    >
      {brush && wide(brush) && (
        <div
          className="absolute inset-y-0 border-x border-act bg-act/15"
          style={{
            left: `${100 * Math.min(share(brush[0]), share(brush[1]))}%`,
            width: `${100 * Math.abs(share(brush[1]) - share(brush[0]))}%`,
          }}
        />
      )}
      {events.length > 0 && <PlotEvents events={events} span={span} noteMark={noteMark} />}
      {limits.map((limit) =>
        onLimit ? (
          <MovedLimit
            key={limit.key}
            limit={limit}
            height={height}
            placeOf={placeOf}
            onMove={(value) => onLimit(limit.key, value)}
          />
        ) : (
          <div
            key={limit.key}
            className="pointer-events-none absolute inset-x-0"
            style={{ top: placeOf(limit.value) * height, borderTop: `1px solid var(--${limit.severity})` }}
          />
        ),
      )}
      {marks
        .filter((mark) => share(mark.atMs) >= 0 && share(mark.atMs) <= 1)
        .map((mark) => (
          <div
            key={mark.key}
            data-mark={mark.kind}
            className="absolute top-0 bottom-0"
            style={{ left: `${100 * share(mark.atMs)}%` }}
            title={mark.text}
          >
            <div
              className={`absolute inset-y-0 border-l ${mark.kind === "raised" ? (mark.severity === "urgent" ? "border-urgent" : "border-notice") : "border-quiet border-dashed"}`}
            />
            <span className="absolute -top-1.5 -left-1.5">
              <Signal of={mark.kind === "raised" ? "raised" : "quiet"} severity={mark.severity} />
            </span>
            <span className="sr-only">{`${mark.text} ${clockTime(mark.atMs)}`}</span>
          </div>
        ))}
      {atMs !== null && atMs >= span.fromMs && atMs <= span.toMs && (
        <div
          className="pointer-events-none absolute inset-y-0 border-l border-dotted border-ink"
          style={{ left: `${100 * share(atMs)}%` }}
        />
      )}
    </div>
  );
}

const gripPx = 12;
const keyShare = 0.01;

/** A limit that is dragged up and down, or moved by the arrow keys. */
function MovedLimit({
  limit: { value, text, severity },
  height,
  placeOf,
  onMove,
}: {
  limit: Limit;
  height: number;
  placeOf: (value: number) => number;
  onMove: (value: number) => void;
}): ReactNode {
  const [from, setFrom] = useState<{
    readonly y: number;
    readonly value: number;
    readonly top: number;
    readonly perPx: number;
  } | null>(null);
  // Values lie evenly on the scale: two places tell how much a pixel is. It stays as it was when the drag began,
  // although the axis may grow with it.
  const perPx = (placeOf(1) - placeOf(0)) * height;
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-orientation="vertical"
      aria-label={`limit, ${severity}`}
      aria-valuenow={value}
      aria-valuetext={text}
      className="absolute inset-x-0 cursor-ns-resize"
      style={{ top: placeOf(value) * height - gripPx / 2, height: gripPx }}
      onPointerDown={(event) => {
        event.stopPropagation();
        event.currentTarget.setPointerCapture(event.pointerId);
        setFrom({ y: event.clientY, value, top: placeOf(value), perPx });
      }}
      onPointerMove={(event) => {
        if (from === null) return;
        event.stopPropagation();
        onMove(from.value + (event.clientY - from.y) / from.perPx);
      }}
      onPointerUp={(event) => {
        event.stopPropagation();
        setFrom(null);
      }}
      onPointerCancel={() => setFrom(null)}
      onKeyDown={(event) => {
        if (event.key !== "ArrowUp" && event.key !== "ArrowDown") return;
        event.preventDefault();
        onMove(value + ((event.key === "ArrowUp" ? -1 : 1) * (event.shiftKey ? 10 : 1) * keyShare * height) / perPx);
      }}
    >
      <div
        className="pointer-events-none absolute inset-x-0"
        style={{ top: gripPx / 2, borderTop: `2px solid var(--${severity})` }}
      />
    </div>
  );
}
