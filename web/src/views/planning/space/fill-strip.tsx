import type { ReactNode } from "react";

const size = { width: 240, height: 26 };

/** Eight weeks of how full something was, a value a day, between empty and full; gaps stay empty. */
export function FillStrip({ strip, share }: { strip: readonly (number | null)[]; share: number }): ReactNode {
  if (strip.length === 0) return <span className="text-quiet">–</span>;
  const each = size.width / strip.length;
  return (
    <svg
      viewBox={`0 0 ${size.width} ${size.height}`}
      preserveAspectRatio="none"
      className="block h-[26px] w-full"
      role="img"
      aria-label={`${Math.round(share * 100)} % full now`}
    >
      <path d={`M0 0.5H${size.width}`} stroke="var(--hairline)" />
      <path d={`M0 ${size.height - 0.5}H${size.width}`} stroke="var(--hairline)" />
      {strip.map(
        (value, i) =>
          value !== null && (
            <rect
              // biome-ignore lint/suspicious/noArrayIndexKey: a day is its place
              key={i}
              x={i * each}
              y={size.height * (1 - Math.min(1, value))}
              width={each + 0.3}
              height={size.height * Math.min(1, value)}
              fill="var(--act)"
              opacity={value > 0.9 ? 0.85 : 0.5}
            />
          ),
      )}
    </svg>
  );
}
