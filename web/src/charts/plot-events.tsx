import { eventShape } from "../time/event-shapes.ts";
import { type ReactNode, useRef } from "react";
import type { MachineEvent } from "../../../core/events/machine-event.ts";
import { eventGroups } from "../time/event-groups.ts";
import { momentText } from "../time/moments.ts";
import type { Span } from "../time/time-window.ts";
import { useWidth } from "../ui/use-width.ts";

/** Draws the mark of notes that fall together; `words` tell them in short. */
export type NoteMark = (notes: readonly MachineEvent[], words: string) => ReactNode;

const mostTold = 6;

/**
 * Events over a chart: a fine line where something happened, a band where it lasted; its tip tells what. Notes of
 * people have a mark of their own where `noteMark` draws one, and are told before all else that falls together with them.
 */
export function PlotEvents({
  events,
  span,
  noteMark,
}: {
  events: readonly MachineEvent[];
  span: Span;
  noteMark?: NoteMark | undefined;
}): ReactNode {
  const place = useRef<HTMLDivElement>(null);
  const width = useWidth(place, 600);
  const length = span.toMs - span.fromMs;
  const share = (ms: number) => Math.min(1, Math.max(0, (ms - span.fromMs) / length));
  return (
    <div ref={place} className="pointer-events-none absolute inset-0">
      {eventGroups(events, span, width).map(({ fromMs, toMs, all }) => {
        const notes = all.filter(({ kind }) => kind === "note");
        const words = [...notes, ...all.filter(({ kind }) => kind !== "note")]
          .slice(0, mostTold)
          .map((event) => `${momentText(event.fromMs, span.toMs)}: ${event.text}`)
          .concat(all.length > mostTold ? `and ${all.length - mostTold} more` : [])
          .join("\n");
        const lasted = (share(toMs) - share(fromMs)) * width;
        return (
          <div
            key={`${fromMs} ${all.length}`}
            data-plot-event
            title={words}
            className="pointer-events-auto absolute inset-y-0 -ml-1 border-l-[4px] border-transparent"
            style={{ left: `${100 * share(fromMs)}%`, width: Math.max(8, lasted) }}
          >
            <div
              className={`absolute inset-y-0 left-0 border-l border-quiet/60 ${lasted > 2 ? "bg-quiet/10" : ""}`}
              style={{ width: lasted > 2 ? lasted : 1 }}
            />
            {notes.length > 0 && noteMark ? (
              noteMark(notes, words)
            ) : (
              <svg aria-hidden="true" width="8" height="8" viewBox="0 0 8 8" className="absolute -top-px -left-[4px]">
                <path d={eventShape(all).path} fill="var(--quiet)" />
              </svg>
            )}
            <span className="sr-only">{words}</span>
          </div>
        );
      })}
    </div>
  );
}
