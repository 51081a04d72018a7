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
    const words = `${all
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
        aria-label={words}
        className="absolute top-0 h-3 w-2.5 -translate-x-1/2 cursor-pointer"
        style={{ left: `${((fromMs - rail.fromMs) / length) * 100}%` }}
        onPointerDown={(event) => event.stopPropagation()}
        onClick={go}
      >
        <span className="mx-auto block h-2.5 w-0.5 bg-ink" />
      </button>
    );
  });
});
