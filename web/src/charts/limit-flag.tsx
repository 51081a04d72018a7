import { type ReactNode, useRef } from "react";
import { useWidth } from "../ui/use-width.ts";
import { fittingFlag } from "./fitting-flag.ts";
import type { Limit } from "./plot-overlay.tsx";

/** Beside a chart on a narrow screen there is about so much room, px. */
const usualPx = 140;

/** A small flag beside the plot that carries a limit's figure; its tip points at the limit's line. */
export function LimitFlag({ limit, top }: { limit: Limit; top: number }): ReactNode {
  const colour = limit.severity === "urgent" ? "var(--urgent)" : "var(--notice)";
  const place = useRef<HTMLSpanElement>(null);
  const roomPx = useWidth(place, usualPx);
  return (
    <span ref={place} className="absolute -left-2 right-0 flex h-4 items-stretch" style={{ top, color: colour }}>
      <svg aria-hidden="true" width="7" height="16" viewBox="0 0 7 16" className="shrink-0">
        <path d="M7 .5 1 8l6 7.5" fill="none" stroke={colour} />
      </svg>
      <span
        className="figure truncate border-y border-r pr-1 pl-0.5 text-[11px] leading-[14px] whitespace-nowrap"
        style={{ borderColor: colour }}
        title={limit.text}
      >
        {fittingFlag(limit.text, roomPx)}
      </span>
    </span>
  );
}
