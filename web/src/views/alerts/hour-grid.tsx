import type { ReactNode } from "react";

const days = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"] as const;
const cellPx = 11;
const leftPx = 30;
const topPx = 14;

/** How often in each hour of the week, the more the darker. */
export function HourGrid({ counts }: { counts: readonly number[] }): ReactNode {
  const most = Math.max(1, ...counts);
  return (
    <figure className="shrink-0">
      <svg
        role="img"
        aria-label={`raised by hour of the week; most often ${busiest(counts)}`}
        width={leftPx + 24 * cellPx}
        height={topPx + 7 * cellPx}
        className="block"
      >
        {[0, 6, 12, 18].map((hour) => (
          <text key={hour} x={leftPx + hour * cellPx} y="10" fontSize="10" className="figure" fill="var(--quiet)">
            {String(hour).padStart(2, "0")}
          </text>
        ))}
        {days.map((day, d) => (
          <g key={day}>
            <text x="0" y={topPx + d * cellPx + 9} fontSize="10" fill="var(--quiet)">
              {day}
            </text>
            {Array.from({ length: 24 }, (_, hour) => {
              const count = counts[d * 24 + hour] ?? 0;
              return (
                <rect
                  // biome-ignore lint/suspicious/noArrayIndexKey: an hour is its place
                  key={hour}
                  x={leftPx + hour * cellPx}
                  y={topPx + d * cellPx}
                  width={cellPx - 1}
                  height={cellPx - 1}
                  fill={count === 0 ? "var(--wash)" : "var(--notice)"}
                  opacity={count === 0 ? 1 : 0.25 + (0.75 * count) / most}
                >
                  <title>{`${day} ${String(hour).padStart(2, "0")}:00, ${count} ×`}</title>
                </rect>
              );
            })}
          </g>
        ))}
      </svg>
      <figcaption className="pt-1 text-[12px] text-quiet">by hour of the week</figcaption>
    </figure>
  );
}

function busiest(counts: readonly number[]): string {
  const at = counts.reduce((best, count, i) => (count > (counts[best] ?? 0) ? i : best), 0);
  return `${days[Math.floor(at / 24)]} ${String(at % 24).padStart(2, "0")}:00`;
}
