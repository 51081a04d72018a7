import { type ReactNode, useMemo } from "react";
import type { Line } from "../../../core/reading/document.ts";
import type { Span } from "../time/time-window.ts";
import { useHair } from "./hair.ts";
import { bandPaths, type StripScale, stripWidth as width } from "./strip-paths.ts";

interface StripProps {
  readonly line: Line | undefined;
  readonly firstMs: number;
  readonly stepMs: number;
  readonly span: Span;
  /** From the bottom to the top of the third band: one for a whole column, so that rows compare. */
  readonly scale: StripScale;
  readonly height: number;
  readonly colour: string;
  /** From here on nothing came, although it should have; null where it does. */
  readonly blindFromMs?: number | null;
}

/**
 * A horizon strip: the line cut into three bands that are laid over one another, the higher the darker
 * (Heer, Kong & Agrawala, "Sizing the Horizon", CHI 2009). Gaps stay empty.
 */
export function Strip({
  line,
  firstMs,
  stepMs,
  span,
  scale: { least, most },
  height,
  colour,
  blindFromMs = null,
}: StripProps): ReactNode {
  const atMs = useHair();
  const paths = useMemo(
    () => (line ? bandPaths(line.values, firstMs, stepMs, span, { least, most }, height) : []),
    [line, firstMs, stepMs, span, least, most, height],
  );
  const hairAt = atMs === null ? -1 : ((atMs - span.fromMs) / (span.toMs - span.fromMs)) * width;
  const blindAt = blindFromMs === null ? width : ((blindFromMs - span.fromMs) / (span.toMs - span.fromMs)) * width;
  return (
    <svg
      aria-hidden="true"
      viewBox={`0 0 ${width} ${height}`}
      preserveAspectRatio="none"
      className="block w-full"
      style={{ height }}
    >
      {paths.map((path, band) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a band is its index
        <path key={band} d={path} fill={colour} opacity={[0.3, 0.45, 0.75][band]} />
      ))}
      {blindAt < width && (
        <path
          d={hatch(Math.max(0, blindAt), height)}
          stroke="var(--quiet)"
          strokeWidth="1"
          vectorEffect="non-scaling-stroke"
        />
      )}
      <line x1="0" x2={width} y1={height} y2={height} stroke="var(--hairline)" vectorEffect="non-scaling-stroke" />
      {hairAt >= 0 && hairAt <= width && (
        <line
          x1={hairAt}
          x2={hairAt}
          y1="0"
          y2={height}
          stroke="var(--ink)"
          strokeDasharray="1 2"
          vectorEffect="non-scaling-stroke"
        />
      )}
    </svg>
  );
}

/** Slanting lines from a place to the strip's end: nothing is known there. */
function hatch(from: number, height: number): string {
  let path = "";
  for (let x = from; x < width; x += 5)
    path += `M${x.toFixed(1)} ${height}l4 ${-height / 3}M${x.toFixed(1)} ${height * 0.62}l4 ${-height / 3}M${x.toFixed(1)} ${height * 0.24}l3 ${-height / 4}`;
  return path;
}
