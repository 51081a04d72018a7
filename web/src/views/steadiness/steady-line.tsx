import { type KeyboardEvent, type ReactNode, useRef } from "react";
import type { SteadyDay } from "../../../../core/steadiness/steadiness.ts";
import { dayWithName } from "../../time/moments.ts";
import { useWidth } from "../../ui/use-width.ts";

const height = 44;
const edge = 5;

interface SteadyLineProps {
  readonly days: readonly SteadyDay[];
  readonly chosen: number | null;
  readonly onChoose: (day: number | null) => void;
}

/** A line of days from 0 to 100 with a mark where something took points; a day is chosen by pointing or by arrows. */
export function SteadyLine({ days, chosen, onChoose }: SteadyLineProps): ReactNode {
  const place = useRef<HTMLDivElement>(null);
  const width = useWidth(place);
  const x = (i: number) => edge + (i / Math.max(1, days.length - 1)) * (width - 2 * edge);
  const y = (value: number) => edge + (1 - value / 100) * (height - 2 * edge);
  const nearest = (clientX: number) => {
    const left = place.current?.getBoundingClientRect().left ?? 0;
    const share = (clientX - left - edge) / Math.max(1, width - 2 * edge);
    return Math.max(0, Math.min(days.length - 1, Math.round(share * (days.length - 1))));
  };
  const key = (event: KeyboardEvent) => {
    const at = chosen ?? days.length - 1;
    if (event.key === "ArrowLeft") onChoose(Math.max(0, at - 1));
    else if (event.key === "ArrowRight") onChoose(Math.min(days.length - 1, at + 1));
    else if (event.key === "Escape") onChoose(null);
    else return;
    event.preventDefault();
  };
  const day = chosen === null ? undefined : days[chosen];
  return (
    <div
      ref={place}
      role="slider"
      tabIndex={0}
      aria-label="steadiness by day"
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={day?.value ?? days.at(-1)?.value ?? 100}
      aria-valuetext={day ? `${dayWithName(day.day)}: ${day.value}` : "no day chosen"}
      onKeyDown={key}
      onClick={(event) => onChoose(nearest(event.clientX))}
      className="cursor-pointer"
    >
      {width > 0 && (
        <svg width={width} height={height} aria-hidden="true">
          <line x1={edge} x2={width - edge} y1={y(100)} y2={y(100)} stroke="var(--hairline)" />
          <polyline
            points={days.map(({ value }, i) => `${x(i)},${y(value)}`).join(" ")}
            fill="none"
            stroke="var(--act)"
            strokeWidth="1.5"
          />
          {days.map(({ day: at, value, dips }, i) =>
            dips.length === 0 ? null : (
              <rect
                key={at}
                x={x(i) - 2.5}
                y={y(value) - 2.5}
                width="5"
                height="5"
                fill={dips.some(({ points }) => points >= 10) ? "var(--urgent)" : "var(--notice)"}
              />
            ),
          )}
          {chosen !== null && (
            <line x1={x(chosen)} x2={x(chosen)} y1="0" y2={height} stroke="var(--ink)" strokeWidth="1" />
          )}
        </svg>
      )}
    </div>
  );
}
