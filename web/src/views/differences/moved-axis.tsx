import { type ReactNode, useRef } from "react";
import type { DifferenceView, RecordedInSpan } from "../../../../core/api/differences.ts";
import type { MachineEvent } from "../../../../core/events/machine-event.ts";
import type { IncidentView } from "../../../../core/rules/rule.ts";
import { exactClockTime, timeTicks } from "../../time/moments.ts";
import type { Span } from "../../time/time-window.ts";
import { useWidth } from "../../ui/use-width.ts";

interface MovedAxisProps {
  readonly span: Span;
  readonly entries: readonly DifferenceView[];
  readonly events: readonly MachineEvent[];
  readonly incidents: readonly IncidentView[];
  readonly recordings: readonly RecordedInSpan[];
}

const lane = 17;
const axisHeight = 22;

/** When each thing moved, with the events and incidents of the span, on one axis: the first above, the last below. */
export function MovedAxis({ span, entries, events, incidents, recordings }: MovedAxisProps): ReactNode {
  const place = useRef<HTMLDivElement>(null);
  const width = useWidth(place);
  const length = span.toMs - span.fromMs;
  const x = (ms: number) => (Math.min(span.toMs, Math.max(span.fromMs, ms)) - span.fromMs) * (width / length);
  const rows = [
    ...events.slice(0, 20).map(({ id, fromMs, toMs, text, kind, machine }) => ({
      key: `event ${id}`,
      fromMs,
      toMs,
      words: `${machine ? `${machine}: ` : ""}${text || kind}`,
      colour: "var(--quiet)",
    })),
    ...incidents.slice(0, 20).map(({ id, raisedAtMs, clearedAtMs, ruleName, severity }) => ({
      key: `incident ${id}`,
      fromMs: raisedAtMs,
      toMs: clearedAtMs ?? span.toMs,
      words: ruleName,
      colour: severity === "urgent" ? "var(--urgent)" : "var(--notice)",
    })),
    ...recordings.slice(0, 10).map(({ run, name, fromMs, toMs }) => ({
      key: `run ${run}`,
      fromMs,
      toMs: toMs ?? span.toMs,
      words: `recording ${name}`,
      colour: "var(--hairline)",
    })),
    ...entries.map(({ machine, subject, atMs }) => ({
      key: `moved ${machine} ${subject}`,
      fromMs: atMs,
      // When it was as usual again is not known.
      toMs: atMs,
      words: `${machine}, ${subject.toLowerCase()}`,
      colour: "var(--act)",
    })),
  ].sort((a, b) => a.fromMs - b.fromMs);
  const height = rows.length * lane + axisHeight;
  return (
    <div ref={place} data-moved-axis>
      {width > 0 && (
        <svg width={width} height={height} role="img" aria-label="When it moved, with what happened in the span">
          {rows.map(({ key, fromMs, toMs, words, colour }, i) => {
            const left = x(fromMs);
            const right = Math.max(left + 2, x(toMs));
            const isLate = left > width * 0.7;
            return (
              <g key={key} transform={`translate(0 ${i * lane})`}>
                <title>{`${words}, from ${exactClockTime(fromMs)}`}</title>
                <rect x={left} y={lane / 2 + 3} width={right - left} height="2" fill={colour} opacity="0.45" />
                <rect x={left} y={lane / 2 - 1} width="2" height="8" fill={colour} />
                <text
                  x={isLate ? left - 5 : left + 5}
                  y={lane / 2 + 1}
                  textAnchor={isLate ? "end" : "start"}
                  fontSize="11.5"
                  fill="var(--ink)"
                >
                  {words}
                </text>
              </g>
            );
          })}
          <line x1="0" x2={width} y1={height - axisHeight + 3.5} y2={height - axisHeight + 3.5} stroke="var(--quiet)" />
          {timeTicks(span.fromMs, span.toMs, Math.max(2, Math.floor(width / 110))).map(({ atMs, text }) => (
            <g key={atMs} transform={`translate(${x(atMs)} ${height - axisHeight + 3})`}>
              <line y2="4" stroke="var(--quiet)" />
              <text
                y="16"
                textAnchor={x(atMs) < 30 ? "start" : x(atMs) > width - 30 ? "end" : "middle"}
                fontSize="11"
                className="figure"
                fill="var(--quiet)"
              >
                {text}
              </text>
            </g>
          ))}
        </svg>
      )}
    </div>
  );
}
