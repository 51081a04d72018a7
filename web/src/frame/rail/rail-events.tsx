import { eventShape } from "../../time/event-shapes.ts";
import { memo, type ReactNode } from "react";
import type { MachineEvent } from "../../../../core/events/machine-event.ts";
import { momentText } from "../../time/moments.ts";
import { eventGroups } from "../../time/event-groups.ts";
import type { Span, TimeWindow } from "../../time/time-window.ts";

interface RailEventsProps {
  readonly events: readonly MachineEvent[];
  readonly rail: Span;
  readonly span: Span;
  readonly nowMs: number;
  readonly widthPx: number;
  readonly onChange: (window: TimeWindow) => void;
}

/**
 * Events as ticks on the rail: pointing tells what happened, choosing one goes there with a window of the same length.
 */
export const RailEvents = memo(function RailEvents({
  events,
  rail,
  span,
  nowMs,
  widthPx,
  onChange,
}: RailEventsProps): ReactNode {
  const length = rail.toMs - rail.fromMs;
  const half = (span.toMs - span.fromMs) / 2;
  return eventGroups(events, rail, widthPx).map(({ fromMs, toMs, all }) => {
    const shape = eventShape(all);
    const words = `${all.length > 1 ? `${all.length} events\n` : ""}${all
      .slice(0, 5)
      .map((event) => `${momentText(event.fromMs, nowMs)}: ${event.text}${event.machine ? ` (${event.machine})` : ""}`)
      .join("\n")}${all.length > 5 ? `\nand ${all.length - 5} more` : ""}`;
    const go = () => {
      const middle = Math.min(nowMs - half, (fromMs + toMs) / 2);
      onChange({ kind: "fixed", fromMs: Math.round(middle - half), toMs: Math.round(middle + half) });
    };
    return (
      <button
        key={`${fromMs} ${all.length}`}
        type="button"
        data-event
        title={words}
        aria-label={`${shape.words}: ${words}`}
        className="absolute top-0 h-3 w-2.5 -translate-x-1/2 cursor-pointer"
        style={{ left: `${((fromMs - rail.fromMs) / length) * 100}%` }}
        onPointerDown={(event) => event.stopPropagation()}
        onClick={go}
      >
        <svg aria-hidden="true" width="8" height="8" viewBox="0 0 8 8" className="mx-auto block">
          <path d={shape.path} fill="var(--ink)" />
        </svg>
      </button>
    );
  });
});
