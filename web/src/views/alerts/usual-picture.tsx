import type { ReactNode } from "react";

const width = 220;
const height = 64;
const middle = 40;
/** A standard deviation, px. */
const deviation = 6;
const line = "M4 41L18 38L32 42L46 37L60 41L74 39L88 43L102 38L116 41L130 36L144 20L158 9L172 12L186 30L200 39L216 41";

/**
 * What is meant by the distance from the usual: the median of earlier days at this clock time, one standard deviation
 * on each side, and a limit of `limit` of them.
 */
export function UsualPicture({ limit }: { limit: number }): ReactNode {
  const limitY = Math.max(4, middle - limit * deviation);
  return (
    <figure className="my-2 flex flex-wrap items-center gap-x-4 leading-5 text-[13px] text-quiet">
      <svg
        role="img"
        aria-label={`a line that leaves the band of one standard deviation around its usual and passes a limit of ${limit}`}
        width={width}
        height={height}
        className="shrink-0"
      >
        <rect x="0" y={middle - deviation} width={width} height={2 * deviation} fill="var(--hairline)" />
        <path d={`M0 ${middle}H${width}`} stroke="var(--quiet)" strokeDasharray="4 3" />
        <path d={`M0 ${limitY}H${width}`} stroke="var(--notice)" />
        <path d={line} fill="none" stroke="var(--ink)" strokeWidth="1.6" />
      </svg>
      <figcaption className="max-w-xl">
        Usual is the median of this clock time on up to 28 earlier days. The band is one standard deviation on each
        side, estimated robustly (1.4826 median absolute deviations). Means of 40 minutes are compared; with less than
        ten days of past nothing is said.
      </figcaption>
    </figure>
  );
}
