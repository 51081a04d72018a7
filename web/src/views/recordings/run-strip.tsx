import { type ReactNode, useMemo } from "react";

const width = 240;
const height = 22;

/** A run as a strip: how its lines went together, each from its least to its most. Gaps stay empty. */
export function RunStrip({ strip }: { strip: readonly (number | null)[] }): ReactNode {
  const path = useMemo(() => areaPath(strip), [strip]);
  return (
    <svg
      aria-hidden="true"
      viewBox={`0 0 ${width} ${height}`}
      preserveAspectRatio="none"
      className="block h-[22px] w-full"
    >
      <path d={path} fill="var(--act)" opacity="0.5" />
      <line x1="0" x2={width} y1={height} y2={height} stroke="var(--hairline)" vectorEffect="non-scaling-stroke" />
    </svg>
  );
}

function areaPath(strip: readonly (number | null)[]): string {
  const step = width / Math.max(1, strip.length);
  return strip
    .map((value, i) =>
      value === null
        ? ""
        : `M${(i * step).toFixed(1)} ${height}v${(-value * height).toFixed(1)}h${step.toFixed(1)}V${height}z`,
    )
    .join("");
}
