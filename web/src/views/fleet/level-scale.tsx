import type { ReactNode } from "react";

const ticks = 10;
const fullFrom = 0.9;

/** How full something is, as a level on a graduated scale with a notch at nine tenths. */
export function LevelScale({ share, height }: { share: number | null; height: number }): ReactNode {
  return (
    <svg aria-hidden="true" viewBox="0 0 200 28" preserveAspectRatio="none" className="block w-full" style={{ height }}>
      {share !== null && (
        <rect
          x="0"
          y="8"
          width={200 * Math.min(1, Math.max(0, share))}
          height="11"
          fill={share >= fullFrom ? "var(--urgent)" : "var(--act)"}
        />
      )}
      <path
        d={`M0 22H200${Array.from({ length: ticks + 1 }, (_, i) => `M${(200 * i) / ticks} 22v${i % 5 === 0 ? 6 : 3}`).join("")}`}
        stroke="var(--quiet)"
        fill="none"
        vectorEffect="non-scaling-stroke"
      />
      <line
        x1={200 * fullFrom}
        x2={200 * fullFrom}
        y1="4"
        y2="22"
        stroke="var(--ink)"
        strokeWidth="1.5"
        vectorEffect="non-scaling-stroke"
      />
    </svg>
  );
}
